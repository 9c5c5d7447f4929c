#include <QtTest>

#include "app/document/placing.h"
#include "core/piece/edit.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

/// The geometry of direct placement, held against the maps it stands for.
class TestPlacing : public QObject {
    Q_OBJECT
    Scene scene_ = scene_of(piece_json(
        400, 300,
        R"({"id": "a", "source": {"kind": "rectangle", "width": 80, "height": 40}, "placement": {"x": 120, "y": 100, "turn": 30}},
        {"id": "b", "source": {"kind": "ellipse", "width": 60, "height": 60}, "placement": {"x": 300, "y": 200}},
        {"id": "g", "source": {"kind": "group"}, "placement": {"x": 210, "y": 140, "turn": -20, "scale_u": 1.5, "scale_v": 1.5}, "elements": [{"id": "c", "source": {"kind": "rectangle", "width": 50, "height": 20}, "placement": {"x": 230, "y": 150, "turn": 10}}]})"));

    Affine seen(const std::string& id, const Placement& p) const {
        return parent_placed(*scene_.piece, id)->to_device * p.matrix();
    }

  private slots:
    void a_single_frame_turns_with_its_element() {
        const Placing p = placing_of(scene_, {"a"});
        QVERIFY(p.single);
        const Vec2 corner = (Affine::translation(120, 100) * Affine::turning(30))({-40, -20});
        QVERIFY(length(p.handle(0, 0) - corner) < 1e-6);
        QVERIFY(std::abs(length(p.handle(8, 15) - p.centre()) - 35) < 1e-6);
    }

    void moving_is_in_canvas_px_also_within_groups() {
        for (const char* id : {"a", "c", "g"}) {
            const Placing p = placing_of(scene_, {id});
            const Placement after = moved(p, {17, -9})[0];
            const Affine was = seen(id, p.parts[0].placement), now = seen(id, after);
            for (const Vec2 q : {Vec2{0, 0}, {10, 5}})
                QVERIFY2(length(now(q) - (was(q) + Vec2{17, -9})) < 1e-3, id);
        }
    }

    void turning_keeps_the_pivot_and_the_size() {
        for (const char* id : {"a", "c"}) {
            const Placing p = placing_of(scene_, {id});
            const Vec2 pivot{50, 220};
            const Placement after = turned(p, 40, pivot)[0];
            const Affine was = seen(id, p.parts[0].placement), now = seen(id, after);
            const Affine turn = Affine::translation(pivot.x, pivot.y) * Affine::turning(40) *
                                Affine::translation(-pivot.x, -pivot.y);
            for (const Vec2 q : {Vec2{0, 0}, {10, 5}, {-20, 3}})
                QVERIFY(length(now(q) - turn(was(q))) < 1e-3);
            QVERIFY(std::abs(after.scale_u - p.parts[0].placement.scale_u) < 1e-5);
        }
    }

    void a_corner_follows_the_hand_and_the_opposite_one_stays() {
        const Placing p = placing_of(scene_, {"a"});
        const Vec2 fixed = p.handle(0, 0), to = p.handle(4, 0) + Vec2{20, 14};
        const auto after = [&](const std::vector<Placement>& placements) {
            Piece changed = *scene_.piece;
            change(changed, "a", [&](Element& e) { e.placement = placements[0]; });
            return placing_of({std::make_shared<const Piece>(changed), scene_.assets}, {"a"});
        };
        const Placing free = after(scaled(p, 4, to, false, false));
        QVERIFY(length(free.handle(4, 0) - to) < 1e-3);
        QVERIFY(length(free.handle(0, 0) - fixed) < 1e-3);
        const Placing locked = after(scaled(p, 4, to, true, false));
        QVERIFY(length(locked.handle(0, 0) - fixed) < 1e-3);
        QVERIFY(std::abs(locked.parts[0].placement.scale_u - locked.parts[0].placement.scale_v) < 1e-5);
        const Placing about = after(scaled(p, 3, p.handle(3, 0) + Vec2{8, -4}, false, true));
        QVERIFY(length(about.centre() - p.centre()) < 1e-3);
        QCOMPARE(about.parts[0].placement.scale_v, 1.0f);
        // Dragged through the fixed corner it mirrors rather than vanishes.
        const Placing through =
            after(scaled(p, 3, p.handle(7, 0) + (p.handle(7, 0) - p.handle(3, 0)), false, false));
        QVERIFY(std::abs(through.parts[0].placement.scale_u + 1) < 1e-3 ||
                std::abs(through.parts[0].placement.turn - 30) > 170);
    }

    void flipping_twice_is_nothing() {
        for (const std::vector<std::string>& ids : {std::vector<std::string>{"a"}, {"a", "b"}}) {
            Piece piece = *scene_.piece;
            for (int i = 0; i < 2; ++i) {
                const Placing p = placing_of({std::make_shared<const Piece>(piece), scene_.assets}, ids);
                const auto out = flipped(p, true);
                for (std::size_t k = 0; k < out.size(); ++k)
                    change(piece, ids[k], [&](Element& e) { e.placement = out[k]; });
            }
            for (const std::string& id : ids) {
                const Affine was = find_element(scene_.piece->elements, id)->placement.matrix(),
                             now = find_element(piece.elements, id)->placement.matrix();
                for (const Vec2 q : {Vec2{0, 0}, {10, 5}}) QVERIFY(length(was(q) - now(q)) < 1e-3);
            }
        }
    }

    void aligning_moves_each_by_its_own_extent() {
        const Placing p = placing_of(scene_, {"a", "b"});
        std::vector<Box> extents;
        for (const auto& part : p.parts) extents.push_back(placing_of(scene_, {part.id}).bounds());
        const auto out = aligned(p, extents, p.bounds(), AlignTo::left);
        QVERIFY(std::abs((extents[0].x0 + out[0].x - 120) - p.bounds().x0) < 1e-3);
        QVERIFY(std::abs((extents[1].x0 + out[1].x - 300) - p.bounds().x0) < 1e-3);
        QCOMPARE(out[1].y, 200.0f);
    }
};
BATHYLUX_TEST(TestPlacing)
#include "test_placing.moc"
