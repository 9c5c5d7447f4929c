#include <QtTest>
#include <numbers>
#include <random>

#include "core/piece/edit.h"
#include "core/step/points.h"

#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

using V3d = std::array<double, 3>;

double encoded(double x) { return x <= 0.0031308 ? 12.92 * x : 1.055 * std::pow(x, 1 / 2.4) - 0.055; }
double decoded(double y) { return y <= 0.04045 ? y / 12.92 : std::pow((y + 0.055) / 1.055, 2.4); }

constexpr int patches_w = 24, patches_h = 16;

/// Patches of all sorts of colours, some see-through.
struct Patches {
    std::vector<std::array<double, 4>> straight; // sRGB-encoded, as stored
    std::shared_ptr<const Picture> picture;
};
Patches patches() {
    std::mt19937 random(7);
    std::uniform_int_distribution<int> byte(0, 255);
    Patches out;
    auto p = std::make_shared<Picture>();
    p->width = patches_w, p->height = patches_h, p->channels = 4;
    for (int i = 0; i < patches_w * patches_h; ++i) {
        std::array<int, 4> v{byte(random), byte(random), byte(random), i % 5 == 0 ? byte(random) : 255};
        if (i < 12) v = {i * 23, i * 23, i * 23, 255};
        for (int c : v) p->samples.push_back(static_cast<std::byte>(c));
        out.straight.push_back({v[0] / 255.0, v[1] / 255.0, v[2] / 255.0, v[3] / 255.0});
    }
    p->seal();
    out.picture = p;
    return out;
}

Scene scene_with(const Patches& p, const std::string& steps, const std::string& more = "") {
    Scene s = scene_of(
        piece_json(patches_w, patches_h,
                   "{\"id\": \"p\", \"source\": {\"kind\": \"picture\", \"file\": \"p.png\"}, \"steps\": [" +
                       steps + "]}" + more));
    Asset a;
    a.picture = p.picture, a.width = patches_w, a.height = patches_h, a.hash = p.picture->hash;
    s.assets = std::make_shared<const Assets>(Assets{{"p", std::make_shared<const Asset>(a)}});
    return s;
}

/// What the picture's colours become, straight and encoded, at one place.
V3d at(const Bundle& b, int x, int y) {
    V3d out{};
    const double a = b.coverage.at(x, y);
    for (int c = 0; c < 3; ++c) out[c] = a > 0 ? encoded(b.color[c].at(x, y) / a) : 0;
    return out;
}

/// How far, at most, a step is from a formula of encoded straight colours, held in 0…1.
double off_formula(const std::string& step, const std::function<V3d(V3d)>& formula) {
    static const Patches p = patches();
    Evaluator evaluator;
    const Bundle b = evaluator.element(scene_with(p, step), "p", {0, 0, patches_w, patches_h}, 1);
    double worst = 0;
    for (int y = 0; y < patches_h; ++y)
        for (int x = 0; x < patches_w; ++x) {
            const auto& s = p.straight[y * patches_w + x];
            if (std::abs(b.coverage.at(x, y) - s[3]) > 1e-6) return 99; // alpha is left alone
            if (s[3] < 0.1) continue;
            const V3d got = at(b, x, y), want = formula({s[0], s[1], s[2]});
            for (int c = 0; c < 3; ++c)
                worst = std::max(worst, std::abs(got[c] - std::clamp(want[c], 0.0, 1.0)));
        }
    return worst;
}

/// OKLab and back after its author's published matrices, in double.
V3d to_lab(V3d v) {
    const double l = std::cbrt(0.4122214708 * v[0] + 0.5363325363 * v[1] + 0.0514459929 * v[2]),
                 m = std::cbrt(0.2119034982 * v[0] + 0.6806995451 * v[1] + 0.1073969566 * v[2]),
                 s = std::cbrt(0.0883024619 * v[0] + 0.2817188376 * v[1] + 0.6299787005 * v[2]);
    return {0.2104542553 * l + 0.7936177850 * m - 0.0040720468 * s,
            1.9779984951 * l - 2.4285922050 * m + 0.4505937099 * s,
            0.0259040371 * l + 0.7827717662 * m - 0.8086757660 * s};
}
V3d from_lab(V3d c) {
    const double l = std::pow(c[0] + 0.3963377774 * c[1] + 0.2158037573 * c[2], 3),
                 m = std::pow(c[0] - 0.1055613458 * c[1] - 0.0638541728 * c[2], 3),
                 s = std::pow(c[0] - 0.0894841775 * c[1] - 1.2914855480 * c[2], 3);
    return {4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s,
            -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
            -0.0041960863 * l - 0.7034186147 * m + 1.7076147010 * s};
}
/// A change of OKLab as a formula of encoded colours; what cannot be shown loses chroma until it can.
std::function<V3d(V3d)> in_lab(const std::function<V3d(V3d)>& change) {
    return [change](V3d v) {
        const V3d lab = change(to_lab({decoded(v[0]), decoded(v[1]), decoded(v[2])}));
        const auto shows = [](V3d c) {
            return std::min({c[0], c[1], c[2]}) >= -1e-6 && std::max({c[0], c[1], c[2]}) <= 1 + 1e-6;
        };
        double k = 1;
        if (!shows(from_lab(lab))) {
            double can = 0, cannot = 1;
            for (int i = 0; i < 50; ++i) {
                k = (can + cannot) / 2;
                (shows(from_lab({lab[0], k * lab[1], k * lab[2]})) ? can : cannot) = k;
            }
            k = can;
        }
        V3d out = from_lab({lab[0], k * lab[1], k * lab[2]});
        for (double& c : out) c = encoded(std::clamp(c, 0.0, 1.0));
        return out;
    };
}

} // namespace

/// Steps on colour against their formulas in double.
class TestColorSteps : public QObject {
    Q_OBJECT
  private slots:
    void formulas_hold() {
        const auto each = [](const std::function<double(double)>& f) {
            return [f](V3d v) { return V3d{f(v[0]), f(v[1]), f(v[2])}; };
        };
        QCOMPARE_LT(
            off_formula(
                "{\"kind\": \"tone_window\", \"low\": 0.2, \"high\": 0.7, \"gamma\": 1.8, \"out_low\": 0.1, "
                "\"out_high\": 0.8}",
                each([](double c) {
                    return 0.1 + 0.7 * std::pow(std::clamp((c - 0.2) / 0.5, 0.0, 1.0), 1 / 1.8);
                })),
            2e-4);
        QCOMPARE_LT(
            off_formula("{\"kind\": \"contrast\", \"contrast\": 3.5, \"brightness\": -0.1, \"pivot\": 0.4}",
                        each([](double c) { return (c - 0.4) * 3.5 + 0.4 - 0.1; })),
            2e-4);
        QCOMPARE_LT(off_formula("{\"kind\": \"invert\"}", each([](double c) { return 1 - c; })), 2e-4);
        QCOMPARE_LT(
            off_formula(
                "{\"kind\": \"gain\", \"stops\": 0.5, \"color\": \"#ff8040\"}",
                [](V3d v) {
                    const double k = std::sqrt(2.0), by[3] = {1, decoded(128 / 255.0), decoded(64 / 255.0)};
                    for (int c = 0; c < 3; ++c) v[c] = encoded(std::min(1.0, decoded(v[c]) * k * by[c]));
                    return v;
                }),
            2e-4);
        // Far past any end, a soft tone is black or white.
        QCOMPARE_LT(off_formula("{\"kind\": \"contrast\", \"contrast\": 500}",
                                each([](double c) { return (c - 0.5) * 500 + 0.5; })),
                    2e-2);
    }

    void colours_turn_evenly_to_the_eye() {
        QCOMPARE_LT(off_formula("{\"kind\": \"hue\", \"turn\": 70, \"saturation\": 0.6, \"lightness\": 0.05}",
                                in_lab([](V3d c) {
                                    const double a = 70 * std::numbers::pi / 180;
                                    return V3d{std::clamp(c[0] + 0.05, 0.0, 1.0),
                                               0.6 * (std::cos(a) * c[1] - std::sin(a) * c[2]),
                                               0.6 * (std::sin(a) * c[1] + std::cos(a) * c[2])};
                                })),
                    2e-3);
        QCOMPARE_LT(off_formula("{\"kind\": \"liven\", \"strength\": 0.8}", in_lab([](V3d c) {
                                    const double k =
                                        1 + 0.8 * (1 - std::min(1.0, std::hypot(c[1], c[2]) / 0.3));
                                    return V3d{c[0], k * c[1], k * c[2]};
                                })),
                    2e-3);
    }

    /// The curve goes through its points, never beyond its neighbours, and its tangents are those of the
    /// rule.
    void curves_go_through_their_points() {
        const Points points{{0, 0.1f}, {0.2f, 0.15f}, {0.5f, 0.9f}, {0.8f, 0.7f}, {1, 0.7f}};
        const MonotoneCurve curve(points);
        for (const auto& [x, y] : points) QVERIFY(std::abs(curve(x) - y) < 1e-6);
        for (std::size_t i = 0; i + 1 < points.size(); ++i) {
            const auto [low, high] = std::minmax(points[i].second, points[i + 1].second);
            for (int k = 0; k <= 100; ++k) {
                const float x = points[i].first + (points[i + 1].first - points[i].first) * float(k) / 100;
                QVERIFY(curve(x) >= low - 1e-5f && curve(x) <= high + 1e-5f);
            }
        }
        // At 0.2 the mean of the slopes 0.25 and 2.5, 1.375, is 5.5 times the lesser: shortened to three over
        // √(1 + 5.5²) of it. At the start the secant's own slope, shortened alike.
        const double tau = 3 / std::sqrt(1 + 5.5 * 5.5), slope = (curve(0.201f) - curve(0.2f)) / 0.001;
        QVERIFY2(std::abs(slope - tau * 5.5 * 0.25) < 0.03, qPrintable(QString::number(slope)));
        const double first = (curve(0.001f) - curve(0.0f)) / 0.001;
        QVERIFY2(std::abs(first - tau * 0.25) < 0.01, qPrintable(QString::number(first)));
        QCOMPARE_LT(off_formula("{\"kind\": \"tone_curve\", \"channel\": \"green\", \"points\": [[0, 0.1], "
                                "[0.2, 0.15], [0.5, "
                                "0.9], [0.8, 0.7], [1, 0.7]]}",
                                [&](V3d v) {
                                    return V3d{v[0], curve(static_cast<float>(v[1])), v[2]};
                                }),
                    5e-4);
    }

    void crisp_brings_out_what_differs() {
        const Patches p = patches();
        Evaluator evaluator;
        const Region all{0, 0, patches_w, patches_h};
        const Bundle b = evaluator.element(
            scene_with(p, "{\"kind\": \"crisp\", \"radius\": 2, \"strength\": 0.7, \"threshold\": 0.05}"),
            "p", all, 1);
        const auto own = [&](int x, int y) {
            return p.straight[std::clamp(y, 0, patches_h - 1) * patches_w + std::clamp(x, 0, patches_w - 1)];
        };
        for (int y = 3; y < 14; y += 3)
            for (int x = 1; x < 23; x += 4) {
                if (own(x, y)[3] < 1) continue;
                double sum = 0, weights = 0;
                for (int j = -14; j <= 14; ++j)
                    for (int i = -14; i <= 14; ++i) {
                        const double k = std::exp(-(i * i + j * j) / 8.0) * own(x + i, y + j)[3];
                        sum += k * own(x + i, y + j)[0], weights += k;
                    }
                const double c = own(x, y)[0], d = c - sum / weights;
                const double want = std::abs(d) > 0.05 ? std::clamp(c + 0.7 * d, 0.0, 1.0) : c;
                QVERIFY2(std::abs(at(b, x, y)[0] - want) < 2e-3,
                         qPrintable(QString("%1 %2: %3 %4").arg(x).arg(y).arg(at(b, x, y)[0]).arg(want)));
            }
    }

    /// before + share × map × (after − before), on premultiplied linear colour; the map is the element's own
    /// red.
    void a_share_of_it_where_a_map_says() {
        const Patches p = patches();
        Evaluator evaluator;
        const Region all{0, 0, patches_w, patches_h};
        const Bundle b = evaluator.element(scene_with(p, "{\"kind\": \"invert\", \"share\": 0.4, \"map\": "
                                                         "{\"of\": \"red\", \"low\": 0.2, \"high\": 0.8}}"),
                                           "p", all, 1);
        for (int y = 0; y < patches_h; ++y)
            for (int x = 0; x < patches_w; ++x) {
                const auto& s = p.straight[y * patches_w + x];
                const double k = 0.4 * std::clamp((s[0] * s[3] - 0.2) / 0.6, 0.0, 1.0);
                for (int c = 0; c < 3; ++c) {
                    const double before = s[3] * decoded(s[c]), after = s[3] * decoded(1 - s[c]);
                    QVERIFY2(std::abs(b.color[c].at(x, y) - (before + k * (after - before))) < 1e-4,
                             qPrintable(QString("%1 %2").arg(x).arg(y)));
                }
            }
        // A share of a height is a share of the height.
        const auto heights = [&](const std::string& share) {
            return height_of(scene_of(piece_json(60, 40,
                                                 "{\"id\": \"o\", \"source\": {\"kind\": \"ellipse\", "
                                                 "\"width\": 40, \"height\": 30}, \"steps\": [{\"kind\": "
                                                 "\"bevel\", \"width\": 8, \"rise\": 10" +
                                                     share + "}]}")));
        };
        const Plane whole = heights(""), part = heights(", \"share\": 0.25");
        for (int x = 0; x < 60; x += 3) QVERIFY(std::abs(part(x, 20) - 0.25 * whole(x, 20)) < 1e-4);
    }

    /// Steps that follow read the colours as they have become.
    void tones_follow_the_colours() {
        const Patches p = patches();
        Evaluator evaluator;
        const Bundle b = evaluator.element(
            scene_with(p,
                       "{\"kind\": \"invert\"}, {\"kind\": \"tones\", \"channel\": \"red\", \"rise\": 10}"),
            "p", {0, 0, patches_w, patches_h}, 1);
        for (int x = 1; x < patches_w; x += 3) {
            const auto& s = p.straight[3 * patches_w + x];
            if (s[3] == 1) QVERIFY(std::abs(b.height.at(x, 3) - 10 * (1 - s[0])) < 2e-3);
        }
    }

    void bad_input_is_told() {
        const auto says = [](const std::string& step) {
            return trouble_of([&] {
                scene_of(piece_json(60, 40,
                                    "{\"id\": \"o\", \"source\": {\"kind\": \"ellipse\"}, \"steps\": [" +
                                        step + "]}"));
            });
        };
        for (const char* points : {"[]", "[[0, 0]]", "[[0, 0], [0.5, 1], [0.5, 0]]", "[[0, 0], [1]]",
                                   "\"up\"", "[[0, 0], [2, 1]]"}) {
            const std::string trouble =
                says(std::string("{\"kind\": \"tone_curve\", \"points\": ") + points + "}");
            QVERIFY2(trouble.find("\"o\"") != std::string::npos &&
                         trouble.find("points") != std::string::npos,
                     trouble.c_str());
        }
        QVERIFY(says("{\"kind\": \"invert\", \"share\": 1.5}").find("share") != std::string::npos);
        QVERIFY(says("{\"kind\": \"contrast\", \"contrast\": -1}").find("contrast") != std::string::npos);
        // What is written is what is read.
        const Scene s =
            scene_of(piece_json(60, 40,
                                "{\"id\": \"o\", \"source\": {\"kind\": \"ellipse\"}, \"steps\": [{\"kind\": "
                                "\"tone_curve\", \"share\": 0.5, \"points\": [[0, 0], [0.25, 0.5], [1, 1]], "
                                "\"map\": {\"of\": \"blue\"}}]}"));
        const Piece again = piece_from_json(parse_json(text_of(*s.piece)));
        QCOMPARE(content_hash(again), content_hash(*s.piece));
        Piece set = *s.piece;
        set_parameter(set, "o.tone_curve.share", "0.75");
        QCOMPARE(set.elements[0]->steps[0]->share, 0.75f);
        QVERIFY(trouble_of([&] {
                    set_parameter(set, "o.tone_curve.share", "2");
                }).find("o.tone_curve.share") != std::string::npos);
    }
};

BATHYLUX_TEST(TestColorSteps)
#include "test_color_steps.moc"
