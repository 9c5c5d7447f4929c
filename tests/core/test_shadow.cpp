// Shadows against a slow march along every ray in double; spots against the KHR_lights_punctual formula.
#include <QtTest>
#include <numbers>

#include "core/light/occlusion.h"
#include "core/light/shade.h"
#include "core/light/shadow.h"
#include "marched.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

constexpr int n = 160;
constexpr Region all{0, 0, n, n};

Plane relief_of_kind(const QString& kind) {
    Plane p(n, n, 0.0f);
    for (int y = 0; y < n; ++y)
        for (int x = 0; x < n; ++x) {
            const double dx = x + 0.5 - 80, dy = y + 0.5 - 80, r = std::hypot(dx, dy);
            if (kind == "step") p(x, y) = std::abs(dx) < 22 && std::abs(dy) < 30 ? 14.0f : 0.0f;
            if (kind == "dome") p(x, y) = r < 40 ? static_cast<float>(std::sqrt(1600 - r * r)) * 0.7f : 0.0f;
            if (kind == "grating") p(x, y) = static_cast<float>(5 + 5 * std::sin(x / 6.0));
            if (kind == "hills")
                p(x, y) = static_cast<float>(9 + 6 * std::sin(x / 13.0) * std::cos(y / 11.0) +
                                             3 * std::sin((x + y) / 5.0));
        }
    return p;
}

} // namespace

class TestShadow : public QObject {
    Q_OBJECT
  private slots:
    void shadows_are_those_of_a_slow_march_data() {
        QTest::addColumn<QString>("kind");
        QTest::addColumn<bool>("far");
        QTest::addColumn<double>("size");
        for (const char* kind : {"step", "dome", "grating", "hills"}) {
            QTest::addRow("%s, sun", kind) << kind << true << 3.0;
            QTest::addRow("%s, wide sun", kind) << kind << true << 12.0;
            QTest::addRow("%s, lamp", kind) << kind << false << 24.0;
        }
    }
    void shadows_are_those_of_a_slow_march() {
        QFETCH(QString, kind);
        QFETCH(bool, far);
        QFETCH(double, size);
        const Plane h = relief_of_kind(kind);
        Lamp lamp;
        lamp.directional = far;
        lamp.size = static_cast<float>(size);
        if (far) {
            const double a = 155 * radians_per_degree, e = 24 * radians_per_degree;
            lamp.x = static_cast<float>(std::cos(a) * std::cos(e)),
            lamp.y = static_cast<float>(std::sin(a) * std::cos(e)), lamp.z = static_cast<float>(std::sin(e));
        } else
            lamp.x = 31, lamp.y = 118, lamp.z = 48;
        const Plane s = shadow(Field(h), all, 1, Edge::clamp, lamp);
        double sum = 0;
        int count = 0, dark = 0;
        for (int y = 4; y < n - 4; y += 5)
            for (int x = 4; x < n - 4; x += 5) {
                if (!far && std::hypot(x + 0.5 - 31, y + 0.5 - 118) < 3) continue;
                const double expected = marched(h, x, y, lamp);
                sum += std::pow(s(x, y) - expected, 2), ++count, dark += expected < 0.5;
            }
        const double psnr = -10 * std::log10(sum / count + 1e-12);
        QVERIFY(dark > count / 60); // there is a shadow to be right about
        QVERIFY2(psnr > (kind != "hills" ? 39 : far ? 38 : 34), qPrintable(QString::number(psnr)));
    }

    void the_sky_that_is_seen_is_that_of_a_slow_march_data() {
        QTest::addColumn<QString>("kind");
        for (const char* kind : {"step", "dome", "grating", "hills"}) QTest::addRow("%s", kind) << kind;
    }
    void the_sky_that_is_seen_is_that_of_a_slow_march() {
        QFETCH(QString, kind);
        const Plane h = relief_of_kind(kind);
        const Plane s = occlusion(Field(h), all, 1, Edge::clamp, {32, 0});
        double sum = 0;
        int count = 0, dark = 0;
        for (int y = 6; y < n - 6; y += 7)
            for (int x = 6; x < n - 6; x += 7) {
                const double expected = marched_sky(h, x, y);
                sum += std::pow(s(x, y) - expected, 2), ++count, dark += expected < 0.9;
            }
        QVERIFY(dark > count / 40);
        const double psnr = -10 * std::log10(sum / count + 1e-12);
        QVERIFY2(psnr > 40, qPrintable(QString::number(psnr)));
    }

    void level_ground_has_no_acne_and_walls_do_not_leak() {
        for (const double e : {0.5, 3.0, 20.0, 89.0})
            for (const double a : {0.0, 17.0, 90.0, 141.0, 269.0}) {
                Lamp lamp;
                const double t = e * radians_per_degree, u = a * radians_per_degree;
                lamp.x = static_cast<float>(std::cos(u) * std::cos(t)),
                lamp.y = static_cast<float>(std::sin(u) * std::cos(t)),
                lamp.z = static_cast<float>(std::sin(t));
                Plane level(n, n, 3.0f);
                level(0, 0) = 2.9999f; // not quite constant, so that it is computed
                const Plane s = shadow(Field(level), all, 1, Edge::clamp, lamp);
                for (int y = 1; y < n; ++y)
                    for (int x = 1; x < n; ++x) QVERIFY(s(x, y) > 0.99f);
            }
        // Behind a thin high wall it is dark all the way along the shadow.
        Plane wall(n, n, 0.0f);
        for (int y = 20; y < 140; ++y) wall(60, y) = wall(61, y) = 40;
        Lamp sun;
        sun.x = -std::cos(0.6f), sun.y = 0, sun.z = std::sin(0.6f);
        const Plane s = shadow(Field(wall), all, 1, Edge::clamp, sun);
        for (int y = 30; y < 130; ++y)
            for (int x = 63; x < 62 + 50; ++x)
                QVERIFY2(s(x, y) < 0.01f, qPrintable(QString("%1, %2: %3").arg(x).arg(y).arg(s(x, y))));
        QVERIFY(s(130, 80) > 0.99f);
    }

    void a_spot_follows_its_formula_and_shadows_darken_the_lit_picture() {
        const char* json =
            R"({"bathylux": 1, "canvas": {"width": 120, "height": 120, "background": "%1"}, "ambient": {"intensity": 0},
            "surface": {"roughness": 1}, "lights": [{"id": "s", "kind": "spot", "x": 60, "y": 60, "z": 80, "target_x": 60, "target_y": 60,
            "inner_cone": 15, "outer_cone": 30, "falloff": "none", "color": "%2", "shadow": %3}],
            "elements": [{"id": "r", "source": {"kind": "rectangle", "width": 10, "height": 120}, "placement": {"x": 75, "y": 60}, "mix": {"opacity": 0},
            "steps": [{"kind": "raise", "amount": %4}]}]})";
        const auto lit = [&](bool shadows, int wall) {
            const auto scene = scene_of(QString(json)
                                            .arg("#ffffff", "#ffffff")
                                            .arg(shadows ? "true" : "false")
                                            .arg(wall)
                                            .toStdString());
            return shade(relief_of(scene), {0, 0, 120, 120}, 1, Edge::clamp, lighting_of(*scene.piece))[0];
        };
        const Plane open = lit(true, 0), plain = lit(false, 25), shadowed = lit(true, 25);
        // Lambert's cosine times the cone, but for the faint highlight of a rough surface.
        for (const int d : {0, 10, 30, 40, 50}) {
            const double angle = std::atan2(d + 0.5, 80.0) / radians_per_degree,
                         c = std::cos(angle * radians_per_degree);
            const double inner = std::cos(15 * radians_per_degree), outer = std::cos(30 * radians_per_degree);
            const double cone = std::pow(std::clamp((c - outer) / (inner - outer), 0.0, 1.0), 2);
            const double value = open(60 + d, 60) / std::max(1e-9f, open(60, 60));
            QVERIFY2(std::abs(value - cone * c) < 0.04,
                     qPrintable(QString("%1: %2, not %3").arg(d).arg(value).arg(cone * c)));
        }
        // Behind the wall it is dark where the wall hides the lamp, and as before elsewhere.
        QVERIFY(plain(90, 60) > 0.01 && shadowed(83, 60) < 0.02 * plain(83, 60) + 1e-4);
        QVERIFY(std::abs(shadowed(40, 60) - plain(40, 60)) < 1e-3);
    }

    void grooves_darken_the_ambient_light_alone() {
        const auto lit = [](bool on) {
            const auto scene = scene_of(piece_json(
                100, 700,
                R"({"id": "g", "source": {"kind": "rectangle", "width": 16, "height": 800}, "mix": {"opacity": 0}, "steps": [{"kind": "raise", "amount": -30}]})",
                QString(R"("ambient": {"intensity": 1, "occlusion": %1})")
                    .arg(on ? "true" : "false")
                    .toStdString()));
            Bundle b = relief_of(scene);
            for (Field& c : b.color) c = Field(1.0f);
            b.coverage = 1.0f;
            return shade(b, {0, 0, 100, 700}, 1, Edge::clamp, lighting_of(*scene.piece))[0];
        };
        const Plane off = lit(false), on = lit(true);
        QVERIFY(std::abs(off(50, 350) - 1) < 1e-4 && std::abs(on(10, 350) - 1) < 0.01);
        // In the middle of a groove 16 px wide and 30 deep: 1 − cos of the opening's half angle, sin(atan(8 ÷
        // 30)).
        QVERIFY2(std::abs(on(50, 350) - std::sin(std::atan(8 / 30.0))) < 0.03,
                 qPrintable(QString::number(on(50, 350))));
    }
};
BATHYLUX_TEST(TestShadow)
#include "test_shadow.moc"
