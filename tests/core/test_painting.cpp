#include <QtTest>

#include "core/make/pattern.h"
#include "core/paint/brush.h"
#include "core/paint/paint_source.h"
#include "core/piece/edit.h"
#include "core/relief/by_hand.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

Brush hard(BrushWork work, float size, float height) {
    Brush b;
    b.work = work, b.size = size, b.height = height, b.hardness = 1, b.flow = 1;
    return b;
}

} // namespace

class TestPainting : public QObject {
    Q_OBJECT
  private slots:
    void a_dab_is_a_disc_and_touches_nothing_else() {
        Painting p;
        const Region r = dab(p, hard(BrushWork::raise, 40, 3), {100, 70}, 1, {}, 0);
        QVERIFY(r.width() <= 42 && r.height() <= 42);
        for (int y = 30; y < 110; ++y)
            for (int x = 60; x < 140; ++x) {
                const double d = std::hypot(x + 0.5 - 100, y + 0.5 - 70);
                if (std::abs(d - 20) > 1e-9) QCOMPARE(p.height(x, y), d < 20 ? 3.0f : 0.0f);
            }
        QCOMPARE(p.tiles(), std::size_t{2}); // 80 … 120 × 50 … 90
    }

    void copies_keep_what_they_had_and_share_the_rest() {
        Painting first;
        for (int i = 0; i < 20; ++i) dab(first, hard(BrushWork::raise, 60, 1), {64.0 * i, 30}, 1, {}, 0);
        const Painting before = first;
        dab(first, hard(BrushWork::lower, 20, 2), {330, 30}, 1, {}, 0);
        QCOMPARE(before.height(330, 30), 1.0f);
        QCOMPARE(first.height(330, 30), -1.0f);
        QVERIFY(before.hash() != first.hash());
        int shared = 0, own = 0;
        for (int t = -1; t < 21; ++t)
            for (int s = 0; s < 2; ++s)
                if (first.tile(t, s)) (first.tile(t, s) == before.tile(t, s) ? shared : own) += 1;
        QCOMPARE(own, 1); // the tile that was touched, and no other
        QVERIFY(shared > 15);
    }

    void a_stroke_lays_its_dabs_evenly() {
        // Constant flow along a line gives constant height, whatever the steps of the hand.
        Brush b;
        b.size = 40, b.hardness = 0, b.flow = 0.2f, b.height = 1, b.spacing = 0.05f;
        BrushStroke coarse(Painting(), b, {}), fine(Painting(), b, {});
        coarse.to({50, 50}, 1);
        coarse.to({350, 50}, 1);
        for (int x = 50; x <= 350; x += 3) fine.to({double(x), 50}, 1);
        for (int x = 100; x < 300; ++x) {
            QVERIFY(std::abs(coarse.painting().height(x, 50) - coarse.painting().height(200, 50)) < 0.02);
            QVERIFY(std::abs(coarse.painting().height(x, 50) - fine.painting().height(x, 50)) < 0.02);
        }
    }

    void mirrors_the_ceiling_and_the_pen() {
        Brush b = hard(BrushWork::raise, 20, 5);
        b.ceiling = 8;
        BrushStroke s(Painting(), b, {}, {100.0, {}});
        s.to({60, 40}, 1);
        s.to({66, 40}, 1); // twice over the middle: would be 15
        QCOMPARE(s.painting().height(62, 40), 8.0f);
        QCOMPARE(s.painting().height(137, 40), 8.0f); // the other side of x = 100
        Painting light;
        dab(light, hard(BrushWork::raise, 20, 5), {10, 10}, 0.25f, {}, 0);
        QCOMPARE(light.height(10, 10), 1.25f);
    }

    void brushes_that_look_see_the_ground() {
        const Ground slope = [](int x, int y) {
            return 0.5f * static_cast<float>(x) + 0.1f * static_cast<float>(y);
        };
        // Level: to the height first touched.
        BrushStroke level(Painting(), hard(BrushWork::level, 30, 1), slope);
        level.to({20.5, 20.5}, 1);
        level.to({60.5, 20.5}, 1);
        QVERIFY(std::abs(level.painting().height(60, 20) + slope(60, 20) - slope(20, 20)) < 1e-3);
        // Flatten finds the slope's own plane and leaves it; a bump on it goes.
        Painting flat;
        dab(flat, hard(BrushWork::flatten, 30, 1), {40.5, 40.5}, 1, slope, 0);
        for (int x = 30; x < 50; ++x) QVERIFY(std::abs(flat.height(x, 40)) < 1e-3);
        dab(flat, hard(BrushWork::raise, 6, 4), {40.5, 40.5}, 1, {}, 0);
        dab(flat, hard(BrushWork::flatten, 60, 1), {40.5, 40.5}, 1, slope, 0);
        QVERIFY(std::abs(flat.height(40, 40)) < 0.1);
        // Smooth keeps a slope and takes a spike down.
        Painting spike;
        dab(spike, hard(BrushWork::raise, 3, 9), {40.5, 40.5}, 1, {}, 0);
        dab(spike, hard(BrushWork::smooth, 40, 1), {40.5, 40.5}, 1, slope, 0);
        QVERIFY(spike.height(40, 40) < 2.5);
        QVERIFY(std::abs(spike.height(32, 36)) < 0.05);
    }

    void patterns_hiding_and_revealing() {
        Brush b = hard(BrushWork::pattern, 50, 6);
        b.pattern.motif = Motif::rivets, b.pattern.size = 16;
        Painting p;
        dab(p, b, {40, 40}, 1, {}, 0);
        for (int x = 25; x < 55; ++x)
            QVERIFY(std::abs(p.height(x, 40) - 6 * pattern_at(b.pattern, {x + 0.5, 40.5})) < 1e-4);
        dab(p, hard(BrushWork::hide, 20, 0), {40, 40}, 1, {}, 0);
        QCOMPARE(p.hidden(40, 40), 1.0f);
        Brush half = hard(BrushWork::reveal, 20, 0);
        half.flow = 0.5f;
        dab(p, half, {40, 40}, 1, {}, 0);
        QCOMPARE(p.hidden(40, 40), 0.5f);
    }

    void strokes_lie_where_their_element_lies() {
        // Painted 30 px right of the middle of an element that is moved, turned by 90° and twice as large.
        auto painting = std::make_shared<Painting>();
        dab(*painting, hard(BrushWork::raise, 10, 4), {30, 0}, 1, {}, 0);
        dab(*painting, hard(BrushWork::hide, 10, 0), {-30, 0}, 1, {}, 0);
        auto scene = scene_of(piece_json(
            300, 300,
            R"({"id": "r", "source": {"kind": "rectangle", "width": 100, "height": 40}, "placement": {"x": 150, "y": 150, "turn": 90, "scale_u": 2, "scale_v": 2},
                "steps": [{"kind": "by_hand", "file": "s"}]})"));
        Asset a;
        a.painting = painting, a.hash = painting->hash();
        scene.assets =
            std::make_shared<const Assets>(Assets{{painting_key("s"), std::make_shared<const Asset>(a)}});
        const Bundle b = relief_of(scene);
        QVERIFY(std::abs(b.height.at(150, 90) - 4) < 1e-3); // 60 px up
        QCOMPARE(b.height.at(150, 150), 0.0f);
        QCOMPARE(b.coverage.at(150, 210), 0.0f); // hidden
        QCOMPARE(b.coverage.at(150, 170), 1.0f);
        // A preview reads the halvings and shows the same.
        Evaluator evaluator(0);
        const Bundle small = evaluator.relief(scene, canvas_region(scene.piece->canvas, 0.25), 0.25);
        QVERIFY(std::abs(small.height.at(37, 22) - 4) < 0.4);
    }

    /// Made larger, taken out of a group that was larger, or poured at another size, what was painted keeps
    /// its slopes.
    void strokes_grow_with_the_canvas_and_out_of_groups() {
        auto painting = std::make_shared<Painting>();
        dab(*painting, hard(BrushWork::raise, 24, 4), {10, 0}, 1, {}, 0);
        Asset a;
        a.painting = painting, a.hash = painting->hash();
        const auto kept = std::make_shared<const Asset>(a);
        auto scene = scene_of(piece_json(
            100, 80,
            R"({"id": "g", "source": {"kind": "group"}, "placement": {"x": 50, "y": 40, "scale_u": 1.5, "scale_v": 1.5},
                "elements": [{"id": "layer", "source": {"kind": "paint", "file": "s", "rise": 0.5}, "placement": {"x": 40, "y": 40}},
                             {"id": "plate", "source": {"kind": "rectangle", "width": 50, "height": 40}, "placement": {"x": 55, "y": 40},
                              "steps": [{"kind": "by_hand", "file": "s"}]},
                             {"id": "dome", "source": {"kind": "form", "width": 20, "height": 20, "rise": 6}, "placement": {"x": 30, "y": 30}}]})"));
        scene.assets = std::make_shared<const Assets>(Assets{{painting_key("s"), kept}, {"layer", kept}});
        const Plane before = height_of(scene);
        const auto same = [&](const Piece& p, double scale, double share) {
            const Plane now = height_of({std::make_shared<const Piece>(p), scene.assets}, scale);
            double worst = 0;
            for (int y = 0; y < 80; ++y)
                for (int x = 0; x < 100; ++x)
                    worst = std::max(worst, std::abs(double(before(x, y)) - share * now(x, y)));
            return worst < 0.05;
        };
        QVERIFY(std::abs(before(50, 40) - 3) < 0.01 && std::abs(before(72, 40) - 6) < 0.01);
        Piece apart = *scene.piece;
        QCOMPARE(ungroup(apart, "g").size(), 3u);
        QVERIFY(same(apart, 1, 1));
        Piece larger = apart;
        resize(larger, 2);
        QVERIFY(same(larger, 0.5, 0.5));
        resize(apart = *scene.piece, 2);
        QVERIFY(same(apart, 0.5, 0.5));
        Element layer = *find_element(scene.piece->elements, "layer");
        scale_element(layer, 3);
        QCOMPARE(layer.source.as<PaintSource>()->rise, 1.5f);
        QCOMPARE(layer.placement.scale_u, 3.0f);
    }
};
BATHYLUX_TEST(TestPainting)
#include "test_painting.moc"
