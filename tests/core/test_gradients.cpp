#include <QtTest>
#include <numbers>
#include <random>

#include "core/piece/colors_in_use.h"
#include "core/step/color_words.h"

#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

using C4 = std::array<double, 4>; // straight, sRGB-encoded

double srgb_of(double x) { return x <= 0.0031308 ? 12.92 * x : 1.055 * std::pow(x, 1 / 2.4) - 0.055; }
double light_of(double y) { return y <= 0.04045 ? y / 12.92 : std::pow((y + 0.055) / 1.055, 2.4); }

const std::vector<std::pair<double, C4>> four{
    {0.1, {0x0b / 255.0, 0x22 / 255.0, 0x33 / 255.0, 1}},
    {0.35, {0xe2 / 255.0, 0xa8 / 255.0, 0x3b / 255.0, 0x80 / 255.0}},
    {0.7, {0x58 / 255.0, 0xb3 / 255.0, 0xa4 / 255.0, 1}},
    {1.0, {0xe4 / 255.0, 0x66 / 255.0, 0x4c / 255.0, 0xff / 255.0}}};
const std::string four_json = R"([[0.1, "#0b2233"], [0.35, "#e2a83b80"], [0.7, "#58b3a4"], [1, "#e4664c"]])";

/// Mixed premultiplied, in encoded or linear values.
C4 between_colors(const C4& a, const C4& b, double t, bool linear) {
    const auto in = [&](double v) { return linear ? light_of(v) : v; };
    C4 out{};
    out[3] = a[3] + t * (b[3] - a[3]);
    for (int c = 0; c < 3; ++c) {
        const double v = (1 - t) * a[3] * in(a[c]) + t * b[3] * in(b[c]);
        out[c] = out[3] > 0 ? v / out[3] : 0;
        if (linear) out[c] = srgb_of(out[c]);
    }
    return out;
}
C4 stops_at(double t, bool linear = false) {
    if (t <= four.front().first) return four.front().second;
    if (t >= four.back().first) return four.back().second;
    std::size_t i = 0;
    while (four[i + 1].first < t) ++i;
    return between_colors(four[i].second, four[i + 1].second,
                          (t - four[i].first) / (four[i + 1].first - four[i].first), linear);
}
double folded(double t, double n, bool mirrored) {
    if (n == 1) return t;
    const double k = std::floor(n * t), f = n * t - k;
    return mirrored && std::fmod(k, 2) != 0 ? 1 - f : f;
}

C4 color_there(const Bundle& b, int x, int y) {
    const double a = b.coverage.at(x, y);
    C4 out{0, 0, 0, a};
    for (int c = 0; c < 3; ++c) out[c] = a > 0 ? srgb_of(b.color[c].at(x, y) / a) : 0;
    return out;
}

constexpr int box_w = 60, box_h = 40;

/// How far a gradient is from a function of places −1…1 across and down.
double off_gradient(const std::string& members, const std::function<C4(double, double)>& formula) {
    const Scene s = scene_of(piece_json(box_w, box_h,
                                        R"({"id": "g", "source": {"kind": "gradient", "stops": )" +
                                            four_json + ", " + members + "}}"));
    Evaluator evaluator;
    const Bundle b = evaluator.element(s, "g", {0, 0, box_w, box_h}, 1);
    if (!(b.region == Region{0, 0, box_w, box_h})) return 99;
    double worst = 0;
    for (int y = 0; y < box_h; ++y)
        for (int x = 0; x < box_w; ++x) {
            const C4 want = formula((x + 0.5) / box_w * 2 - 1, (y + 0.5) / box_h * 2 - 1),
                     got = color_there(b, x, y);
            // As they are seen: by as much as they cover.
            for (int c = 0; c < 3; ++c) worst = std::max(worst, want[3] * std::abs(got[c] - want[c]));
            worst = std::max(worst, std::abs(got[3] - want[3]));
        }
    return worst;
}

/// t along a line over the box, as CSS Images 3 has it.
double along_line(double u, double v, double degrees) {
    const double a = degrees * std::numbers::pi / 180, dx = std::cos(a), dy = -std::sin(a);
    return 0.5 + (u * box_w / 2 * dx + v * box_h / 2 * dy) / (box_w * std::abs(dx) + box_h * std::abs(dy));
}

Scene gradient_with_steps(const std::string& source, const std::string& steps,
                          const std::string& placement = "{}") {
    return scene_of(piece_json(box_w, box_h,
                               R"({"id": "e", "source": )" + source + R"(, "placement": )" + placement +
                                   R"(, "steps": [)" + steps + "]}"));
}
Bundle made_of(const Scene& s, double scale = 1) {
    return Evaluator().element(s, "e", canvas_region(s.piece->canvas, scale), scale);
}

/// Noise of a scene's element before its last steps, in double, premultiplied linear and coverage.
std::vector<std::array<double, 4>> px_of(const Bundle& b) {
    std::vector<std::array<double, 4>> out;
    for (int y = 0; y < box_h; ++y)
        for (int x = 0; x < box_w; ++x)
            out.push_back(
                {b.color[0].at(x, y), b.color[1].at(x, y), b.color[2].at(x, y), b.coverage.at(x, y)});
    return out;
}

} // namespace

class TestGradients : public QObject {
    Q_OBJECT
  private slots:
    void five_shapes_follow_their_formulas();
    void colours_mixed_evenly_to_the_eye_are_even_in_lightness();
    void a_gradient_fills_its_rectangle_where_it_lies();
    void a_wash_runs_over_the_elements_own_box_and_leaves_alpha();
    void a_ramp_colours_by_tone_height_slope_and_coverage();
    void a_blur_is_the_convolution_it_says();
    void stops_that_are_wrong_are_told();
    void steps_say_it_as_one_would();
    void colours_in_use_are_those_a_piece_states();
};

void TestGradients::five_shapes_follow_their_formulas() {
    QVERIFY(off_gradient(R"("angle": 0)", [](double u, double v) { return stops_at(along_line(u, v, 0)); }) <
            1e-3);
    QVERIFY(off_gradient(R"("angle": 37)",
                         [](double u, double v) { return stops_at(along_line(u, v, 37)); }) < 1e-3);
    const double in_light = off_gradient(R"("angle": -120, "mix_in": "linear")", [](double u, double v) {
        return stops_at(along_line(u, v, -120), true);
    });
    QVERIFY2(in_light < 1e-3, qPrintable(QString::number(in_light)));
    QVERIFY(off_gradient(R"("shape": "reflected", "angle": 90)", [](double u, double v) {
                return stops_at(std::abs(2 * along_line(u, v, 90) - 1));
            }) < 1e-3);
    QVERIFY(off_gradient(R"("shape": "radial", "repeats": 3)", [](double u, double v) {
                return stops_at(folded(std::hypot(u, v), 3, false));
            }) < 1e-3);
    QVERIFY(off_gradient(
                R"("shape": "conic", "angle": 25, "repeats": 4, "mirrored": true)", [](double u, double v) {
                    double t = (std::atan2(-v * box_h, u * box_w) * 180 / std::numbers::pi - 25) / 360;
                    return stops_at(folded(t - std::floor(t), 4, true));
                }) < 1e-3);
    QVERIFY(off_gradient(R"("shape": "corners")", [](double u, double v) {
                const C4 top = between_colors(four[0].second, four[1].second, (u + 1) / 2, false),
                         bottom = between_colors(four[2].second, four[3].second, (u + 1) / 2, false);
                return between_colors(top, bottom, (v + 1) / 2, false);
            }) < 1e-3);
}

void TestGradients::colours_mixed_evenly_to_the_eye_are_even_in_lightness() {
    const Stops two{{0, rgb(11, 34, 51)}, {1, rgb(240, 228, 204)}};
    const MixedStops mixed(two, MixIn::oklab);
    const auto lightness = [](const Color& c) {
        const double r = light_of(c.r), g = light_of(c.g), b = light_of(c.b);
        return 0.2104542553 * std::cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b) +
               0.7936177850 * std::cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b) -
               0.0040720468 * std::cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
    };
    const double a = lightness(two[0].color), b = lightness(two[1].color);
    for (double t = 0; t <= 1; t += 0.05)
        QVERIFY(std::abs(lightness(mixed.at(static_cast<float>(t))) - (a + t * (b - a))) < 1e-3);
}

void TestGradients::a_gradient_fills_its_rectangle_where_it_lies() {
    const Scene s = gradient_with_steps(R"({"kind": "gradient", "width": 30, "height": 10, "angle": 0})", "",
                                        R"({"x": 30, "y": 20, "turn": 90})");
    const Bundle b = made_of(s);
    const auto cover = [&](int x, int y) {
        return x < b.region.x0 || y < b.region.y0 || x >= b.region.x1 || y >= b.region.y1
                   ? 0.0f
                   : b.coverage.at(x - b.region.x0, y - b.region.y0);
    };
    QCOMPARE(cover(30, 6), 1.0f); // 30 px along what is now up and down
    QCOMPARE(cover(30, 4), 0.0f);
    QCOMPARE(cover(24, 20), 0.0f); // and 10 across
    QVERIFY(b.silhouette);         // a bevel finds its exact edge
}

void TestGradients::a_wash_runs_over_the_elements_own_box_and_leaves_alpha() {
    const std::string ellipse = R"({"kind": "ellipse", "width": 40, "height": 24, "color": "#808080"})";
    const Bundle plain = made_of(gradient_with_steps(ellipse, "")),
                 washed = made_of(gradient_with_steps(
                     ellipse,
                     R"({"kind": "wash", "angle": 30, "blend": "multiply", "stops": )" + four_json + "}"));
    double worst = 0;
    for (int y = 0; y < plain.region.height(); ++y)
        for (int x = 0; x < plain.region.width(); ++x) {
            const C4 was = color_there(plain, x, y), is = color_there(washed, x, y);
            QCOMPARE(is[3], was[3]);
            if (was[3] < 0.05) continue;
            const double px = plain.region.x0 + x + 0.5 - box_w / 2.0,
                         py = plain.region.y0 + y + 0.5 - box_h / 2.0, a = std::numbers::pi / 6;
            const C4 over =
                stops_at(0.5 + (px * std::cos(a) - py * std::sin(a)) / (40 * std::cos(a) + 24 * std::sin(a)));
            for (int c = 0; c < 3; ++c)
                worst = std::max(worst, std::abs(is[c] - was[c] * (1 - over[3] + over[3] * over[c])));
        }
    QVERIFY2(worst < 2e-3, qPrintable(QString::number(worst)));
}

void TestGradients::a_ramp_colours_by_tone_height_slope_and_coverage() {
    const std::string noise = R"({"kind": "noise", "size_u": 17, "size_v": 17, "seed": 4})";
    const std::string tones = R"({"kind": "tones", "rise": 20},)";
    const Bundle before = made_of(gradient_with_steps(noise, R"({"kind": "tones", "rise": 20})"));
    const auto check = [&](const std::string& ramp, const std::function<double(int, int)>& q,
                           int margin = 0) {
        const Bundle b = made_of(gradient_with_steps(noise, tones + R"({"kind": "ramp", "stops": )" +
                                                                four_json + ", " + ramp + "}"));
        double worst = 0;
        for (int y = margin; y < box_h - margin; ++y)
            for (int x = margin; x < box_w - margin; ++x) {
                const C4 was = color_there(before, x, y), over = stops_at(q(x, y)), is = color_there(b, x, y);
                for (int c = 0; c < 3; ++c)
                    worst = std::max(worst, std::abs(is[c] - (was[c] + over[3] * (over[c] - was[c]))));
            }
        return worst;
    };
    const auto held = [](double v) { return std::clamp(v, 0.0, 1.0); };
    QVERIFY(check(R"("low": 0.3, "high": 0.8)",
                  [&](int x, int y) { return held((before.tone->at(x, y) - 0.3) / 0.5); }) < 2e-3);
    QVERIFY(check(R"("of": "height", "low": 4, "high": 16, "repeats": 7, "mirrored": true)",
                  [&](int x, int y) { return folded(held((before.height.at(x, y) - 4) / 12), 7, true); }) <
            2e-3);
    QVERIFY(check(R"("of": "slope", "high": 0.6)",
                  [&](int x, int y) {
                      const double gx = (before.height.at(x + 1, y) - before.height.at(x - 1, y)) / 2,
                                   gy = (before.height.at(x, y + 1) - before.height.at(x, y - 1)) / 2;
                      return held(std::atan(std::hypot(gx, gy)) * 2 / std::numbers::pi / 0.6);
                  },
                  1) < 2e-3);
    QVERIFY(check(R"("of": "alpha", "low": 1, "high": 0)", [](int, int) { return 0.0; }) < 2e-3);
}

void TestGradients::a_blur_is_the_convolution_it_says() {
    // Half-transparent patches, so that colour and coverage have to go together.
    const std::string source =
        R"({"kind": "gradient", "width": 30, "height": 20, "shape": "conic", "repeats": 3,
        "stops": )" +
        four_json + "}";
    const auto in = px_of([&] {
        Scene s = gradient_with_steps(source, "");
        Bundle b = Evaluator().element(s, "e", {0, 0, box_w, box_h}, 1);
        Bundle whole;
        whole.region = {0, 0, box_w, box_h};
        for (int c = 0; c < 4; ++c) {
            Plane p(box_w, box_h, 0.0f);
            for (int y = b.region.y0; y < b.region.y1; ++y)
                for (int x = b.region.x0; x < b.region.x1; ++x)
                    p(x, y) = (c < 3 ? b.color[static_cast<std::size_t>(c)] : b.coverage)
                                  .at(x - b.region.x0, y - b.region.y0);
            (c < 3 ? whole.color[static_cast<std::size_t>(c)] : whole.coverage) = Field(std::move(p));
        }
        return whole;
    }());
    const auto read = [&](double x, double y, int c) { // bilinear, edges held
        const double fx = std::floor(x), fy = std::floor(y);
        double sum = 0;
        for (int j = 0; j < 2; ++j)
            for (int i = 0; i < 2; ++i) {
                const int px = std::clamp(static_cast<int>(fx) + i, 0, box_w - 1),
                          py = std::clamp(static_cast<int>(fy) + j, 0, box_h - 1);
                sum += (i ? x - fx : 1 - x + fx) * (j ? y - fy : 1 - y + fy) * in[py * box_w + px][c];
            }
        return sum;
    };
    const auto gaussian_at = [&](int x, int y, int c, double sigma) {
        double sum = 0, weight = 0;
        const int r = static_cast<int>(std::ceil(6 * sigma));
        for (int j = -r; j <= r; ++j)
            for (int i = -r; i <= r; ++i) {
                const double k = std::exp(-(i * i + j * j) / (2 * sigma * sigma));
                sum += k * read(x + i, y + j, c), weight += k;
            }
        return sum / weight;
    };
    const auto check = [&](const std::string& members, const std::function<double(int, int, int)>& formula) {
        const Bundle b = made_of(gradient_with_steps(source, R"({"kind": "blur", )" + members + "}"));
        const Region r = b.region;
        double worst = 0;
        for (int y = 0; y < box_h; y += 3)
            for (int x = 0; x < box_w; x += 3)
                for (int c = 0; c < 4; ++c) {
                    const bool there = x >= r.x0 && y >= r.y0 && x < r.x1 && y < r.y1;
                    const Field& f = c < 3 ? b.color[static_cast<std::size_t>(c)] : b.coverage;
                    worst =
                        std::max(worst, std::abs((there ? f.at(x - r.x0, y - r.y0) : 0) - formula(x, y, c)));
                }
        return worst;
    };
    QVERIFY(check(R"("radius": 2.5)", [&](int x, int y, int c) { return gaussian_at(x, y, c, 2.5); }) < 1e-4);
    const double line = check(R"("radius": 0, "length": 17, "angle": 0)", [&](int x, int y, int c) {
        double sum = 0;
        for (int k = 0; k < 1700; ++k) sum += read(x - 8.5 + (k + 0.5) / 100, y, c);
        return sum / 1700;
    });
    QVERIFY2(line < 1e-4, qPrintable(QString::number(line)));
    const double growing = check(R"("radius": 0.5, "radius_to": 5, "along": 0)", [&](int x, int y, int c) {
        const double t = std::clamp(0.5 + (x + 0.5 - box_w / 2.0) / 30, 0.0, 1.0);
        return gaussian_at(x, y, c, 0.5 + t * 4.5);
    });
    QVERIFY2(growing < 2e-3, qPrintable(QString::number(growing)));
    // Along a slanting line: a mean whose middle is here, so that a slope stays what it is.
    const Scene slope = gradient_with_steps(R"({"kind": "gradient", "angle": 0, "mix_in": "linear",
        "stops": [[0, "#000000"], [1, "#ffffff"]]})",
                                            R"({"kind": "blur", "radius": 0, "length": 12, "angle": 30})");
    const Bundle s = made_of(slope);
    for (int x = 12; x < box_w - 12; ++x) QVERIFY(std::abs(s.color[1].at(x, 20) - (x + 0.5) / box_w) < 1e-4);
}

void TestGradients::stops_that_are_wrong_are_told() {
    const auto told = [](const std::string& stops) {
        return trouble_of([&] {
            scene_of(
                piece_json(9, 9, R"({"id": "sky", "source": {"kind": "gradient", "stops": )" + stops + "}}"));
        });
    };
    for (const char* bad :
         {R"([[0.7, "#000000"], [0.2, "#ffffff"]])", R"([[0, "#000000"], [0, "#ffffff"]])", R"([])",
          R"([[0, "red"]])", R"([[0, 4]])", R"("#000000")", R"([[-1, "#000000"]])"}) {
        const std::string sentence = told(bad);
        QVERIFY2(sentence.find("sky") != std::string::npos, bad);
    }
    QVERIFY(told(R"([[0.7, "#000000"], [0.2, "#ffffff"]])").find("stops") != std::string::npos);
}

void TestGradients::steps_say_it_as_one_would() {
    const std::pair<Color, const char*> named[] = {
        {rgb(255, 255, 255), "white"},       {rgb(0, 0, 0), "black"},        {rgb(128, 128, 128), "grey"},
        {rgb(200, 30, 30), "red"},           {rgb(30, 60, 200), "blue"},     {rgb(40, 160, 60), "green"},
        {rgb(250, 240, 120), "pale yellow"}, {rgb(20, 40, 60), "dark blue"}, {rgb(110, 70, 30), "brown"}};
    for (const auto& [color, words] : named) QCOMPARE(in_words(color), std::string(words));
    const auto says = [](const char* step) {
        return gradient_with_steps("{\"kind\": \"noise\"}", step).piece->elements[0]->steps[0]->what.says();
    };
    QCOMPARE(says("{\"kind\": \"ramp\", \"of\": \"height\", \"low\": 2, \"high\": 30, \"repeats\": 7,"
                  " \"stops\": [[0, \"#14283c\"], [1, \"#faf078\"]]}"),
             std::string("seven bands of dark blue to pale yellow by height, 2 to 30 px"));
    QCOMPARE(says("{\"kind\": \"blur\", \"radius\": 3, \"radius_to\": 20}"),
             std::string("3 px, growing to 20 px"));
}

void TestGradients::colours_in_use_are_those_a_piece_states() {
    const Scene s = scene_of(piece_json(9, 9,
                                        "{\"id\": \"a\", \"source\": {\"kind\": \"rectangle\", \"color\": "
                                        "\"#58b3a4\"}, \"steps\": [{\"kind\":"
                                        " \"fill\", \"color\": \"#58b3a4\"}, {\"kind\": \"wash\", \"stops\": "
                                        "[[0, \"#102030\"], [1, \"#58b3a480\"]]}]}",
                                        "\"finish\": [{\"kind\": \"gleam\", \"tint\": \"#ffe0a0\"}]"));
    const auto colors = colors_in_use(*s.piece);
    // Most used first, and see-through or not it is one colour.
    QVERIFY(!colors.empty());
    QCOMPARE(to_string(colors.front()), std::string("#58b3a4"));
    for (const char* stated : {"#102030", "#ffe0a0"})
        QVERIFY(std::find(colors.begin(), colors.end(), parse_color(stated)) != colors.end());
    QCOMPARE(std::count(colors.begin(), colors.end(), parse_color("#58b3a4")), 1);
}

BATHYLUX_TEST(TestGradients)
#include "test_gradients.moc"
