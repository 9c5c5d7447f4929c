#include <QtTest>
#include <numbers>

#include "core/light/normals.h"
#include "core/relief/bevel.h"
#include "core/relief/soften.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

class TestRelief : public QObject {
    Q_OBJECT
  private slots:
    void bevel_follows_its_profile_data() {
        QTest::addColumn<QString>("profile");
        QTest::addColumn<double>("at_quarter");
        QTest::addColumn<double>("at_three_quarters");
        // Closed forms of the cross-sections at a quarter and three quarters of the width.
        QTest::newRow("chamfer") << R"("chamfer")" << 0.25 << 0.75;
        QTest::newRow("round") << R"("round")" << std::sqrt(1 - 0.75 * 0.75) << std::sqrt(1 - 0.25 * 0.25);
        QTest::newRow("cove") << R"("cove")" << 1 - std::sqrt(1 - 0.25 * 0.25)
                              << 1 - std::sqrt(1 - 0.75 * 0.75);
        QTest::newRow("ogee") << R"("ogee")" << 0.25 * 0.25 * 2.5 << 0.75 * 0.75 * 1.5;
        QTest::newRow("step") << R"("step")" << 0.5 << 1.0;
        QTest::newRow("own") << R"({"points": [[0, 0.2], [0.5, 1], [1, 0.4]]})" << 0.6 << 0.7;
    }
    void bevel_follows_its_profile() {
        QFETCH(QString, profile);
        QFETCH(double, at_quarter);
        QFETCH(double, at_three_quarters);
        const auto json = piece_json(
            200, 100,
            R"({"id": "r", "source": {"kind": "rectangle", "width": 180, "height": 80}, "steps": [{"kind": "bevel", "width": 20, "rise": 8, "profile": )" +
                profile.toStdString() + "}]}");
        const Plane h = height_of(scene_of(json));
        // Left edge at x = 10: pixel centres lie half a pixel further in.
        const auto between = [&](double d) {
            return 0.5 * (h(10 + static_cast<int>(d) - 1, 50) + h(10 + static_cast<int>(d), 50));
        };
        QVERIFY2(std::abs(between(5) - 8 * at_quarter) < 0.06, qPrintable(QString::number(between(5))));
        QVERIFY2(std::abs(between(15) - 8 * at_three_quarters) < 0.06,
                 qPrintable(QString::number(between(15))));
        QCOMPARE(h(4, 50), 0.0f);
    }

    void bevel_sinks_and_reaches_a_plateau() {
        const Plane h = height_of(scene_of(piece_json(
            120, 120,
            R"({"id": "o", "source": {"kind": "ellipse", "width": 100, "height": 100}, "steps": [{"kind": "bevel", "width": 12, "rise": -5, "profile": "chamfer"}]})")));
        QVERIFY(std::abs(h(60, 60) + 5) < 1e-4);
        const double d = 50 - std::hypot(100.5 - 60, 60.5 - 60); // 9.5 px in
        QVERIFY(std::abs(h(100, 60) + 5 * d / 12) < 0.05);
    }

    void a_width_beyond_the_shape_makes_a_ridge() {
        const Plane h = height_of(scene_of(piece_json(
            120, 60,
            R"({"id": "r", "source": {"kind": "rectangle", "width": 100, "height": 20}, "steps": [{"kind": "bevel", "width": 200, "rise": 100, "profile": "chamfer"}]})")));
        QVERIFY(std::abs(h(60, 29) - 4.75f) < 0.02f); // 9.5 px from the nearer side, half a px of height each
        QVERIFY(std::abs(h(60, 22) - 1.25f) < 0.02f);
    }

    void soften_blurs_a_step_into_the_error_function() {
        // A raised half-plane wider than the canvas: its edge becomes Φ(x ÷ σ).
        const Plane h = height_of(scene_of(piece_json(
            120, 40,
            R"({"id": "r", "source": {"kind": "rectangle", "width": 400, "height": 400}, "placement": {"x": 260, "y": 20},
            "steps": [{"kind": "raise", "amount": 10}, {"kind": "soften", "radius": 5}]})")));
        for (int x = 30; x < 95; ++x) {
            const double expected = 5 * (1 + std::erf((x + 0.5 - 60) / (5 * std::numbers::sqrt2)));
            QVERIFY2(std::abs(h(x, 20) - expected) < 0.02,
                     qPrintable(QString("%1: %2 vs %3").arg(x).arg(h(x, 20)).arg(expected)));
        }
    }

    void tones_read_what_is_stored() {
        auto scene = scene_of(piece_json(
            64, 8,
            R"({"id": "p", "source": {"kind": "picture", "file": "x"}, "steps": [{"kind": "tones", "low": 0.25, "high": 0.75, "rise": 6}]})"));
        Asset asset;
        auto grey = std::make_shared<Picture>();
        grey->width = 64, grey->height = 8, grey->channels = 1;
        grey->samples.resize(64 * 8);
        for (int y = 0; y < 8; ++y)
            for (int x = 0; x < 64; ++x) grey->samples[y * 64 + x] = static_cast<std::byte>(x * 4);
        grey->seal();
        asset.picture = grey, asset.width = 64, asset.height = 8, asset.hash = grey->hash;
        scene.assets = std::make_shared<const Assets>(Assets{{"p", std::make_shared<const Asset>(asset)}});
        const Plane h = height_of(scene);
        for (int x = 0; x < 64; ++x)
            QVERIFY(std::abs(h(x, 4) - 6 * std::clamp((x * 4 / 255.0 - 0.25) / 0.5, 0.0, 1.0)) < 1e-4);
        // Floats are not held at the ends.
        asset.picture = picture_of(64, 8, [](double x, double) { return static_cast<float>(x / 10); });
        asset.hash = asset.picture->hash;
        scene.assets = std::make_shared<const Assets>(Assets{{"p", std::make_shared<const Asset>(asset)}});
        const Plane f = height_of(scene);
        QVERIFY(std::abs(f(63, 4) - 6 * (6.35 - 0.25) / 0.5) < 1e-3);
    }

    void bands_and_sharpening_weigh_waves_as_gaussians_do_data() {
        QTest::addColumn<QString>("step");
        QTest::addColumn<double>("length"); // of the wave, px
        QTest::addColumn<double>("factor");
        // A Gaussian of σ leaves exp(−2π²σ²/λ²) of a wave of length λ.
        const auto left = [](double sigma, double length) {
            return std::exp(-2 * std::pow(std::numbers::pi * sigma / length, 2));
        };
        for (const double length : {8.0, 25.0, 70.0}) {
            const double e1 = left(2, length), e2 = left(9, length);
            QTest::addRow("bands at %g", length)
                << R"({"kind": "bands", "fine": 3, "medium": 0.5, "broad": 2, "fine_size": 2, "medium_size": 9})"
                << length << 3 * (1 - e1) + 0.5 * (e1 - e2) + 2 * e2;
            QTest::addRow("bands at 1, %g", length)
                << R"({"kind": "bands", "fine_size": 2, "medium_size": 9})" << length << 1.0;
            QTest::addRow("sharpen at %g", length)
                << R"({"kind": "sharpen", "radius": 2, "strength": 1.5})" << length << 1 + 1.5 * (1 - e1);
        }
    }
    void bands_and_sharpening_weigh_waves_as_gaussians_do() {
        QFETCH(QString, step);
        QFETCH(double, length);
        QFETCH(double, factor);
        const QString element =
            QString(
                R"({"id": "p", "source": {"kind": "picture", "file": "x"}, "placement": {"edge": "clamp"}, "steps": [{"kind": "tones", "rise": 1}, %1]})")
                .arg(step);
        auto scene = scene_of(piece_json(240, 24, element.toStdString()));
        Asset asset;
        asset.picture = picture_of(240, 24, [&](double x, double) {
            return static_cast<float>(std::sin(2 * std::numbers::pi * x / length));
        });
        asset.width = 240, asset.height = 24, asset.hash = asset.picture->hash;
        scene.assets = std::make_shared<const Assets>(Assets{{"p", std::make_shared<const Asset>(asset)}});
        const Plane h = height_of(scene);
        for (int x = 90; x < 150; ++x) { // far from the ends, where the last value is held
            const double expected = factor * std::sin(2 * std::numbers::pi * (x + 0.5) / length);
            QVERIFY2(std::abs(h(x, 12) - expected) < 2e-3,
                     qPrintable(QString("%1: %2 vs %3").arg(x).arg(h(x, 12)).arg(expected)));
        }
    }

    void a_height_curve_holds_and_bends() {
        const Plane h = height_of(scene_of(piece_json(
            120, 40, R"({"id": "r", "source": {"kind": "rectangle", "width": 100, "height": 400}, "steps": [
            {"kind": "bevel", "width": 40, "rise": 40, "profile": "chamfer"}, {"kind": "curve", "low": 5, "high": 25, "profile": "ogee"}]})")));
        for (int x = 12; x < 50; ++x) {
            const double in = x + 0.5 - 10, t = std::clamp((in - 5) / 20, 0.0, 1.0);
            QVERIFY(std::abs(h(x, 20) - (5 + 20 * t * t * (3 - 2 * t))) < 1e-3);
        }
    }

    void normals_of_a_sphere_are_its_radius_vectors() {
        constexpr int n = 200;
        constexpr double radius = 260;
        Plane h(n, n);
        for (int y = 0; y < n; ++y)
            for (int x = 0; x < n; ++x)
                h(x, y) = static_cast<float>(std::sqrt(radius * radius - std::pow(x + 0.5 - n / 2.0, 2) -
                                                       std::pow(y + 0.5 - n / 2.0, 2)));
        const Region r{0, 0, n, n};
        const auto nn = normals(Field(std::move(h)), r, r, 1, Edge::clamp);
        double worst = 0;
        for (int y = 2; y < n - 2; ++y)
            for (int x = 2; x < n - 2; ++x) {
                const double ex = (x + 0.5 - n / 2.0) / radius, ey = -(y + 0.5 - n / 2.0) / radius; // y up
                const double ez = std::sqrt(1 - ex * ex - ey * ey);
                const double dot = ex * nn[0](x, y) + ey * nn[1](x, y) + ez * nn[2](x, y);
                worst = std::max(worst, std::acos(std::min(1.0, dot)) / radians_per_degree);
            }
        QVERIFY2(worst < 0.1, qPrintable(QString::number(worst)));
    }
};
BATHYLUX_TEST(TestRelief)
#include "test_relief.moc"
