// What holds for every body, with no formula and no other program: turned with its eye it looks the same,
// rolled the picture is rolled, moved it is moved, once round is where it was.
#include <QtTest>
#include <numbers>

#include "core/field/srgb.h"
#include "core/render/solid_view.h"
#include "run.h"
#include "support.h"

// Compiled together with other tests, whose helpers have the same names.
namespace bathylux::solid_symmetries {

namespace {

constexpr int side = 120;

/// A label of 120 × 120 px that looks the same from nowhere else, on a body that JSON tells of.
Scene on_body(const std::string& body, const std::string& camera, const std::string& light = "camera") {
    return scene_of(piece_json(
        side, side,
        R"({"id": "plate", "source": {"kind": "rectangle", "width": 120, "height": 120, "color": "#4c6a58"}},
           {"id": "eye", "source": {"kind": "ellipse", "width": 46, "height": 26, "color": "#c4823c"},
            "placement": {"x": 46, "y": 50, "turn": 20}, "steps": [{"kind": "bevel", "width": 9, "rise": 5, "profile": "round"}]},
           {"id": "bar", "source": {"kind": "rectangle", "width": 12, "height": 50, "corner": 4, "color": "#3c64a0"},
            "placement": {"x": 86, "y": 70, "turn": -25}, "steps": [{"kind": "bevel", "width": 5, "rise": 4}]})",
        R"("ambient": {"intensity": 0.15}, "lights": [{"id": "far", "kind": "directional", "angle": 130, "elevation": 40,
           "stands": ")" +
            light + R"("}], "solid": {"fineness": 1, "color": "#806a4a", )" + body + R"(, "camera": {)" +
            camera + "}}"));
}

using Picture4 = std::array<Plane, 4>;

/// One ray through the middle of every px.
SolidPicture seen(const Scene& scene, int samples = 1) {
    Evaluator evaluator;
    SolidPicture out(side, side);
    out.add(solid_scene(evaluator, scene), samples);
    return out;
}

/// How alike they are as they are shown: PSNR, dB; `from` says which px of `b` is like one of `a`, outside:
/// none.
template <class From> double likeness(const Picture4& a, const Picture4& b, const From& from) {
    double sum = 0;
    int n = 0;
    for (std::size_t c = 0; c < 3; ++c)
        for (int y = 0; y < side; ++y)
            for (int x = 0; x < side; ++x) {
                const auto [u, v] = from(x, y);
                if (u < 0 || v < 0 || u >= side || v >= side) continue;
                const auto shown = [](float p) { return srgb_encode(std::clamp(p, 0.0f, 1.0f)); };
                sum += std::pow(shown(a[c](x, y)) - shown(b[c](u, v)), 2), ++n;
            }
    return sum > 0 ? -10 * std::log10(sum / n) : 999;
}
double likeness(const Picture4& a, const Picture4& b) {
    return likeness(a, b, [](int x, int y) { return std::pair{x, y}; });
}

std::string text(const char* name, double v) { return "\"" + std::string(name) + "\": " + std::to_string(v); }

void alike(double decibels, double least) {
    QVERIFY2(decibels >= least, qPrintable(QString("%1 dB").arg(decibels)));
}

} // namespace

class TestSolidSymmetries : public QObject {
    Q_OBJECT
  private slots:
    void turned_with_its_eye_it_looks_the_same_data() {
        QTest::addColumn<QString>("body");
        QTest::addColumn<double>("radius");
        QTest::newRow("cylinder") << R"("kind": "cylinder", "radius": 70, "height": 150)" << 70.0;
        QTest::newRow("sphere") << R"("kind": "sphere", "radius": 80)" << 80.0;
    }
    void turned_with_its_eye_it_looks_the_same() {
        QFETCH(QString, body);
        QFETCH(double, radius);
        const std::string b = body.toStdString();
        const auto from = [](double turn) {
            return text("turn", turn) + R"(, "tilt": 0, "distance": 600, "field": 20)";
        };
        const Picture4 ahead = seen(on_body(b, from(0))).lit();
        QVERIFY(likeness(ahead, seen(on_body(b, from(50))).lit()) < 25);
        for (const double turn : {50.0, 170.0, -95.0}) {
            const double u = radius * turn * std::numbers::pi / 180;
            const double like = likeness(ahead, seen(on_body(b + ", " + text("u", u), from(turn))).lit());
            QVERIFY2(like > 40, qPrintable(QString("%1 degrees: %2 dB").arg(turn).arg(like)));
        }
    }

    void once_round_it_is_where_it_was() {
        const std::string camera = R"("turn": 20, "tilt": 10, "distance": 600, "field": 20)";
        for (const auto& [body, radius] :
             {std::pair<std::string, double>{R"("kind": "cylinder", "radius": 70, "height": 150)", 70},
              {R"("kind": "sphere", "radius": 80)", 80}}) {
            const Picture4 here = seen(on_body(body, camera, "body")).lit();
            alike(likeness(here, seen(on_body(body + ", " + text("u", 2 * std::numbers::pi * radius), camera,
                                              "body"))
                                     .lit()),
                  45);
            QVERIFY(likeness(here, seen(on_body(body + ", " + text("u", radius), camera, "body")).lit()) <
                    25);
        }
    }

    void rolled_the_picture_is_rolled() {
        const std::string body = R"("kind": "sphere", "radius": 80)",
                          camera = R"("turn": 25, "tilt": 15, "distance": 500, "field": 22)";
        const Picture4 upright = seen(on_body(body, camera, "body")).lit();
        // A quarter, counter-clockwise: what was at the right is at the top.
        alike(likeness(seen(on_body(body, camera + R"(, "roll": 90)", "body")).lit(), upright,
                       [](int x, int y) {
                           return std::pair{side - 1 - y, x};
                       }),
              50);
        alike(likeness(seen(on_body(body, camera + R"(, "roll": 180)", "body")).lit(), upright,
                       [](int x, int y) {
                           return std::pair{side - 1 - x, side - 1 - y};
                       }),
              50);
    }

    void seen_in_parallel_it_moves_with_its_eye() {
        // As high as the canvas, which is as high as the picture: a px of the one is a px of the other.
        const auto at = [](const char* camera) {
            return seen(on_body(R"("kind": "sphere", "radius": 45)",
                                std::string(R"("turn": 0, "tilt": 0, "field": 0, )") + camera, "body"));
        };
        const auto here = at(R"("distance": 600)"), far = at(R"("distance": 2600)"),
                   aside = at(R"("distance": 600, "x": 7, "y": -12)");
        alike(likeness(here.lit(), far.lit()), 60);
        QVERIFY(likeness(here.lit(), aside.lit()) < 25);
        // Looked at to the right of its middle and below it, it lies to the left and higher up.
        alike(likeness(aside.lit(), here.lit(), [](int x, int y) { return std::pair{x + 7, y + 12}; }), 60);
    }

    void what_is_shifted_is_larger() {
        const std::string camera = R"("turn": 30, "tilt": 20, "distance": 600, "field": 20)";
        // Without relief a sphere whose skin is moved outwards is a larger sphere; heights go on as they
        // were.
        const auto bare = [&](const char* body) {
            return seen(on_body(std::string(R"("kind": "sphere", "relief": 0, "scale": 0.001, )") + body,
                                camera, "body"));
        };
        alike(likeness(bare(R"("radius": 60, "shift": 20)").lit(), bare(R"("radius": 80)").lit()), 45);
        QVERIFY(likeness(bare(R"("radius": 60)").lit(), bare(R"("radius": 80)").lit()) < 25);
    }

    void a_round_body_looks_the_same_from_all_about() {
        for (const char* body :
             {R"("kind": "cylinder", "radius": 60, "height": 90, "round": 8, "scale": 0.001)",
              R"("kind": "sphere", "radius": 60, "scale": 0.001)"}) {
            const auto from = [&](double turn) {
                return seen(on_body(body,
                                    text("turn", turn) + R"(, "tilt": 12, "distance": 600, "field": 18)"))
                    .lit();
            };
            const Picture4 first = from(0);
            for (const double turn : {31.0, 117.0, 260.0}) alike(likeness(first, from(turn)), 45);
        }
    }

    void more_rays_find_what_one_found() {
        // Sixteen samples are the same picture, smoother at its edges: no less, no more light.
        const Scene scene = on_body(R"("kind": "box", "width": 110, "height": 110, "depth": 60, "round": 6)",
                                    R"("turn": 25, "tilt": 15, "distance": 500, "field": 22)", "body");
        const Picture4 one = seen(scene).lit(), many = seen(scene, 16).lit();
        double a = 0, b = 0;
        for (int y = 0; y < side; ++y)
            for (int x = 0; x < side; ++x) a += one[1](x, y), b += many[1](x, y);
        QVERIFY2(std::abs(a / b - 1) < 0.01, qPrintable(QString::number(a / b)));
        alike(likeness(one, many), 24);
    }
};
BATHYLUX_TEST(TestSolidSymmetries)

} // namespace bathylux::solid_symmetries
#include "test_solid_symmetries.moc"
