// Steps that bend, against their formulas in double and against pictures sampled sixteen-fold.
#include <QtTest>
#include <numbers>
#include <random>

#include "core/bend/displace.h"
#include "core/bend/drips.h"
#include "core/bend/perspective.h"
#include "core/bend/texels.h"
#include "core/piece/references.h"
#include "core/step/height.h"
#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

constexpr int bent_w = 240, bent_h = 160;
constexpr double half_turn = std::numbers::pi;

/// A scene whose element "e" is a picture of `value` (what is not a number is a hole) at the canvas's middle.
Scene pictured_bend(const std::function<float(double, double)>& value, const std::string& steps,
                    const std::string& more = "",
                    const std::map<std::string, std::function<float(double, double)>>& others = {},
                    const std::string& placement = "{}") {
    std::string elements = R"({"id": "e", "source": {"kind": "picture", "file": "x"}, "placement": )" +
                           placement + R"(, "steps": [)" + steps + "]}";
    for (const auto& [id, f] : others)
        elements += R"(, {"id": ")" + id +
                    R"(", "mix": {"visible": false}, "source": {"kind": "picture", "file": "y"}})";
    Scene s = scene_of(piece_json(bent_w, bent_h, elements + more));
    auto assets = std::make_shared<Assets>(*s.assets);
    const auto asset = [](const std::function<float(double, double)>& f) {
        auto a = std::make_shared<Asset>();
        a->width = bent_w, a->height = bent_h, a->picture = picture_of(bent_w, bent_h, f),
        a->hash = a->picture->hash;
        return a;
    };
    (*assets)["e"] = asset(value);
    for (const auto& [id, f] : others) (*assets)[id] = asset(f);
    s.assets = assets;
    return s;
}
Bundle made_bent(const Scene& s, const std::string& id = "e") {
    const Region all{0, 0, bent_w, bent_h};
    return extended_with_nothing(Evaluator().element(s, id, all, 1), all);
}

/// 20 log10 (1 / rms) over the canvas but for a rim.
double psnr_of(const Bundle& b, const std::function<double(double, double)>& want, int rim) {
    double sum = 0;
    int n = 0;
    for (int y = rim; y < bent_h - rim; ++y)
        for (int x = rim; x < bent_w - rim; ++x) {
            // The mean over the px, sixteen-fold.
            double mean = 0;
            for (int j = 0; j < 4; ++j)
                for (int i = 0; i < 4; ++i) mean += want(x + (i + 0.5) / 4, y + (j + 0.5) / 4) / 16;
            const double d = b.color[0].at(x, y) - mean;
            sum += d * d, ++n;
        }
    return -10 * std::log10(sum / n);
}

/// Smooth hills of light.
float bent_hills(double x, double y) {
    return static_cast<float>(0.5 + 0.25 * std::sin(x / 9) * std::cos(y / 13) +
                              0.2 * std::cos((x + 2 * y) / 21));
}

} // namespace

class TestBend : public QObject {
    Q_OBJECT
  private slots:
    void a_displacement_reads_where_its_formula_says();
    void a_map_that_covers_all_is_read_as_it_is();
    void red_and_green_displace_apart_and_slopes_as_a_lens();
    void nothing_is_moved_where_the_map_covers_nothing_and_edges_are_what_they_say();
    void height_and_coverage_go_along();
    void a_perspective_is_the_homography_of_its_corners();
    void corners_that_fold_are_an_error();
    void what_shrinks_by_eight_has_no_false_patterns();
    void trim_cuts_the_box();
    void melt_is_a_median_and_carries_colour();
    void drips_hang_from_the_lower_edges();
    void an_extrusion_is_its_sweep_data();
    void an_extrusion_is_its_sweep();
    void an_extrusion_covers_what_it_sweeps_data();
    void an_extrusion_covers_what_it_sweeps();
    void what_is_read_hangs_on_no_layout_data();
    void what_is_read_hangs_on_no_layout();
    void a_map_that_leads_back_is_refused();
};

void TestBend::a_displacement_reads_where_its_formula_says() {
    // m rises evenly to the right: d = 30 (2 m − 1) across, −18 (2 m − 1) down.
    const auto ramp = [](double x, double) { return static_cast<float>(x / bent_w); };
    const Scene s = pictured_bend(
        bent_hills, R"({"kind": "displace", "by": {"element": "map"}, "across": 30, "down": -18})", "",
        {{"map", ramp}});
    const auto m = [](double x) { return x / bent_w; };
    QVERIFY(psnr_of(
                made_bent(s),
                [&](double x, double y) {
                    const double k = 2 * m(x) - 1;
                    return double(bent_hills(x - 30 * k, y + 18 * k));
                },
                40) > 46);
    // A thin line lands within 0.3 px of where it should.
    const auto line = [](double x, double) {
        return static_cast<float>(std::exp(-(x - 120) * (x - 120) / 8));
    };
    const Bundle b = made_bent(
        pictured_bend(line, R"({"kind": "displace", "by": {"element": "map"}, "across": 30, "down": 0})", "",
                      {{"map", ramp}}));
    double sum = 0, at = 0;
    for (int x = 0; x < bent_w; ++x) sum += b.color[0].at(x, 80), at += (x + 0.5) * b.color[0].at(x, 80);
    double want = 120;
    for (int i = 0; i < 100; ++i) want = 120 + 30 * (2 * m(want) - 1);
    QVERIFY2(std::abs(at / sum - want) < 0.3, qPrintable(QString::number(at / sum - want)));
    // By nothing, and by a map in the middle, nothing moves: bit for bit.
    const Bundle plain = made_bent(pictured_bend(bent_hills, ""));
    for (const char* steps :
         {R"({"kind": "displace", "across": 30})",
          R"({"kind": "displace", "by": {"element": "", "of": "height"}, "across": 0, "down": 0})"})
        QCOMPARE(worst_difference(made_bent(pictured_bend(bent_hills, steps)).color[0].plane(),
                                  plain.color[0].plane()),
                 0.0);
}

/// Whether a part knows that all of its map counts, or finds it px by px, is of no account; what counts in
/// part is drawn towards ½, no shift.
void TestBend::a_map_that_covers_all_is_read_as_it_is() {
    const Region all{0, 0, 70, 40};
    std::mt19937 random(3);
    std::uniform_real_distribution<float> any(0, 1);
    Plane tone(72, 42), some(72, 42);
    for (int y = 0; y < 42; ++y)
        for (int x = 0; x < 72; ++x) tone(x, y) = any(random), some(x, y) = any(random);
    Displace by;
    by.by = MapRef{"m"}, by.across = 37, by.down = -11;
    const auto places = [&](const Field& cover) {
        Context c{};
        c.region = c.canvas = all, c.length = 1;
        c.maps = {[&](Region r) { return MapField{r, Field(tone), Field(tone), cover}; }};
        return by.looks_at(c);
    };
    const Looks plain = places(Field(1.0f)), counted = places(Field(Plane(72, 42, 1.0f))),
                part = places(Field(some));
    QCOMPARE(worst_difference(plain.x, counted.x), 0.0);
    QCOMPARE(worst_difference(plain.y, counted.y), 0.0);
    for (int y = 0; y < 42; ++y)
        for (int x = 0; x < 72; ++x) {
            const double k = some(x, y), m = k * tone(x, y) + (1 - k) * 0.5;
            QVERIFY(std::abs(part.x(x, y) - (x - 0.5 - 37 * (2 * m - 1))) < 1e-4);
            QVERIFY(std::abs(part.y(x, y) - (y - 0.5 + 11 * (2 * m - 1))) < 1e-4);
        }
}

void TestBend::red_and_green_displace_apart_and_slopes_as_a_lens() {
    const std::string gradient =
        R"(, {"id": "map", "mix": {"visible": false}, "source": {"kind": "gradient", "angle": 0,
        "stops": [[0, "#ff8000"], [1, "#008000"]]}})";
    const Scene s =
        pictured_bend(bent_hills, R"({"kind": "displace", "by": {"element": "map", "of": "red_green"},
                                       "across": 24, "down": 16})",
                      gradient);
    const double db = psnr_of(
        made_bent(s),
        [](double x, double y) {
            return double(bent_hills(x - 24 * (2 * (1 - x / bent_w) - 1), y - 16 * (2 * (128 / 255.0) - 1)));
        },
        30);
    QVERIFY2(db > 46, qPrintable(QString::number(db)));
    // A dome h = 30 − r² ÷ 400 where that stands: its slope is −p ÷ 200 across and down.
    const std::string dome = R"(, {"id": "map", "mix": {"visible": false}, "source": {"kind": "form",
        "shape": "dome", "width": 200, "height": 200, "rise": 20}})";
    const Scene lens =
        pictured_bend(bent_hills, R"({"kind": "displace", "by": {"element": "map", "of": "slopes"},
                                          "across": 40, "down": 40})",
                      dome);
    Evaluator evaluator;
    const Region all{0, 0, bent_w, bent_h};
    const Bundle own = extended_with_nothing(evaluator.element(lens, "map", all, 1), all);
    double worst = 0;
    const Bundle got = made_bent(lens);
    for (int y = 40; y < bent_h - 40; ++y)
        for (int x = 60; x < bent_w - 60; ++x) {
            const double dx = (own.height.at(x + 1, y) - own.height.at(x - 1, y)) / 2.0,
                         dy = (own.height.at(x, y + 1) - own.height.at(x, y - 1)) / 2.0;
            worst = std::max(worst, std::abs(got.color[0].at(x, y) -
                                             double(bent_hills(x + 0.5 + 40 * dx, y + 0.5 + 40 * dy))));
        }
    QVERIFY2(worst < 0.01, qPrintable(QString::number(worst)));
}

void TestBend::nothing_is_moved_where_the_map_covers_nothing_and_edges_are_what_they_say() {
    const std::string patch = R"(, {"id": "map", "mix": {"visible": false}, "placement": {"x": 60, "y": 80},
        "source": {"kind": "rectangle", "width": 60, "height": 60, "color": "#ffffff"}})";
    const Bundle plain = made_bent(pictured_bend(bent_hills, ""));
    const Bundle b = made_bent(
        pictured_bend(bent_hills, R"({"kind": "displace", "by": "map", "across": 20, "down": 0})", patch));
    for (int x = 0; x < bent_w; ++x) {
        const bool in = x > 32 && x < 88;
        if (x > 28 && x < 92 && !in) continue;
        const float want = in ? plain.color[0].at(x - 20, 80) : plain.color[0].at(x, 80);
        QVERIFY2(std::abs(b.color[0].at(x, 80) - want) < 1e-4, qPrintable(QString::number(x)));
    }
    // All of it 20 px to the right: what comes in at the left is nothing, the rim, the other side, the same
    // mirrored.
    const std::string white = R"(, {"id": "map", "mix": {"visible": false},
        "source": {"kind": "rectangle", "width": 2000, "height": 2000, "color": "#ffffff"}})";
    const auto left = [&](const char* edge) {
        return made_bent(
                   pictured_bend(bent_hills,
                                 R"({"kind": "displace", "by": "map", "across": 20, "down": 0, "edge": ")" +
                                     std::string(edge) + "\"}",
                                 white))
            .color[0]
            .at(5, 80);
    };
    QVERIFY(std::abs(left("none")) < 1e-5);
    QVERIFY(std::abs(left("clamp") - plain.color[0].at(0, 80)) < 1e-3);
    QVERIFY(std::abs(left("repeat") - plain.color[0].at(bent_w - 15, 80)) < 1e-3);
    QVERIFY(std::abs(left("mirrored_repeat") - plain.color[0].at(14, 80)) < 1e-3);
    // It reads past the canvas: what lies left of it comes in.
    const Scene wide = scene_of(piece_json(100, 40,
                                           R"({"id": "e", "placement": {"x": -20, "y": 20},
        "source": {"kind": "rectangle", "width": 40, "height": 40, "color": "#ffffff"},
        "steps": [{"kind": "displace", "by": "map", "across": 30, "down": 0}]},)" +
                                               white.substr(1)));
    const Bundle in = Evaluator().relief(wide, {0, 0, 100, 40}, 1);
    QVERIFY(in.coverage.at(10, 20) > 0.99f && in.coverage.at(35, 20) < 0.01f);
}

void TestBend::height_and_coverage_go_along() {
    const std::string black = R"(, {"id": "map", "mix": {"visible": false},
        "source": {"kind": "rectangle", "width": 2000, "height": 2000, "color": "#000000"}})";
    const std::string bevel = R"({"kind": "bevel", "width": 20, "rise": 12, "profile": "chamfer"})";
    const auto ellipse =
        [&](const std::string& steps) {
            return relief_of(
                scene_of(piece_json(bent_w, bent_h, R"({"id": "e", "source": {"kind": "ellipse", "width": 100,
            "height": 80}, "steps": [)" + steps + "]}" + black)));
        };
    const Bundle was = ellipse(bevel),
                 is = ellipse(bevel + R"(, {"kind": "displace", "by": "map", "across": -12.5, "down": 8})");
    // Black moves by (12.5, −8).
    double worst = 0, cover = 0;
    for (int y = 20; y < bent_h - 20; ++y)
        for (int x = 20; x < bent_w - 20; ++x) {
            const double a = (was.height.at(x - 13, y + 8) + was.height.at(x - 12, y + 8)) / 2,
                         c = (was.coverage.at(x - 13, y + 8) + was.coverage.at(x - 12, y + 8)) / 2;
            if (c > 0.999) worst = std::max(worst, std::abs(is.height.at(x, y) - a));
            cover = std::max(cover, std::abs(is.coverage.at(x, y) - c));
        }
    QVERIFY2(worst < 0.1 && cover < 0.15, qPrintable(QString("%1 %2").arg(worst).arg(cover)));
}

void TestBend::a_perspective_is_the_homography_of_its_corners() {
    const std::string step = R"({"kind": "perspective", "tl_x": 40, "tl_y": 10, "tr_x": -30, "tr_y": 24,
                                 "br_x": -6, "br_y": -12, "bl_x": 8, "bl_y": -4})";
    // Eight equations for eight unknowns, solved by elimination: from a moved corner to where it was.
    const double to[4][2] = {{0, 0}, {bent_w, 0}, {bent_w, bent_h}, {0, bent_h}},
                 from[4][2] = {{40, 10}, {bent_w - 30, 24}, {bent_w - 6, bent_h - 12}, {8, bent_h - 4}};
    double a[8][9] = {};
    for (int i = 0; i < 4; ++i) {
        const double x = from[i][0], y = from[i][1], u = to[i][0], v = to[i][1];
        const double rows[2][9] = {{x, y, 1, 0, 0, 0, -u * x, -u * y, u},
                                   {0, 0, 0, x, y, 1, -v * x, -v * y, v}};
        for (int k = 0; k < 9; ++k) a[2 * i][k] = rows[0][k], a[2 * i + 1][k] = rows[1][k];
    }
    for (int i = 0; i < 8; ++i) {
        int p = i;
        for (int r = i; r < 8; ++r)
            if (std::abs(a[r][i]) > std::abs(a[p][i])) p = r;
        std::swap(a[i], a[p]);
        for (int r = 0; r < 8; ++r)
            if (r != i) {
                const double k = a[r][i] / a[i][i];
                for (int c = i; c < 9; ++c) a[r][c] -= k * a[i][c];
            }
    }
    double q[8];
    for (int i = 0; i < 8; ++i) q[i] = a[i][8] / a[i][i];
    const Bundle b = made_bent(pictured_bend(bent_hills, step));
    double sum = 0;
    int n = 0;
    for (int y = 30; y < bent_h - 30; ++y)
        for (int x = 60; x < bent_w - 60; ++x) {
            const double px = x + 0.5, py = y + 0.5, k = q[6] * px + q[7] * py + 1;
            const double d = b.color[0].at(x, y) - bent_hills((q[0] * px + q[1] * py + q[2]) / k,
                                                              (q[3] * px + q[4] * py + q[5]) / k);
            sum += d * d, ++n;
        }
    QVERIFY2(-10 * std::log10(sum / n) > 50, qPrintable(QString::number(-10 * std::log10(sum / n))));
    // Outside the moved frame there is nothing; its corners are where they were put.
    QVERIFY(b.coverage.at(20, 4) < 0.01f && b.coverage.at(44, 16) > 0.99f);
}

void TestBend::corners_that_fold_are_an_error() {
    for (const char* folds :
         {R"("tl_x": 300)", R"("tl_x": 200, "tl_y": 130)", R"("br_x": -240, "br_y": -160)"}) {
        const Scene s = pictured_bend(bent_hills, R"({"kind": "perspective", )" + std::string(folds) + "}");
        QVERIFY2(trouble_of([&] { made_bent(s); }).find("fold") != std::string::npos, folds);
    }
}

void TestBend::what_shrinks_by_eight_has_no_false_patterns() {
    // Rings ever finer: shrunk to an eighth, what is finer than two px must be grey.
    const auto rings = [](double x, double y) {
        const double r = std::hypot(x - bent_w / 2.0, y - bent_h / 2.0);
        return static_cast<float>(0.5 + 0.5 * std::cos(r * r * half_turn / 160));
    };
    const double l = bent_w * 7 / 16.0, t = bent_h * 7 / 16.0;
    const auto corners = [&](double x, double y) {
        return QString(
                   R"({"kind": "perspective", "tl_x": %1, "tl_y": %2, "tr_x": -%1, "tr_y": %2, "br_x": -%1,
                          "br_y": -%2, "bl_x": %1, "bl_y": -%2})")
            .arg(x)
            .arg(y)
            .toStdString();
    };
    const Bundle b = made_bent(pictured_bend(rings, corners(l, t)));
    double worst = 0;
    for (int y = bent_h / 2 - 8; y < bent_h / 2 + 8; ++y)
        for (int x = bent_w / 2 - 13; x < bent_w / 2 + 13; ++x) {
            const double r = std::hypot(x + 0.5 - bent_w / 2.0, y + 0.5 - bent_h / 2.0);
            if (r > 3) worst = std::max(worst, std::abs(b.color[0].at(x, y) - 0.5));
        }
    QVERIFY2(worst < 0.12, qPrintable(QString::number(worst)));
}

void TestBend::trim_cuts_the_box() {
    const Bundle b = made_bent(
        pictured_bend(bent_hills, R"({"kind": "trim", "left": 30, "top": 10.5, "right": 0, "bottom": 40})"));
    QVERIFY(b.coverage.at(29, 80) == 0 && b.coverage.at(30, 80) == 1 && b.coverage.at(bent_w - 1, 80) == 1);
    QVERIFY(std::abs(b.coverage.at(80, 10) - 0.5f) < 1e-3 && b.coverage.at(80, 9) == 0);
    QVERIFY(b.coverage.at(80, bent_h - 41) == 1 && b.coverage.at(80, bent_h - 40) == 0);
    // What follows finds the box that is left: held past its edge.
    const std::string white = R"(, {"id": "map", "mix": {"visible": false},
        "source": {"kind": "rectangle", "width": 2000, "height": 2000, "color": "#ffffff"}})";
    const Bundle held =
        made_bent(pictured_bend(bent_hills, R"({"kind": "trim", "left": 30}, {"kind": "displace", "by": "map",
                                                "across": 25, "down": 0, "edge": "clamp"})",
                                white));
    QVERIFY(std::abs(held.color[0].at(40, 80) - bent_hills(30.5, 80.5)) < 0.01);
}

void TestBend::melt_is_a_median_and_carries_colour() {
    const std::string star = R"({"id": "e", "source": {"kind": "rectangle", "width": 90, "height": 70,
        "color": "#c05a28"}, "placement": {"turn": 17}, "steps": [)";
    const auto made_of = [&](const std::string& steps) {
        const Region all{0, 0, bent_w, bent_h};
        return extended_with_nothing(
            Evaluator().element(scene_of(piece_json(bent_w, bent_h, star + steps + "]}")), "e", all, 1), all);
    };
    const Bundle was = made_of(""), is = made_of(R"({"kind": "melt", "radius": 7})");
    double worst = 0;
    for (int y = 30; y < bent_h - 30; ++y)
        for (int x = 60; x < bent_w - 60; ++x) {
            std::vector<float> v;
            for (int j = -7; j <= 7; ++j)
                for (int i = -7; i <= 7; ++i) v.push_back(was.coverage.at(x + i, y + j));
            std::nth_element(v.begin(), v.begin() + 112, v.end());
            worst = std::max(worst, std::abs(double(v[112]) - is.coverage.at(x, y)));
            const float a = is.coverage.at(x, y);
            if (a > 0.1f)
                worst =
                    std::max(worst, std::abs(is.color[0].at(x, y) / a - double(srgb_decode(0xc0 / 255.0f))));
        }
    QVERIFY2(worst < 1e-4, qPrintable(QString::number(worst)));
}

void TestBend::drips_hang_from_the_lower_edges() {
    const std::string bar = R"({"id": "e", "source": {"kind": "rectangle", "width": 160, "height": 30},
        "placement": {"y": 40}, "steps": [{"kind": "drips", "count": 6, "length": 70, "width": 10, "bead": 16,
        "vary": 0.4, "seed": 3}, {"kind": "bevel", "width": 6, "rise": 5, "profile": "round"}]})";
    const Scene s = scene_of(piece_json(bent_w, bent_h, bar));
    const Bundle b = made_bent(s);
    // Counted where they cross a row well below: six stretches at most, some shorter.
    const auto stretches = [&](int y) {
        int n = 0;
        for (int x = 1; x < bent_w; ++x) n += b.coverage.at(x, y) > 0.5f && b.coverage.at(x - 1, y) <= 0.5f;
        return n;
    };
    QCOMPARE(stretches(62), 6);
    QVERIFY(stretches(112) >= 1 && stretches(112) < 6);
    QCOMPARE(stretches(55 + 70 + 2), 0);
    for (int x = 0; x < bent_w; ++x) QCOMPARE(b.coverage.at(x, 24), 0.0f); // none upwards
    // Moulded with it: no seam in the height where they leave.
    for (int x = 0; x < bent_w; ++x)
        if (b.coverage.at(x, 62) == 1 && b.coverage.at(x, 50) == 1 && b.coverage.at(x - 2, 62) == 1 &&
            b.coverage.at(x + 2, 62) == 1)
            for (int y = 46; y < 62; ++y) QVERIFY(std::abs(b.height.at(x, y) - b.height.at(x, y + 1)) < 2.5f);
    // The same at half the size, but half as large.
    const Bundle small = extended_with_nothing(
        Evaluator().element(s, "e", {0, 0, bent_w / 2, bent_h / 2}, 0.5), {0, 0, bent_w / 2, bent_h / 2});
    double off = 0;
    for (int y = 0; y < bent_h / 2; ++y)
        for (int x = 0; x < bent_w / 2; ++x)
            off += std::abs(small.coverage.at(x, y) -
                            (b.coverage.at(2 * x, 2 * y) + b.coverage.at(2 * x + 1, 2 * y) +
                             b.coverage.at(2 * x, 2 * y + 1) + b.coverage.at(2 * x + 1, 2 * y + 1)) /
                                4);
    QVERIFY2(off < 25, qPrintable(QString::number(off)));
}

void TestBend::an_extrusion_is_its_sweep_data() {
    QTest::addColumn<double>("taper");
    for (const double taper : {0.0, 0.5, 1.0, 1.6}) QTest::addRow("taper %g", taper) << taper;
}

void TestBend::an_extrusion_is_its_sweep() {
    QFETCH(double, taper);
    const std::string disc = R"({"id": "e", "source": {"kind": "ellipse", "width": 60, "height": 60,
        "color": "#ffffff"}, "placement": {"x": 80, "y": 60}, "steps": [{"kind": "extrude", "angle": 330,
        "length": 70, "color": "#808080", "darken": 0.6, "rise": 20, "taper": )" +
                             QString::number(taper).toStdString() + "}]}";
    const Bundle b = made_bent(scene_of(piece_json(bent_w, bent_h, disc)));
    const double vx = 70 * std::cos(-30 * half_turn / 180), vy = 70 * std::sin(30 * half_turn / 180);
    // The smallest s whose disc of radius 30 (1 + s (taper − 1)) about s × (vx, vy) holds a place; 2: none.
    const auto first = [&](double x, double y) {
        for (int k = 0; k <= 2000; ++k) {
            const double t = k / 2000.0;
            if (std::hypot(x - 80 - t * vx, y - 60 - t * vy) <= 30 * (1 + t * (taper - 1))) return t;
        }
        return 2.0;
    };
    double worst = 0, wrong = 0;
    for (int y = 0; y < bent_h; ++y)
        for (int x = 0; x < bent_w; ++x) {
            if (std::abs(b.coverage.at(x, y) - 0.5) < 0.499) continue; // its edge
            const double s = first(x + 0.5, y + 0.5);
            wrong += (b.coverage.at(x, y) > 0.5f) != (s <= 1);
            if (s > 1 || b.coverage.at(x, y) < 0.5f || std::hypot(x + 0.5 - 80, y + 0.5 - 60) < 32) continue;
            // Along its sides s runs away within a px.
            double low = s, high = s;
            for (const auto& [dx, dy] : {std::pair{-0.7, 0.0}, {0.7, 0.0}, {0.0, -0.7}, {0.0, 0.7}}) {
                const double t = first(x + 0.5 + dx, y + 0.5 + dy);
                low = std::min(low, t), high = std::max(high, t);
            }
            if (high > 1) continue;
            const double got = 1 - b.height.at(x, y) / 20;
            worst = std::max({worst, low - got, got - high});
            worst =
                std::max(worst, std::abs(b.color[1].at(x, y) - srgb_decode(128 / 255.0f) * (1 - 0.6 * got)));
        }
    QVERIFY2(wrong < 20, qPrintable(QString::number(wrong)));
    QVERIFY2(worst < 0.01, qPrintable(QString::number(worst)));
    QVERIFY(b.color[0].at(80, 60) > 0.99f);
}

void TestBend::an_extrusion_covers_what_it_sweeps_data() {
    QTest::addColumn<double>("angle");
    QTest::addColumn<double>("taper");
    for (const double angle : {90.0, 200.0, 333.0})
        for (const double taper : {0.6, 1.0, 1.3})
            QTest::addRow("%g degrees, taper %g", angle, taper) << angle << taper;
}

/// Two discs, one behind the other: edges cover as much of a px as what is swept does, those of the faces
/// too.
void TestBend::an_extrusion_covers_what_it_sweeps() {
    QFETCH(double, angle);
    QFETCH(double, taper);
    constexpr double radius = 14, length = 50;
    const Vec2 centre{bent_w / 2.0, bent_h / 2.0};
    const Vec2 way{length * std::cos(angle * half_turn / 180), -length * std::sin(angle * half_turn / 180)};
    const Vec2 apart = 0.35 * way; // the second stands where the first one's body is
    const auto disc = [&](const char* id, Vec2 at) {
        return QString(
                   R"({"id": "%1", "source": {"kind": "ellipse", "width": 28, "height": 28, "color": "#fff"},
                           "placement": {"x": %2, "y": %3}})")
            .arg(id)
            .arg(at.x, 0, 'g', 17)
            .arg(at.y, 0, 'g', 17);
    };
    const auto made_by = [&](double far) {
        const QString group =
            QString(R"({"id": "e", "source": {"kind": "group"}, "elements": [%1, %2], "steps": [
            {"kind": "extrude", "color": "#000", "darken": 0, "angle": %3, "length": %4, "taper": %5}]})")
                .arg(disc("a", centre - apart), disc("b", centre + apart))
                .arg(angle)
                .arg(far)
                .arg(far > 0 ? taper : 1.0);
        return made_bent(scene_of(piece_json(bent_w, bent_h, group.toStdString())));
    };
    const Bundle faces = made_by(0), body = made_by(length);
    // Of |d − s drift| ≤ radius (1 + s (taper − 1)) the least over s, which is a parabola.
    const auto swept = [&](Vec2 q) {
        for (const Vec2& c : {centre - apart, centre + apart}) {
            const Vec2 d = q - c, drift = way + (taper - 1) * (c - centre);
            const double k = radius * (taper - 1), square = dot(drift, drift) - k * k;
            const double s = std::clamp((dot(d, drift) + radius * k) / square, 0.0, 1.0);
            if (dot(d - s * drift, d - s * drift) <= (radius + s * k) * (radius + s * k)) return true;
        }
        return false;
    };
    double worst = 0, area = 0, edge = 0;
    for (int y = 0; y < bent_h; ++y)
        for (int x = 0; x < bent_w; ++x) {
            double share = 0;
            for (int j = 0; j < 8; ++j)
                for (int i = 0; i < 8; ++i) share += swept({x + (i + 0.5) / 8, y + (j + 0.5) / 8}) / 64.0;
            const double got = body.coverage.at(x, y), face = faces.coverage.at(x, y);
            worst = std::max(worst, std::abs(got - share)), area += got - share,
            edge += share > 0 && share < 1;
            // What is not face is black.
            QVERIFY(std::abs(body.color[0].at(x, y) - face) < 1e-5 && got >= face - 1e-6f);
        }
    QVERIFY2(worst < 0.33 && std::abs(area) < 0.06 * edge,
             qPrintable(QString("off by %1, %2 px of %3 at edges").arg(worst).arg(area).arg(edge)));
}

void TestBend::what_is_read_hangs_on_no_layout_data() {
    QTest::addColumn<int>("edge");
    QTest::addColumn<int>("fields");
    for (const Edge edge : {Edge::none, Edge::clamp, Edge::repeat, Edge::mirrored_repeat})
        for (const int fields : {1, 3, 5, 8})
            QTest::addRow("edge %d, %d fields", static_cast<int>(edge), fields)
                << static_cast<int>(edge) << fields;
}

/// The same px come of what is laid out whole and block by block, of a part and of all that is looked at.
void TestBend::what_is_read_hangs_on_no_layout() {
    QFETCH(int, edge);
    QFETCH(int, fields);
    const Edge past{edge};
    const Region plane{-20, -10, 150, 90}, have{-12, 0, 140, 90};
    std::mt19937 random(7);
    std::uniform_real_distribution<float> any(0, 1);
    std::vector<Field> given;
    for (int i = 0; i < fields; ++i) {
        Plane p(have.width(), have.height());
        for (int y = 0; y < p.height(); ++y)
            for (int x = 0; x < p.width(); ++x) p(x, y) = any(random);
        given.emplace_back(i == 2 ? Field(0.75f) : Field(std::move(p)));
    }
    std::vector<TexelField> read; // the last counts as far as the first, where there are more
    for (const Field& f : given) read.push_back({&f, fields > 1 && &f == &given.back() ? 0 : -1});
    // Shrunk towards one side, torn down the middle, far away in a corner.
    const auto looks_over = [](Region r) {
        const Region all = grow(r, 1);
        Looks out{r, Plane(all.width(), all.height()), Plane(all.width(), all.height())};
        for (int y = 0; y < all.height(); ++y)
            for (int x = 0; x < all.width(); ++x) {
                const float u = static_cast<float>(all.x0 + x), v = static_cast<float>(all.y0 + y);
                out.x(x, y) = u < 20 && v < 5 ? 1e9f : u * (u < 200 ? 0.4f : 0.9f) + 0.002f * u * v - 60;
                out.y(x, y) = v * (1 + 0.006f * u) + (u > 300 ? 40.0f : -30.0f);
            }
        return out;
    };
    const Region everything{-100'000, -100'000, 100'000, 100'000};
    const auto made_of = [&](Region r, bool scattered) {
        const Looks looks = looks_over(r);
        Survey survey = surveyed(looks, past == Edge::none ? have : everything);
        survey.scattered = scattered, survey.halvings = 3;
        const Region source =
            past == Edge::none ? Region{-24, -16, 152, 96} : plane; // on the grid of the halvings
        return read_at(Texels(read, have, source, past, survey), looks, survey, fields);
    };
    const Region all{0, 0, 421, 133};
    const std::vector<Plane> whole = made_of(all, true), blocks = made_of(all, false);
    for (std::size_t i = 0; i < whole.size(); ++i) QCOMPARE(worst_difference(whole[i], blocks[i]), 0.0);
    for (const Region part : {Region{0, 0, 9, 133}, Region{190, 30, 330, 100}, Region{400, 90, 421, 133}}) {
        const std::vector<Plane> some = made_of(part, false);
        for (std::size_t i = 0; i < some.size(); ++i)
            QCOMPARE(worst_difference(some[i], extended(whole[i], all, part, Edge::clamp)), 0.0);
    }
}

void TestBend::a_map_that_leads_back_is_refused() {
    for (const char* kind : {"displace", "wear"}) {
        Piece p =
            piece_from_text(piece_json(bent_w, bent_h,
                                       R"({"id": "e", "source": {"kind": "ellipse"}, "steps": [{"kind": ")" +
                                           std::string(kind) + R"(", "by": {"element": "e"}}]})"));
        const std::string says = trouble_of([&] { open_circles(p); });
        QVERIFY2(says.find("leads back") != std::string::npos && says.find(kind) != std::string::npos,
                 says.c_str());
    }
    Piece p = piece_from_text(
        piece_json(bent_w, bent_h, R"({"id": "e", "source": {"kind": "ellipse"}, "steps": [{"kind": "wear",
        "by": {"element": "f"}}]}, {"id": "f", "source": {"kind": "noise"}})"));
    const std::string was = text_of(p);
    QVERIFY(!trouble_of([&] { set_parameter(p, "f.wear.by.element", "e"); }).empty());
    set_parameter(p, "e.wear.by.of", "slope");
    QVERIFY(text_of(p) != was && text_of(p).find("\"of\": \"slope\"") != std::string::npos);
    QCOMPARE(text_of(piece_from_text(text_of(p))), text_of(p));
}

BATHYLUX_TEST(TestBend)
#include "test_bend.moc"
