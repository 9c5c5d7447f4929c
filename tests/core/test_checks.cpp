// Each check finds what is wrong, where it is, and its fix mends it; what is right passes.
#include <QtTest>

#include "core/check/checks.h"
#include "core/light/normals.h"
#include "core/light/occlusion.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

const Finding* found(const std::vector<Finding>& all, const std::string& check) {
    for (const Finding& f : all)
        if (f.check == check) return &f;
    return nullptr;
}

std::shared_ptr<Asset> asset_of(std::shared_ptr<const Picture> p) {
    auto a = std::make_shared<Asset>();
    a->picture = p, a->width = p->width, a->height = p->height, a->hash = p->hash;
    return a;
}

/// White on three tenths of a black ground, 200 × 160 px taken so many times as large, lit from straight
/// above and exposed twice as long.
std::string white_on_black(int k) {
    return QString(R"({"bathylux": 1, "canvas": {"width": %1, "height": %2, "px_per_mm": 12}, "exposure": 1,
            "ambient": {"intensity": 0}, "surface": {"roughness": 1},
            "lights": [{"id": "l", "kind": "directional", "angle": 0, "elevation": 90, "intensity": 1.5}],
            "elements": [{"id": "ground", "source": {"kind": "rectangle", "width": %1, "height": %2,
                          "color": "#000000"}, "placement": {"x": %3, "y": %4}},
                         {"id": "white", "source": {"kind": "rectangle", "width": %5, "height": %2,
                          "color": "#ffffff"}, "placement": {"x": %6, "y": %4}}]})")
        .arg(200 * k)
        .arg(160 * k)
        .arg(100 * k)
        .arg(80 * k)
        .arg(60 * k)
        .arg(150 * k)
        .toStdString();
}

std::string plate(double soften);
std::string on_canvas(const std::string& canvas_members, const std::string& elements);

} // namespace

class TestChecks : public QObject {
    Q_OBJECT
    /// Finds `check` in a scene, mends it, and finds it no more.
    static void mends(Scene scene, const std::string& check, Region near) {
        Evaluator evaluator;
        const auto before = check_piece(evaluator, scene);
        const Finding* f = found(before, check);
        QVERIFY2(f, "not found");
        QVERIFY2(f->at.x >= near.x0 && f->at.x <= near.x1 && f->at.y >= near.y0 && f->at.y <= near.y1,
                 qPrintable(QString("at %1, %2").arg(f->at.x).arg(f->at.y)));
        QVERIFY(f->fix && !f->says.empty() && !f->fix_says.empty());
        Piece mended = *scene.piece;
        f->fix(mended);
        // What a fix makes can be saved.
        scene.piece = std::make_shared<const Piece>(piece_from_json(to_json(mended)));
        QVERIFY2(!found(check_piece(evaluator, scene), check), "still there");
    }
  private slots:
    void terraces_of_eight_bits() {
        auto p = std::make_shared<Picture>();
        p->width = 300, p->height = 100, p->channels = 1;
        p->samples.resize(300 * 100);
        for (int y = 0; y < 100; ++y)
            for (int x = 0; x < 300; ++x) p->samples[y * 300 + x] = static_cast<std::byte>(40 + x / 12);
        p->seal();
        auto scene = scene_of(piece_json(
            300, 100,
            R"({"id": "p", "source": {"kind": "picture", "file": "x"}, "steps": [{"kind": "tones", "low": 0, "high": 1, "rise": 120}]})"));
        scene.assets = std::make_shared<const Assets>(Assets{{"p", asset_of(p)}});
        mends(scene, "terraces", {0, 0, 300, 100});
        // The same in 16 bits, evenly rising, is no ladder.
        auto fine = std::make_shared<Picture>();
        fine->width = 300, fine->height = 100, fine->channels = 1, fine->format = Picture::Format::u16;
        fine->samples.resize(2 * 300 * 100);
        for (int y = 0; y < 100; ++y)
            for (int x = 0; x < 300; ++x) {
                const auto v = static_cast<std::uint16_t>(10000 + 40 * x + y);
                std::memcpy(&fine->samples[2 * (y * 300 + x)], &v, 2);
            }
        fine->seal();
        scene.assets = std::make_shared<const Assets>(Assets{{"p", asset_of(fine)}});
        Evaluator evaluator;
        QVERIFY(!found(check_piece(evaluator, scene), "terraces"));
    }

    void a_green_read_the_wrong_way() {
        Plane truth(128, 128);
        for (int y = 0; y < 128; ++y)
            for (int x = 0; x < 128; ++x)
                truth(x, y) = static_cast<float>(6 * std::sin(x / 9.0) * std::cos(y / 7.0));
        const auto n = normals(Field(truth), {0, 0, 128, 128}, {0, 0, 128, 128}, 1, Edge::clamp);
        auto p = std::make_shared<Picture>();
        p->width = p->height = 128, p->channels = 3;
        p->samples.resize(128 * 128 * 3);
        for (int y = 0; y < 128; ++y)
            for (int x = 0; x < 128; ++x)
                for (int c = 0; c < 3; ++c)
                    p->samples[3 * (y * 128 + x) + c] =
                        static_cast<std::byte>(std::lround(127.5 + 127.5 * n[c](x, y)));
        p->seal();
        auto scene = scene_of(piece_json(
            128, 128,
            R"({"id": "n", "source": {"kind": "normals", "file": "x", "green": "down"}, "placement": {"x": 64, "y": 64}})"));
        scene.assets = std::make_shared<const Assets>(Assets{{"n", asset_of(p)}});
        mends(scene, "flipped_green", {0, 0, 128, 128});
    }

    void tile_edges_that_do_not_meet() {
        const std::string noise =
            R"({"id": "n", "source": {"kind": "noise", "size_u": 37, "size_v": 41}, "steps": [{"kind": "tones", "low": 0, "high": 1, "rise": 20}]})";
        mends(scene_of(on_canvas(R"("edge": "repeat")", noise)), "edges_do_not_meet", {0, 0, 200, 160});
        // A picture cannot be asked to tile: its edges are drawn together.
        auto scene = scene_of(on_canvas(
            R"("edge": "repeat")",
            R"({"id": "p", "source": {"kind": "picture", "file": "x"}, "steps": [{"kind": "tones", "low": 0, "high": 1, "rise": 1}]})"));
        scene.assets = std::make_shared<const Assets>(
            Assets{{"p", asset_of(picture_of(200, 160, [](double x, double y) {
                        return static_cast<float>(6 * std::sin(x / 17) + y / 8);
                    }))}});
        mends(scene, "edges_do_not_meet", {0, 0, 200, 160});
    }

    void light_that_clips_is_told_as_a_share_at_any_size() {
        for (const int k : {1, 16}) {
            const auto scene = scene_of(white_on_black(k));
            Evaluator evaluator;
            const auto all = check_piece(evaluator, scene);
            const Finding* f = found(all, "clipped_light");
            QVERIFY(f);
            QCOMPARE(f->says, "Light clips on 30 % of it");
            QVERIFY(f->at.x >= 120 * k && f->at.x <= 180 * k && f->at.y >= 0 && f->at.y <= 160 * k);
            mends(scene, "clipped_light", {120 * k, 0, 180 * k, 160 * k});
        }
    }

    void tones_that_come_out_flat() {
        // A ramp in red with a dark and a bright patch; green is all one. In a group that is moved and
        // turned.
        auto p = std::make_shared<Picture>();
        p->width = 100, p->height = 80, p->channels = 3;
        p->samples.resize(100 * 80 * 3);
        for (int y = 0; y < 80; ++y)
            for (int x = 0; x < 100; ++x) {
                const bool bright = x >= 80 && y >= 60;
                p->samples[3 * (y * 100 + x)] = static_cast<std::byte>(bright ? 250 : 60 + x);
                p->samples[3 * (y * 100 + x) + 1] = std::byte{0};
                p->samples[3 * (y * 100 + x) + 2] = static_cast<std::byte>(y);
            }
        p->seal();
        const auto scene = [&](const std::string& steps) {
            const QString group =
                R"({"id": "g", "source": {"kind": "group"}, "placement": {"x": 120, "y": 80, "turn": 90}, "elements": [%1]})";
            const QString ramp =
                R"({"id": "p", "source": {"kind": "picture", "file": "x"}, "placement": {"x": 100, "y": 80}, "steps": [%1]})";
            Scene out =
                scene_of(on_canvas(R"("edge": "clamp")", group.arg(ramp.arg(QString::fromStdString(steps))).toStdString()));
            out.assets = std::make_shared<const Assets>(Assets{{"p", asset_of(p)}});
            return out;
        };
        const std::string red =
            R"({"id": "t", "kind": "tones", "channel": "red", "low": 0.2, "high": 0.7, "rise": 2})";
        // The patch lies right and low in the picture: turned by 90°, right and up on the canvas.
        mends(scene(red), "flattened", {140, 30, 160, 50});
        Evaluator evaluator;
        const auto told = [&](const std::string& steps) {
            return found(check_piece(evaluator, scene(steps)), "flattened") != nullptr;
        };
        QVERIFY(told(red) &&
                !told(R"({"kind": "tones", "channel": "red", "low": 0.2, "high": 1, "rise": 2})"));
        // It is the channel that is read which counts, as it comes to the step.
        QVERIFY(!told(R"({"kind": "tones", "channel": "green", "low": 0, "high": 0.7, "rise": 2})"));
        QVERIFY(!told(R"({"kind": "gain", "amount": 0.7},)" + red));
    }

    void lights_are_raised_where_the_flat_colour_is_kept() {
        // A steep wall beside flat ground: it catches twice the light that the ground does.
        const std::string piece =
            R"({"bathylux": 1, "canvas": {"width": 200, "height": 160, "background": "#c0c0c0"},)"
            R"( "keep_flat_color": true, "ambient": {"intensity": 0}, "surface": {"roughness": 1},)"
            R"( "lights": [{"id": "l", "kind": "directional", "angle": 180, "elevation": 15},)"
            R"( {"id": "p", "kind": "point", "x": 20, "y": 80, "z": 60, "intensity": 0.2, "distance": 200}],)"
            R"( "elements": [{"id": "e", "source": {"kind": "rectangle", "width": 100, "height": 80},)"
            R"( "placement": {"x": 100, "y": 80},)"
            R"( "steps": [{"kind": "bevel", "width": 30, "rise": 12, "profile": "chamfer"}]}]})";
        mends(scene_of(piece), "clipped_light", {0, 0, 200, 160});
    }

    void walls_too_steep_for_a_die() {
        mends(scene_of(on_canvas(R"("draft": 10)", plate(0))), "die_wall", {20, 20, 180, 140});
        Evaluator evaluator;
        // Without a stated draft there is nothing to say; nor where walls lean enough.
        QVERIFY(!found(check_piece(evaluator, scene_of(on_canvas(R"("draft": 0)", plate(0)))), "die_wall"));
        QVERIFY(!found(check_piece(evaluator, scene_of(on_canvas(R"("draft": 10)", plate(8)))), "die_wall"));
    }

    void detail_finer_than_the_mesh() {
        const std::string dots =
            R"({"id": "d", "source": {"kind": "pattern", "motif": "stipple", "size": 9}, "steps": [{"kind": "tones", "low": 0, "high": 1, "rise": 6}]})";
        mends(scene_of(on_canvas(R"("mesh": 1)", dots)), "finer_than_mesh", {0, 0, 200, 160});
        Evaluator evaluator;
        QVERIFY(
            !found(check_piece(evaluator, scene_of(on_canvas(R"("mesh": 0.05)", dots))), "finer_than_mesh"));
    }

    void a_step_casts_the_occlusion_of_its_closed_form() {
        // Beside an endless wall of height H, a level place at distance d sees a half-plane of sky cut at
        // angle atan(H ÷ d): open share ½ + ½ sin(β), β from the wall's foot: (1 + cos(atan(H ÷ d))) ÷ 2.
        constexpr int w = 400, h = 300;
        Plane wall(w, h);
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) wall(x, y) = x < 100 ? 30.0f : 0.0f;
        const Plane open = occlusion(Field(wall), {0, 0, w, h}, 1, Edge::repeat, {64, 0});
        const Plane cut = occlusion(Field(wall), {0, 0, w, h}, 1, Edge::clamp, {64, 0});
        for (int d : {5, 15, 40}) {
            const double expected = (1 + std::cos(std::atan(30.0 / d))) / 2;
            QVERIFY2(std::abs(cut(99 + d, h / 2) - expected) < 0.02,
                     qPrintable(QString("%1: %2, not %3").arg(d).arg(cut(99 + d, h / 2)).arg(expected)));
        }
        QVERIFY(open(390, 150) < cut(390, 150)); // on a tile the next wall stands beyond the edge
        QVERIFY(cut(50, 150) > 0.999);           // on top of it nothing is in the way
    }

    void a_ramp_is_open_and_a_pit_is_not() {
        constexpr int n = 160;
        Plane ramp(n, n), pit(n, n);
        for (int y = 0; y < n; ++y)
            for (int x = 0; x < n; ++x) {
                ramp(x, y) = 0.7f * static_cast<float>(x) + 0.2f * static_cast<float>(y);
                pit(x, y) = std::hypot(x + 0.5 - 80, y + 0.5 - 80) < 30 ? 0.0f : 40.0f;
            }
        const Plane a = occlusion(Field(ramp), {0, 0, n, n}, 1, Edge::clamp);
        for (int y = 10; y < n - 10; y += 7)
            for (int x = 10; x < n - 10; x += 7)
                QVERIFY2(a(x, y) > 0.995, qPrintable(QString::number(a(x, y))));
        // At the bottom of a round pit of radius r and depth D: r² ÷ (r² + D²).
        const Plane b = occlusion(Field(pit), {0, 0, n, n}, 1, Edge::clamp, {64, 0});
        QVERIFY2(std::abs(b(80, 80) - 900.0 / (900 + 1600)) < 0.02, qPrintable(QString::number(b(80, 80))));
    }
};

namespace {

std::string plate(double soften) {
    return QString(
               R"({"id": "r", "source": {"kind": "rectangle", "width": 120, "height": 80}, "steps": [{"kind": "raise", "amount": 12}, {"kind": "soften", "radius": %1}]})")
        .arg(soften)
        .toStdString();
}

std::string on_canvas(const std::string& canvas_members, const std::string& elements) {
    return QString(
               R"({"bathylux": 1, "canvas": {"width": 200, "height": 160, "px_per_mm": 12, %1}, "elements": [%2]})")
        .arg(QString::fromStdString(canvas_members), QString::fromStdString(elements))
        .toStdString();
}

} // namespace

BATHYLUX_TEST(TestChecks)
#include "test_checks.moc"
