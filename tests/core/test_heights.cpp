// Steps that make height out of pictures and normals, and clean it.
#include <QtTest>
#include <numbers>
#include <random>
#include <set>

#include "../fixtures/filters.h"
#include "core/field/median.h"
#include "core/light/normals.h"
#include "core/make/integrate.h"
#include "core/relief/deterrace.h"
#include "core/relief/even_light.h"
#include "core/shape/mitre.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

Plane plane_of(int w, int h, const std::function<double(double, double)>& value) {
    Plane p(w, h);
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) p(x, y) = static_cast<float>(value(x + 0.5, y + 0.5));
    return p;
}
Plane table(const float* values, int w, int h) {
    Plane p(w, h);
    for (int y = 0; y < h; ++y) std::copy_n(values + y * w, w, p.row(y));
    return p;
}

/// A scene with one picture, made of a function, and steps on it.
Scene pictured(int w, int h, const std::function<float(double, double)>& tone, const std::string& steps);

double correlation(const Plane& a, const Plane& b, int rim) {
    double n = 0, sa = 0, sb = 0, saa = 0, sbb = 0, sab = 0;
    for (int y = rim; y < a.height() - rim; ++y)
        for (int x = rim; x < a.width() - rim; ++x) {
            const double u = a(x, y), v = b(x, y);
            ++n, sa += u, sb += v, saa += u * u, sbb += v * v, sab += u * v;
        }
    return (n * sab - sa * sb) / std::sqrt((n * saa - sa * sa) * (n * sbb - sb * sb));
}

/// Hills of several sizes, periodic over 256 px.
double hills(double x, double y) {
    const double k = 2 * std::numbers::pi / 256;
    return 9 * std::sin(3 * k * x + 1) * std::cos(2 * k * y) + 4 * std::cos(7 * k * x - 4 * k * y) +
           2 * std::sin(9 * k * y + 5 * k * x);
}

/// A ground without grain: waves of many directions, 26 to 70 px long.
double rough(double x, double y) {
    double sum = 0;
    for (int i = 0; i < 36; ++i) {
        const double a = std::numbers::pi * i / 36,
                     k = 2 * std::numbers::pi / (26 + 44 * std::fmod(i * 0.618, 1.0));
        sum += std::cos(k * (x * std::cos(a) + y * std::sin(a)) + 2.4 * i * i) / (40 * k);
    }
    return 1.6 * sum;
}

double worst_angle(const std::array<Plane, 3>& a, const std::array<Plane, 3>& b, int rim) {
    double worst = 0;
    for (int y = rim; y < a[0].height() - rim; ++y)
        for (int x = rim; x < a[0].width() - rim; ++x) {
            double dot = 0;
            for (int c = 0; c < 3; ++c) dot += double(a[c](x, y)) * b[c](x, y);
            worst = std::max(worst, std::acos(std::min(1.0, dot)) / radians_per_degree);
        }
    return worst;
}

} // namespace

class TestHeights : public QObject {
    Q_OBJECT
  private slots:
    void median_is_scipys() {
        const Plane in = table(noise_32_24, 32, 24);
        const Region all{0, 0, 32, 24};
        QVERIFY(worst_difference(median(in, all, all, 1, Edge::clamp), table(median_1, 32, 24)) < 1e-4);
        QVERIFY(worst_difference(median(in, all, all, 4, Edge::clamp), table(median_4, 32, 24)) < 1e-4);
        QVERIFY(worst_difference(median(in, all, all, 4, Edge::repeat), table(median_wrapped_4, 32, 24)) <
                1e-4);
    }

    void median_is_exact_across_its_tiles() {
        // Larger than a tile, against sorting every window.
        std::mt19937 random(3);
        std::normal_distribution<float> normal;
        Plane in(150, 300);
        for (int y = 0; y < 300; ++y)
            for (int x = 0; x < 150; ++x) in(x, y) = normal(random) + 0.1f * static_cast<float>(x);
        const Region all{0, 0, 150, 300};
        for (const int r : {2, 12, 40}) {
            const Plane out = median(in, all, all, r, Edge::clamp);
            for (int y = 0; y < 300; y += 23)
                for (int x = 0; x < 150; x += 17) {
                    std::vector<float> window;
                    for (int j = y - r; j <= y + r; ++j)
                        for (int i = x - r; i <= x + r; ++i)
                            window.push_back(in(std::clamp(i, 0, 149), std::clamp(j, 0, 299)));
                    std::nth_element(window.begin(), window.begin() + window.size() / 2, window.end());
                    QVERIFY(std::abs(out(x, y) - window[window.size() / 2]) < 25.0f / 65535);
                }
        }
    }

    void ridges_are_rounded_by_a_paraboloid() {
        Plane cone = table(cone_32_24, 32, 24);
        round_ridges(cone, 3);
        QVERIFY2(worst_difference(cone, table(rounded_cone, 32, 24)) < 1e-4,
                 qPrintable(QString::number(worst_difference(cone, table(rounded_cone, 32, 24)))));
    }

    void normals_go_to_height_and_back_data() {
        QTest::addColumn<bool>("periodic");
        QTest::addColumn<int>("w");
        QTest::addColumn<int>("h");
        QTest::newRow("tile") << true << 256 << 256;
        QTest::newRow("open edges") << false << 256 << 256;
        QTest::newRow("open, odd") << false << 181 << 97;
    }
    void normals_go_to_height_and_back() {
        QFETCH(bool, periodic);
        QFETCH(int, w);
        QFETCH(int, h);
        const Plane truth = plane_of(w, h, hills);
        const Region all{0, 0, w, h};
        const Edge edge = periodic ? Edge::repeat : Edge::clamp;
        const auto n = normals(Field(truth), all, all, 1, edge);
        Slopes s{Plane(w, h), Plane(w, h)};
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x)
                s.x(x, y) = -n[0](x, y) / n[2](x, y), s.y(x, y) = n[1](x, y) / n[2](x, y);
        const Plane back = integrated(s, periodic);
        double mean = 0;
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) mean += back(x, y) / (double(w) * h);
        QVERIFY(std::abs(mean) < 1e-3);
        const double angle = worst_angle(n, normals(Field(back), all, all, 1, edge), periodic ? 0 : 4);
        QVERIFY2(angle < 0.5, qPrintable(QString::number(angle)));
        QVERIFY(correlation(truth, back, 0) > 0.9995);
    }

    void a_normals_source_is_read_either_way_up() {
        // Written as 8 bits with green up and down; told apart by curl; the same height comes back.
        const Plane truth = plane_of(256, 256, hills);
        const Region all{0, 0, 256, 256};
        const auto n = normals(Field(truth), all, all, 1, Edge::clamp);
        Plane heights[2];
        for (const bool up : {true, false}) {
            auto p = std::make_shared<Picture>();
            p->width = p->height = 256, p->channels = 3;
            p->samples.resize(256 * 256 * 3);
            for (int y = 0; y < 256; ++y)
                for (int x = 0; x < 256; ++x)
                    for (int c = 0; c < 3; ++c) {
                        const float v = c == 1 && !up ? -n[c](x, y) : n[c](x, y);
                        p->samples[3 * (y * 256 + x) + c] =
                            static_cast<std::byte>(std::lround(127.5 + 127.5 * v));
                    }
            p->seal();
            auto scene =
                scene_of(piece_json(256, 256, R"({"id": "p", "source": {"kind": "normals", "file": "x"}})"));
            Asset a;
            a.picture = p, a.width = a.height = 256, a.hash = p->hash;
            scene.assets = std::make_shared<const Assets>(Assets{{"p", std::make_shared<const Asset>(a)}});
            heights[up] = height_of(scene);
        }
        QVERIFY(worst_difference(heights[0], heights[1]) < 0.3);
        QVERIFY(correlation(heights[1], truth, 0) > 0.999);
        QVERIFY(correlation(heights[0], truth, 0) > 0.999);
    }

    void even_light_finds_the_relief_under_a_slanting_light() {
        // A known relief, lit from one side by Lambert's law, under a lamp that fades across: what its tones
        // say of the height is next to nothing; what is left after evening says nearly all.
        const Plane truth = plane_of(256, 256, rough);
        const Region all{0, 0, 256, 256};
        const auto n = normals(Field(truth), all, all, 1, Edge::clamp);
        const double a = 120 * radians_per_degree, e = 35 * radians_per_degree;
        const double l[3] = {std::cos(a) * std::cos(e), std::sin(a) * std::cos(e), std::sin(e)};
        const auto photograph = [&](double x, double y) {
            const int i = static_cast<int>(x), j = static_cast<int>(y);
            double lit = 0;
            for (int c = 0; c < 3; ++c) lit += l[c] * n[c](i, j);
            return static_cast<float>(0.7 * std::max(0.0, lit) * (0.55 + 0.45 * x / 256));
        };
        const std::string tones = R"({"kind": "tones", "low": 0, "high": 1, "rise": 10})";
        const Plane plain = height_of(pictured(256, 256, photograph, tones));
        const Plane evened = height_of(
            pictured(256, 256, photograph, R"({"kind": "even_light", "size": 200, "shading": 1}, )" + tones));
        const double before = std::abs(correlation(plain, truth, 8)), after = correlation(evened, truth, 8);
        QVERIFY2(before < 0.2 && after > 0.7, qPrintable(QString("%1 to %2").arg(before).arg(after)));
        QVERIFY(std::abs(light_angle(height_of(pictured(256, 256, photograph, tones))) - 120) < 12);
    }

    void even_light_takes_a_slow_gradient_out() {
        const auto bumps = [](double x, double y) { return 0.5 + 0.1 * std::sin(x / 4) * std::sin(y / 4); };
        const auto photograph = [&](double x, double y) {
            return static_cast<float>(bumps(x, y) * (0.3 + 0.7 * x / 200));
        };
        const Plane truth = plane_of(200, 120, bumps);
        const std::string tones = R"({"kind": "tones", "low": 0, "high": 1, "rise": 10})";
        const Plane plain = height_of(pictured(200, 120, photograph, tones));
        const Plane evened =
            height_of(pictured(200, 120, photograph, R"({"kind": "even_light", "size": 60}, )" + tones));
        QVERIFY(correlation(plain, truth, 10) < 0.6);
        QVERIFY(correlation(evened, truth, 10) > 0.97);
    }

    void stair_steps_are_taken_out_and_cliffs_stay() {
        // A gentle ramp and a wall, cut to 8-bit levels.
        const auto smooth = [](double x, double y) { return 0.12 * x + 0.03 * y + (x > 150 ? 30 : 0); };
        constexpr double level = 1.0;
        const Plane truth = plane_of(260, 120, smooth);
        const auto cut = [&](double x, double y) {
            return static_cast<float>(level * std::round(smooth(x, y) / level));
        };
        const std::string tones = R"({"kind": "tones", "low": 0, "high": 1, "rise": 1})";
        const Plane stepped = height_of(pictured(260, 120, cut, tones));
        const Plane mended =
            height_of(pictured(260, 120, cut, tones + R"(, {"kind": "deterrace", "reach": 40})"));
        double before = 0, after = 0;
        for (int y = 20; y < 100; ++y)
            for (int x = 20; x < 240; ++x) {
                before += std::pow(stepped(x, y) - truth(x, y), 2);
                after += std::pow(mended(x, y) - truth(x, y), 2);
                QVERIFY(std::abs(mended(x, y) - stepped(x, y)) <= 0.5 * level + 1e-4);
            }
        QVERIFY2(after < before / 6, qPrintable(QString("%1 of %2").arg(after).arg(before)));
        QVERIFY(mended(152, 60) - mended(147, 60) > 29);
        // A fine map is no ladder: it passes as it is.
        const auto fine = [&](double x, double y) {
            return static_cast<float>(smooth(x, y) + 0.2 * std::sin(x * 1.7 + y));
        };
        QCOMPARE(worst_difference(height_of(pictured(260, 120, fine, tones)),
                                  height_of(pictured(260, 120, fine, tones + R"(, {"kind": "deterrace"})"))),
                 0.0);
    }

    void terraces_and_total_rise() {
        const auto ramp = [](double x, double) { return static_cast<float>(x / 100); };
        const std::string tones = R"({"kind": "tones", "low": 0, "high": 1, "rise": 9})";
        const Plane t = height_of(pictured(100, 4, ramp, tones + R"(, {"kind": "terrace", "steps": 4})"));
        std::set<int> levels;
        for (int x = 0; x < 100; ++x) levels.insert(static_cast<int>(std::lround(1000 * t(x, 2))));
        QCOMPARE(levels.size(), std::size_t{4});
        QVERIFY(std::abs(t(0, 2) - 0.045) < 1e-3 && std::abs(t(99, 2) - 8.955) < 1e-3);
        const Plane r =
            height_of(pictured(100, 4, ramp, tones + R"(, {"kind": "total_rise", "low": -2, "high": 6})"));
        QVERIFY(std::abs(r(0, 2) + 2) < 1e-4 && std::abs(r(99, 2) - 6) < 1e-4 &&
                std::abs(r(50, 2) - 2.04) < 0.01);
    }

    void smoothing_keeps_a_wall_and_calms_the_ground() {
        std::mt19937 random(1);
        std::normal_distribution<float> grain(0, 0.15f);
        Plane noise(120, 60);
        for (int y = 0; y < 60; ++y)
            for (int x = 0; x < 120; ++x) noise(x, y) = grain(random);
        const auto tone = [&](double x, double y) {
            return noise(static_cast<int>(x), static_cast<int>(y)) + (x > 60 ? 20.0f : 0.0f);
        };
        const std::string tones = R"({"kind": "tones", "low": 0, "high": 1, "rise": 1})";
        const Plane h =
            height_of(pictured(120, 60, tone, tones + R"(, {"kind": "smooth", "radius": 4, "edge": 2})"));
        double rough = 0;
        for (int y = 10; y < 50; ++y)
            for (int x = 10; x < 45; ++x) rough += h(x, y) * h(x, y) / (40 * 35);
        QVERIFY2(std::sqrt(rough) < 0.04, qPrintable(QString::number(std::sqrt(rough))));
        QVERIFY(h(61, 30) - h(58, 30) > 17.5);
    }

    void gain_and_curve_shape_the_tones() {
        const auto ramp = [](double x, double) { return static_cast<float>(x / 100); };
        // Gain 3 about the middle; the ogee is odd about it.
        const Plane h = height_of(
            pictured(100, 4, ramp,
                     R"({"kind": "tones", "low": 0, "high": 1, "rise": 10, "gain": 3, "curve": "ogee"})"));
        QCOMPARE(h(20, 1), 0.0f);
        QCOMPARE(h(80, 1), 10.0f);
        const double t = 0.5 + 3 * (0.455 - 0.5); // ogee: smoothstep
        QVERIFY(std::abs(h(45, 1) - 10 * t * t * (3 - 2 * t)) < 0.02);
    }
};
namespace {

Scene pictured(int w, int h, const std::function<float(double, double)>& tone, const std::string& steps) {
    auto scene = scene_of(piece_json(
        w, h, R"({"id": "p", "source": {"kind": "picture", "file": "x"}, "steps": [)" + steps + "]}"));
    Asset a;
    a.picture = picture_of(w, h, tone), a.width = w, a.height = h, a.hash = a.picture->hash;
    scene.assets = std::make_shared<const Assets>(Assets{{"p", std::make_shared<const Asset>(a)}});
    return scene;
}

} // namespace

BATHYLUX_TEST(TestHeights)
#include "test_heights.moc"
