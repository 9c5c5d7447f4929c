#include <QtTest>
#include <numbers>
#include <random>
#include <set>

#include "core/make/form.h"
#include "core/make/noise.h"
#include "core/make/noise_simd.h"
#include "core/make/pattern.h"
#include "core/make/sprites.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

Plane tone_of(const std::string& source, int w, int h, double scale = 1);

int repeated(int i, int period) { return period > 0 ? ((i % period) + period) % period : i; }

/// Gradient noise as Perlin's papers tell it (1985; the fade of 2002), in double: unit gradients whose
/// directions are even in angle, times √2.
double perlin(double u, double v, const Lattice& l) {
    const int i = static_cast<int>(std::floor(u)), j = static_cast<int>(std::floor(v));
    const auto toward = [&](int di, int dj) {
        const auto h = static_cast<std::int32_t>(
            lattice_hash(repeated(i + di, l.period_u), repeated(j + dj, l.period_v), l.seed));
        const double angle = std::numbers::pi * h / 2147483648.0;
        return std::cos(angle) * (u - i - di) + std::sin(angle) * (v - j - dj);
    };
    const auto fade = [](double t) { return t * t * t * (10 + t * (6 * t - 15)); };
    return std::numbers::sqrt2 * std::lerp(std::lerp(toward(0, 0), toward(1, 0), fade(u - i)),
                                           std::lerp(toward(0, 1), toward(1, 1), fade(u - i)), fade(v - j));
}

/// The distance to the nearest of one point a cell (Worley 1996), looked for in all cells about.
double worley(double u, double v, const Lattice& l) {
    const int i = static_cast<int>(std::floor(u)), j = static_cast<int>(std::floor(v));
    double nearest = 1;
    for (int b = j - 1; b <= j + 1; ++b)
        for (int a = i - 1; a <= i + 1; ++a) {
            const std::uint32_t h = lattice_hash(repeated(a, l.period_u), repeated(b, l.period_v), l.seed);
            nearest =
                std::min(nearest, std::hypot(a + (h & 0xffff) / 65536.0 - u, b + (h >> 16) / 65536.0 - v));
        }
    return nearest;
}

} // namespace

class TestMaking : public QObject {
    Q_OBJECT
  private slots:
    void noise_is_what_the_papers_say_data() {
        QTest::addColumn<int>("period_u");
        QTest::addColumn<int>("period_v");
        QTest::newRow("endless") << 0 << 0;
        QTest::newRow("repeating") << 7 << 12;
        QTest::newRow("one cell again and again") << 1 << 1;
        QTest::newRow("across only") << 5 << 0;
    }
    void noise_is_what_the_papers_say() {
        QFETCH(int, period_u);
        QFETCH(int, period_v);
        const Lattice lattice{1 / 23.0, 1 / 31.0, period_u, period_v, 1234, 0.37, -0.81};
        // Far and near, before and after the lattice's origin, and a count that fills no vector.
        std::mt19937 random(5);
        std::uniform_real_distribution<double> place(-4000, 4000);
        std::vector<double> u(1003), v(1003);
        for (std::size_t i = 0; i < u.size(); ++i) u[i] = place(random), v[i] = place(random);
        std::vector<float> gradient(u.size()), cells(u.size());
        gradient_noise(lattice, u, v, gradient);
        cell_noise(lattice, u, v, cells);
        double worst = 0, worst_cell = 0, most = 0;
        for (std::size_t i = 0; i < u.size(); ++i) {
            const double a = u[i] / 23 + 0.37, b = v[i] / 31 - 0.81;
            worst = std::max(worst, std::abs(perlin(a, b, lattice) - gradient[i]));
            worst_cell = std::max(worst_cell, std::abs(worley(a, b, lattice) - cells[i]));
            most = std::max(most, std::abs(double(gradient[i])));
        }
        QVERIFY2(worst < 3e-3, qPrintable(QString::number(worst))); // the sines' parabola
        QVERIFY2(worst_cell < 1e-5, qPrintable(QString::number(worst_cell)));
        QVERIFY2(most > (period_u == 1 ? 0.2 : 0.6), "so even is no noise");
    }

    void noise_is_what_it_was() {
        // The same numbers on every machine, now and later: values noted once.
        QCOMPARE(lattice_hash(0, 0, 1), 1307389976u);
        QCOMPARE(lattice_hash(-3, 17, 99), 3267582868u);
        const std::string source =
            R"({"kind": "noise", "seed": %1, "size_u": 20, "size_v": 20, "octaves": 3})";
        const auto of = [&](const char* seed) {
            return tone_of(QString::fromStdString(source).arg(seed).toStdString(), 64, 48);
        };
        QCOMPARE(of("3")(10, 20), 0.541741f);
        QCOMPARE(of("3")(63, 47), 0.561624f);
        QCOMPARE(worst_difference(of("3"), of("3")), 0.0);
        QVERIFY(worst_difference(of("3"), of("4")) > 0.2);
    }

    void noise_keeps_its_range_mean_and_smoothness() {
        for (const char* flavor : {"smooth", "ridged", "billowed", "cells"}) {
            const Plane p = tone_of(
                QString(R"({"kind": "noise", "size_u": 16, "size_v": 16, "octaves": 1, "flavor": "%1"})")
                    .arg(flavor)
                    .toStdString(),
                320, 320);
            double mean = 0, low = 1, high = 0, jump = 0;
            for (int y = 0; y < 320; ++y)
                for (int x = 0; x < 320; ++x) {
                    mean += p(x, y) / (320.0 * 320);
                    low = std::min(low, double(p(x, y))), high = std::max(high, double(p(x, y)));
                    if (x > 0) jump = std::max(jump, std::abs(double(p(x, y)) - p(x - 1, y)));
                }
            const double expected = std::map<std::string, double>{
                {"smooth", 0.5}, {"ridged", 0.73}, {"billowed", 0.27}, {"cells", 0.43}}[flavor];
            QVERIFY2(std::abs(mean - expected) < 0.035,
                     qPrintable(QString("%1 mean %2").arg(flavor).arg(mean)));
            QVERIFY(low >= 0 && high <= 1 && high - low > 0.7);
            QVERIFY2(jump < 0.25, flavor); // 16 px a hill: nothing leaps
        }
    }

    void gains_weigh_octaves() {
        // One octave of gain 0 and one of gain 1 is that octave alone.
        const Plane both = tone_of(
            R"({"kind": "noise", "size_u": 40, "size_v": 40, "octaves": 2, "gains": [1, 1]})", 80, 80);
        const Plane first = tone_of(
            R"({"kind": "noise", "size_u": 40, "size_v": 40, "octaves": 2, "gains": [1, 0]})", 80, 80);
        const Plane second = tone_of(
            R"({"kind": "noise", "size_u": 40, "size_v": 40, "octaves": 2, "gains": [0, 1]})", 80, 80);
        for (int y = 0; y < 80; ++y)
            for (int x = 0; x < 80; ++x)
                QVERIFY(std::abs(both(x, y) - (first(x, y) + second(x, y)) / 2) < 1e-5);
    }

    void what_tiles_meets_at_its_edges_data() {
        QTest::addColumn<QString>("source");
        for (const char* flavor : {"smooth", "ridged", "billowed", "cells"})
            QTest::newRow(flavor)
                << QString(
                       R"({"kind": "noise", "size_u": 37, "size_v": 29, "octaves": 3, "warp": 0.4, "tile": true, "flavor": "%1"})")
                       .arg(flavor);
        for (const auto motif : motif_names)
            QTest::newRow(std::string(motif).c_str())
                << QString(R"({"kind": "pattern", "size": 27, "vary": 0.6, "tile": true, "motif": "%1"})")
                       .arg(QString::fromUtf8(motif.data(), static_cast<qsizetype>(motif.size())));
    }
    void what_tiles_meets_at_its_edges() {
        QFETCH(QString, source);
        // Moved by a whole canvas, it is the same; so what leaves at one edge comes in at the other.
        constexpr int w = 216, h = 162;
        const auto at = [&](int x) {
            return height_of(scene_of(piece_json(
                w, h,
                QString(
                    R"({"id": "n", "source": %1, "placement": {"x": %2, "y": 81}, "steps": [{"kind": "tones", "low": 0, "high": 1, "rise": 1}]})")
                    .arg(source)
                    .arg(x)
                    .toStdString())));
        };
        const Plane a = at(108), b = at(108 + w);
        QVERIFY2(worst_difference(a, b) < 2e-3, qPrintable(QString::number(worst_difference(a, b))));
        double low = 1, high = 0;
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x)
                low = std::min(low, double(a(x, y))), high = std::max(high, double(a(x, y)));
        QVERIFY(high - low > 0.3);
    }

    void a_pattern_looks_the_same_at_half_the_size() {
        const std::string source = R"({"kind": "pattern", "size": 48, "motif": "rivets"})";
        const Plane whole = tone_of(source, 384, 288), half = tone_of(source, 384, 288, 0.5);
        double sum = 0;
        for (int y = 0; y < 144; ++y)
            for (int x = 0; x < 192; ++x) {
                const double mean = (whole(2 * x, 2 * y) + whole(2 * x + 1, 2 * y) + whole(2 * x, 2 * y + 1) +
                                     whole(2 * x + 1, 2 * y + 1)) /
                                    4;
                sum += std::pow(half(x, y) - mean, 2);
            }
        QVERIFY(-10 * std::log10(sum / (192 * 144)) > 35);
    }

    void forms_follow_their_closed_forms_data() {
        QTest::addColumn<QString>("shape");
        QTest::addColumn<double>("at_30"); // 30 px right of the middle of 100 × 100, rise 20
        QTest::newRow("dome") << "dome" << 20 * std::sqrt(1 - 0.36);
        QTest::newRow("cone") << "cone" << 8.0;
        QTest::newRow("dish") << "dish" << 20 * 0.36;
        QTest::newRow("ramp") << "ramp" << 16.0;
        QTest::newRow("ridge") << "ridge" << 20.0;
        QTest::newRow("coin_rim") << "coin_rim" << 20.0; // rim of 40 px: its middle is 20 px in
    }
    void forms_follow_their_closed_forms() {
        QFETCH(QString, shape);
        QFETCH(double, at_30);
        const Plane h = height_of(scene_of(piece_json(
            140, 140,
            QString(
                R"({"id": "f", "source": {"kind": "form", "shape": "%1", "width": 100, "height": 100, "rise": 20, "rim": 40}, "placement": {"x": 70.5, "y": 70.5}})")
                .arg(shape)
                .toStdString())));
        QVERIFY2(std::abs(h(100, 70) - at_30) < 0.05, qPrintable(QString::number(h(100, 70))));
        QCOMPARE(h(5, 5), 0.0f);
    }

    void sheets_are_cut_by_grid_and_by_islands() {
        Picture sheet;
        sheet.width = 50, sheet.height = 24, sheet.channels = 4;
        sheet.samples.assign(50 * 24 * 4, std::byte{0});
        const auto block = [&](Region r) {
            for (int y = r.y0; y < r.y1; ++y)
                for (int x = r.x0; x < r.x1; ++x) sheet.samples[(y * 50 + x) * 4 + 3] = std::byte{255};
        };
        block({3, 4, 10, 12});
        block({20, 2, 31, 13});
        block({22, 15, 28, 22});
        block({29, 15, 33, 20}); // one px from its neighbour: the same island
        sheet.seal();
        SpritesSource s;
        s.cut = SheetCut::islands;
        QCOMPARE(sprite_frames(sheet, s),
                 (std::vector<Region>{{3, 4, 10, 12}, {20, 2, 31, 13}, {22, 15, 33, 22}}));
        s.cut = SheetCut::grid;
        s.columns = 3, s.rows = 2, s.margin = 1, s.spacing = 3;
        const auto grid = sprite_frames(sheet, s);
        QCOMPARE(grid.size(), std::size_t{6});
        QCOMPARE(grid[4], (Region{18, 13, 32, 22}));
        s.columns = 200;
        QVERIFY(trouble_of([&] { sprite_frames(sheet, s); }).find("fewer columns") != std::string::npos);
        const Picture part = part_of(sheet, {20, 2, 31, 13});
        QCOMPARE(part.width, 11);
        QCOMPARE(part.stored(0, 0, 3), 1.0f);
    }

    void a_grid_is_guessed_from_what_is_clear() {
        Picture sheet;
        sheet.width = 96, sheet.height = 64, sheet.channels = 4;
        sheet.samples.assign(96 * 64 * 4, std::byte{0});
        for (int j = 0; j < 2; ++j)
            for (int i = 0; i < 3; ++i)
                for (int y = 4; y < 28; ++y)
                    for (int x = 5; x < 27; ++x)
                        sheet.samples[((j * 32 + y) * 96 + i * 32 + x) * 4 + 3] = std::byte{255};
        sheet.seal();
        QCOMPARE(guessed_grid(sheet), (std::pair{3, 2}));
    }

    void frames_never_bleed_into_each_other() {
        // Two frames side by side, the second full to its edge: the first is as if it were alone.
        auto scene = scene_of(piece_json(
            32, 32,
            R"({"id": "s", "source": {"kind": "sprites", "file": "x"}, "steps": [{"kind": "bevel", "width": 8, "rise": 6}, {"kind": "soften", "radius": 3}]})"));
        auto frame = [](bool full) {
            auto p = std::make_shared<Picture>();
            p->width = p->height = 32, p->channels = 4;
            p->samples.assign(32 * 32 * 4, std::byte{0});
            for (int y = 0; y < 32; ++y)
                for (int x = 0; x < 32; ++x)
                    if (full || (x >= 8 && x < 24 && y >= 8 && y < 24))
                        p->samples[(y * 32 + x) * 4 + 3] = std::byte{255};
            p->seal();
            auto a = std::make_shared<Asset>();
            a->picture = p, a->width = a->height = 32, a->hash = p->hash;
            return a;
        };
        Asset sheet;
        sheet.width = sheet.height = 32;
        sheet.frames = {{frame(false), 0, 0}, {frame(true), 32, 0}};
        sheet.hash = 5;
        scene.assets = std::make_shared<const Assets>(Assets{{"s", std::make_shared<const Asset>(sheet)}});
        const Plane first = height_of(scene);
        scene.frame = 1;
        const Plane second = height_of(scene);
        QVERIFY(worst_difference(first, second) > 1);
        scene.frame = 2; // round again
        QCOMPARE(worst_difference(first, height_of(scene)), 0.0);
        // As if it were a picture by itself.
        auto alone = scene_of(piece_json(
            32, 32,
            R"({"id": "s", "source": {"kind": "picture", "file": "x"}, "steps": [{"kind": "bevel", "width": 8, "rise": 6}, {"kind": "soften", "radius": 3}]})"));
        alone.assets = std::make_shared<const Assets>(Assets{{"s", sheet.frames[0].asset}});
        QCOMPARE(worst_difference(first, height_of(alone)), 0.0);
    }
};
namespace {

Plane tone_of(const std::string& source, int w, int h, double scale) {
    const auto scene =
        scene_of(piece_json(w, h,
                            R"({"id": "n", "source": )" + source +
                                R"(, "steps": [{"kind": "tones", "low": 0, "high": 1, "rise": 1}]})"));
    return height_of(scene, scale);
}

} // namespace

BATHYLUX_TEST(TestMaking)
#include "test_making.moc"
