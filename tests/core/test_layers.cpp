#include <QtTest>
#include <numbers>

#include "core/light/normals.h"
#include "core/piece/references.h"
#include "core/render/see_through.h"
#include "core/step/height.h"

#include "run.h"
#include "support.h"

using namespace bathylux;

namespace {

constexpr int layers_w = 160, layers_h = 120;

const std::string two_lamps = R"("lights": [
    {"id": "sun", "kind": "directional", "angle": 130, "elevation": 35, "intensity": 2, "color": "#ffe0b0"},
    {"id": "lamp", "kind": "point", "x": 40, "y": 30, "z": 60, "intensity": 3, "shadow": true}],
    "ambient": {"intensity": 0.3, "color": "#a0c0ff"})";

std::string layers_json(const std::string& elements, const std::string& more = two_lamps) {
    return piece_json(layers_w, layers_h, elements, more);
}
Strip layers_lit(const Scene& s, Region r = {0, 0, layers_w, layers_h}, double scale = 1) {
    Evaluator evaluator;
    return look(evaluator, s, View::lit, r, scale);
}

/// PSNR of the colours as they are encoded, over the canvas's ground, in dB.
double psnr(const Strip& a, const Strip& b) {
    double sum = 0;
    for (int y = 0; y < layers_h; ++y)
        for (int x = 0; x < layers_w; ++x)
            for (std::size_t c = 0; c < 4; ++c) {
                const double d = srgb_encode(a.channels[c].at(x, y)) - srgb_encode(b.channels[c].at(x, y));
                sum += d * d;
            }
    return -10 * std::log10(std::max(1e-20, sum / (4.0 * layers_w * layers_h)));
}
double most_off(const Strip& a, const Strip& b) {
    double out = 0;
    for (std::size_t c = 0; c < 4; ++c)
        for (int y = 0; y < a.region.height(); ++y)
            for (int x = 0; x < a.region.width(); ++x)
                out = std::max(out, std::abs(double(a.channels[c].at(x, y)) - b.channels[c].at(x, y)));
    return out;
}

const std::string two_forms = R"(
    {"id": "disc", "source": {"kind": "ellipse", "width": 90, "height": 70, "color": "#c08040"},
     "steps": [{"kind": "bevel", "width": 14, "rise": 9}]},
    {"id": "bar", "source": {"kind": "rectangle", "width": 60, "height": 16, "color": "#40a080"},
     "placement": {"x": 90, "y": 64, "turn": 20}, "surface": {"roughness": 0.3},
     "steps": [{"kind": "bevel", "width": 5, "rise": 6, "profile": "chamfer"}]})";
std::string grouped(const std::string& source, const std::string& inside, const std::string& more = "") {
    return R"({"id": "g", "source": {"kind": "group")" + source + R"(}, "elements": [)" + inside + "]" +
           more + "}";
}

/// A picture in which every place says where it is: red across, green down, both linear.
const std::string two_ways = R"(
    {"id": "across", "source": {"kind": "gradient", "angle": 0, "mix_in": "linear",
     "stops": [[0, "#000000"], [1, "#ff0000"]]}},
    {"id": "down", "source": {"kind": "gradient", "angle": 270, "mix_in": "linear",
     "stops": [[0, "#000000"], [1, "#00ff00"]]}, "mix": {"blend": "screen", "linear": true}})";
/// Light that shows colours as they are, and no highlights.
const std::string even_light_json =
    R"("ambient": {"intensity": 1}, "surface": {"roughness": 1, "specular": 0})";

} // namespace

class TestLayers : public QObject {
    Q_OBJECT
  private slots:
    void a_group_lit_by_itself_looks_as_it_does_without() {
        const Strip plain = layers_lit(scene_of(layers_json(two_forms))),
                    apart = layers_lit(scene_of(layers_json(grouped(R"(, "lit": true)", two_forms))));
        QVERIFY2(psnr(plain, apart) > 50, qPrintable(QString::number(psnr(plain, apart))));
        // In its place and size: what the group is moved by, it is lit by.
        const std::string moved =
            R"(, "placement": {"x": 100, "y": 50, "turn": 40, "scale_u": 0.7, "scale_v": 0.7})";
        const Strip there = layers_lit(scene_of(layers_json(grouped("", two_forms, moved)))),
                    lit_there =
                        layers_lit(scene_of(layers_json(grouped(R"(, "lit": true)", two_forms, moved))));
        QVERIFY(psnr(there, lit_there) > 50);
        QVERIFY(psnr(plain, there) < 30);
    }

    void what_is_lit_by_itself_goes_on_as_a_flat_picture() {
        const Scene s = scene_of(layers_json(grouped(R"(, "lit": true)", two_forms)));
        QCOMPARE(relief_of(s).height.is_constant(), true); // it has no height
        // Its steps work on the lit picture: inverted, it is what the lit picture inverted is.
        const Scene inverted = scene_of(
            layers_json(grouped(R"(, "lit": true)", two_forms, R"(, "steps": [{"kind": "invert"}])")));
        const Strip a = layers_lit(s), b = layers_lit(inverted);
        const float was = srgb_encode(a.channels[0].at(80, 60)), is = srgb_encode(b.channels[0].at(80, 60));
        QVERIFY(std::abs(1 - was - is) < 2e-3);
        // And light does not touch it again: twice as much of it doubles the group's own and no more.
        const std::string more =
            R"({"id": "sheet", "source": {"kind": "rectangle", "width": 400, "height": 300}},)";
        const Strip over = layers_lit(scene_of(layers_json(more + grouped(R"(, "lit": true)", two_forms))));
        QVERIFY(std::abs(over.channels[0].at(80, 60) - a.channels[0].at(80, 60)) < 1e-5);
    }

    void what_lies_over_a_lit_group_is_lit_and_covers_it() {
        const std::string lid = R"({"id": "lid", "source": {"kind": "ellipse", "width": 40, "height": 40},
            "steps": [{"kind": "bevel", "width": 8, "rise": 8}]})";
        const Strip alone = layers_lit(scene_of(layers_json(lid))),
                    over =
                        layers_lit(scene_of(layers_json(grouped(R"(, "lit": true)", two_forms) + "," + lid)));
        double off = 0;
        for (int y = 50; y < 70; ++y)
            for (int x = 70; x < 90; ++x)
                off = std::max(off, std::abs(double(alone.channels[1].at(x, y)) - over.channels[1].at(x, y)));
        QVERIFY2(off < 2e-3, qPrintable(QString::number(off)));
    }

    void a_slab_and_a_tilted_plane_bend_as_snell_says() {
        // A slab of even_light_json thickness, looked at straight on, shows what lies right below.
        const auto seen = [&](const std::string& steps, const std::string& surface, Vec2 at,
                              double scale = 1) {
            const Scene s = scene_of(layers_json(
                two_ways + R"(, {"id": "glass", "source": {"kind": "rectangle", "width": 120, "height": 80,
                "color": "#ffffff"}, "steps": [)" +
                    steps + R"(], "surface": {"transmission": 1, "specular": 0, "roughness": 0, )" + surface +
                    "}}",
                even_light_json));
            const Strip strip = layers_lit(s, canvas_region(s.piece->canvas, scale), scale);
            const int x = static_cast<int>(at.x * scale), y = static_cast<int>(at.y * scale);
            return std::pair{strip.channels[0].at(x, y), strip.channels[1].at(x, y)};
        };
        const auto schlick = [](double ior, double cosine) {
            const double f0 = std::pow((ior - 1) / (ior + 1), 2);
            return f0 + (1 - f0) * std::pow(1 - cosine, 5);
        };
        const auto [r, g] = seen("", R"("ior": 1.5, "thickness": 30)", {90, 60});
        QVERIFY(std::abs(r / (1 - schlick(1.5, 1)) * layers_w - 90.5) < 0.3);
        QVERIFY(std::abs(g / (1 - schlick(1.5, 1)) * layers_h - 60.5) < 0.3);

        // A chamfer 40 px wide that rises 20: its normal leans, and the ray with it.
        for (const double ior : {1.33, 1.5, 2.0}) {
            const int x = 34, y = 60; // on the left flank, 14.5 px in from its foot
            const double height = 14.5 / 40 * 20, slope = 20.0 / 40;
            const auto [red, green] =
                seen(R"({"kind": "bevel", "width": 40, "rise": 20, "profile": "chamfer"})",
                     R"("thickness": 25, "ior": )" + std::to_string(ior), {double(x), double(y)});
            const double tilt = std::atan(slope), refracted = std::asin(std::sin(tilt) / ior);
            // The ray leans towards the foot's side by the tilt less what it is refracted by.
            const double leans = std::tan(tilt - refracted) * (25 + height);
            const double k = 1 - schlick(ior, std::cos(tilt));
            const double got = red / k * layers_w, want = x + 0.5 + leans;
            QVERIFY2(std::abs(got - want) < 0.3,
                     qPrintable(QString("%1: %2, not %3").arg(ior).arg(got).arg(want)));
            QVERIFY(std::abs(green / k * layers_h - (y + 0.5)) < 0.3);
        }
    }

    void a_dome_is_a_lens() {
        // A ball's cap of radius 50, 10 px high; its normals are those of the ball.
        const Scene s =
            scene_of(layers_json(two_ways + R"(, {"id": "drop", "source": {"kind": "form", "shape": "dome",
            "width": 60, "height": 60, "rise": 10, "color": "#ffffff"},
            "surface": {"transmission": 1, "specular": 0, "roughness": 0, "ior": 1.33, "thickness": 4}})",
                                 even_light_json));
        const Bundle own = Evaluator().element(s, "drop", {0, 0, layers_w, layers_h}, 1);
        const Strip strip = layers_lit(s);
        int looked = 0;
        for (int y = 44; y < 78; y += 5)
            for (int x = 62; x < 98; x += 5) {
                const int i = x - own.region.x0, j = y - own.region.y0;
                const double gx = (own.height.at(i + 1, j) - own.height.at(i - 1, j)) / 2,
                             gy = (own.height.at(i, j + 1) - own.height.at(i, j - 1)) / 2,
                             length = std::sqrt(1 + gx * gx + gy * gy), eta = 1 / 1.33;
                const double n[3] = {-gx / length, -gy / length, 1 / length}; // y down
                const double c = n[2], k = eta * c - std::sqrt(1 - eta * eta * (1 - c * c));
                const double ray[3] = {k * n[0], k * n[1], -eta + k * n[2]};
                const double t = (4 + own.height.at(i, j)) / -ray[2];
                const double f0 = std::pow(0.33 / 2.33, 2), f = 1 - f0 - (1 - f0) * std::pow(1 - c, 5);
                QVERIFY(std::abs(strip.channels[0].at(x, y) / f * layers_w - (x + 0.5 + ray[0] * t)) < 0.3);
                QVERIFY(std::abs(strip.channels[1].at(x, y) / f * layers_h - (y + 0.5 + ray[1] * t)) < 0.3);
                ++looked;
            }
        QVERIFY(looked > 40);
    }

    void glass_colours_in_depth_and_lets_be_what_lies_beside_it() {
        const std::string sheet =
            R"({"id": "paper", "source": {"kind": "rectangle", "width": 400, "height": 300,
            "color": "#ffffff"}},)";
        const std::string glass =
            R"({"id": "glass", "source": {"kind": "rectangle", "width": 60, "height": 60,
            "color": "#ffffff"}, "surface": {"transmission": 0.8, "specular": 0, "ior": 1.5, "thickness": 20,
            "attenuation_color": "#406080", "attenuation_distance": 40}})";
        const Strip s = layers_lit(scene_of(layers_json(sheet + glass, even_light_json)));
        for (std::size_t c = 0; c < 3; ++c) {
            const double color = srgb_decode(std::array{0x40, 0x60, 0x80}[c] / 255.0f);
            const double want = 0.2 * 1 + 0.8 * (1 - 0.04) * std::pow(color, 0.5);
            QVERIFY2(std::abs(s.channels[c].at(80, 60) - want) < 2e-3,
                     qPrintable(QString::number(s.channels[c].at(80, 60)) + " " + QString::number(want)));
            QVERIFY(std::abs(s.channels[c].at(20, 60) - 1) < 1e-4);
        }
        // Over nothing, what can be seen of it is what it does not let through.
        const Strip alone = layers_lit(scene_of(layers_json(glass, even_light_json)));
        QVERIFY(std::abs(alone.channels[3].at(80, 60) - 0.2) < 1e-4);
        // Multiplied, it colours what lies below once more (W3C, on straight values, here of an opaque
        // ground).
        const std::string grey =
            R"({"id": "paper", "source": {"kind": "rectangle", "width": 400, "height": 300,
            "color": "#808080"}},)";
        const auto over_grey = [&](const std::string& mix) {
            return layers_lit(
                scene_of(layers_json(grey + glass.substr(0, glass.size() - 1) + mix + "}", even_light_json)));
        };
        const Strip as_it_is = over_grey(""),
                    multiplied =
                        over_grey(R"(, "mix": {"blend": "multiply", "linear": true, "opacity": 0.5})");
        for (std::size_t c = 0; c < 3; ++c) {
            const double g = srgb_decode(0x80 / 255.0f), shown = as_it_is.channels[c].at(80, 60);
            QVERIFY(std::abs(multiplied.channels[c].at(80, 60) - (0.5 * g + 0.5 * g * shown)) < 1e-4);
        }
        // It throws no shadow.
        const std::string high = R"({"id": "high", "source": {"kind": "rectangle", "width": 30, "height": 30},
            "steps": [{"kind": "raise", "amount": 40}])";
        const std::string low_sun = R"("lights": [{"id": "sun", "kind": "directional", "angle": 180,
            "elevation": 25, "shadow": true}], "ambient": {"intensity": 0})";
        const auto beside = [&](const std::string& surface) {
            return layers_lit(scene_of(layers_json(sheet + high + surface + "}", low_sun)))
                .channels[0]
                .at(110, 60);
        };
        QVERIFY(beside("") < 0.02f);
        QVERIFY(beside(R"(, "surface": {"transmission": 1})") > 0.3f);
    }

    void roughness_blurs_what_is_seen() {
        const std::string edge = R"({"id": "edge", "source": {"kind": "rectangle", "width": 80, "height": 120,
            "color": "#ffffff"}, "placement": {"x": 40, "y": 60}},)";
        const Strip s = layers_lit(
            scene_of(layers_json(edge + R"({"id": "pane", "source": {"kind": "rectangle", "width": 160,
            "height": 120, "color": "#ffffff"}, "surface": {"transmission": 1, "specular": 0, "ior": 1.5,
            "thickness": 40, "roughness": 0.5}})",
                                 even_light_json)));
        // σ = 40 × ½² ÷ 2 = 5: the edge is the integral of that Gaussian.
        for (int x = 66; x < 95; x += 4) {
            const double want = 0.96 * 0.5 * std::erfc((x + 0.5 - 80) / (5 * std::numbers::sqrt2));
            QVERIFY(std::abs(s.channels[0].at(x, 60) - want) < 2e-3);
        }
    }

    /// Where roughness changes from px to px, each sees what it would see were all as rough as it; and on a
    /// tile what is seen past an edge is the other side.
    void every_px_is_as_rough_as_it_is() {
        constexpr int w = 150, h = 70;
        const Region all{0, 0, w, h};
        std::array<Field, 4> below;
        for (std::size_t c = 0; c < 3; ++c) {
            Plane p(w, h);
            for (int y = 0; y < h; ++y)
                for (int x = 0; x < w; ++x)
                    p(x, y) = ((x / 9 + y / (7 + static_cast<int>(c))) & 1) != 0 ? 0.9f : 0.1f;
            below[c] = Field(std::move(p));
        }
        below[3] = 1.0f;
        Bundle pane;
        pane.region = all, pane.gives_height = true, pane.coverage = 1.0f, pane.thickness = 30.0f;
        Plane slope(w, h);
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) slope(x, y) = 6 + 4 * std::sin(0.09f * static_cast<float>(x + y));
        pane.height = Field(std::move(slope));
        for (Field& f : pane.color) f = 1.0f;
        for (const Edge edge : {Edge::clamp, Edge::repeat}) {
            const auto seen = [&](const Field& roughness) {
                Bundle own = pane;
                own.roughness = roughness;
                return seen_below(own, all, all, 1, edge, [&](Region) { return LitRegion{all, below}; });
            };
            constexpr float rough = 0.6f;
            Plane by_halves(w, h);
            for (int y = 0; y < h; ++y)
                for (int x = 0; x < w; ++x) by_halves(x, y) = x < w / 2 ? 0.0f : rough;
            const auto clear = seen(0.0f), frosted = seen(rough), both = seen(Field(std::move(by_halves)));
            double least = 1e9, most = -1e9;
            for (int y = 0; y < h; ++y)
                for (int x = 0; x < w; ++x) {
                    const double off =
                        std::abs(double(both[0].at(x, y)) - (x < w / 2 ? clear : frosted)[0].at(x, y));
                    QVERIFY2(off <= (x < w / 2 ? 0 : 0.02), qPrintable(QString::number(off)));
                    least = std::min(least, double(frosted[0].at(x, y)));
                    most = std::max(most, double(frosted[0].at(x, y)));
                }
            QVERIFY(most - least < 0.75 * 0.8); // blurred indeed
            // Against the picture read where Snell's law sends each px, in double.
            const auto n = normals(pane.height, all, all, 1, edge);
            for (int y = 3; y < h - 3; y += 5)
                for (int x = 0; x < w; x += 3) {
                    const double eta = 1 / double(pane.ior.constant()), cosine = n[2](x, y),
                                 bends = eta * cosine - std::sqrt(1 - eta * eta * (1 - cosine * cosine)),
                                 way = (30 + pane.height.at(x, y)) / (eta - bends * cosine);
                    double u = x + bends * way * n[0](x, y), v = y - bends * way * n[1](x, y);
                    if (edge == Edge::clamp) u = std::clamp(u, 0.0, w - 1.0), v = std::clamp(v, 0.0, h - 1.0);
                    const int i = static_cast<int>(std::floor(u)), j = static_cast<int>(std::floor(v));
                    const auto px = [&](int a, int b) {
                        return double(below[1].at(wrapped(a, w, edge), wrapped(b, h, edge)));
                    };
                    const double s = u - i, t = v - j,
                                 want = (1 - t) * ((1 - s) * px(i, j) + s * px(i + 1, j)) +
                                        t * ((1 - s) * px(i, j + 1) + s * px(i + 1, j + 1)),
                                 f0 = std::pow((1 - eta) / (1 + eta), 2),
                                 lets = (1 - f0) * (1 - std::pow(1 - cosine, 5));
                    QVERIFY2(
                        std::abs(clear[1].at(x, y) - lets * want) < 2e-3,
                        qPrintable(
                            QString("%1, %2: %3 %4").arg(x).arg(y).arg(clear[1].at(x, y)).arg(lets * want)));
                }
        }
    }

    /// What a px sees is the same to the bit whatever part is asked for.
    void a_part_of_a_pane_sees_what_all_of_it_does() {
        constexpr int w = 1500, h = 190;
        const Region all{0, 0, w, h}, part{1100, 130, 1390, 181};
        const auto field = [](float per_x, float per_y, float height) {
            Plane p(w, h);
            for (int y = 0; y < h; ++y)
                for (int x = 0; x < w; ++x)
                    p(x, y) = height * (1.1f + std::sin(per_x * static_cast<float>(x)) *
                                                   std::cos(per_y * static_cast<float>(y)));
            return Field(std::move(p));
        };
        const LitRegion below{all,
                              {field(0.7f, 0.3f, 0.4f), field(0.2f, 0.9f, 0.4f), field(1.1f, 1, 0.4f), 1.0f}};
        Bundle pane;
        pane.region = all, pane.gives_height = true, pane.coverage = 1.0f, pane.thickness = 23.0f;
        pane.roughness = 0.0f, pane.height = field(0.11f, 0.07f, 17);
        for (Field& f : pane.color) f = 0.8f;
        for (const Edge edge : {Edge::clamp, Edge::repeat}) {
            const auto whole = seen_below(pane, all, all, 1, edge, [&](Region) { return below; });
            const Bundle around = cropped(pane, grow(part, 1));
            const auto seen = seen_below(around, part, all, 1, edge, [&](Region r) {
                LitRegion out{r, {}};
                for (std::size_t c = 0; c < 4; ++c) out.channels[c] = cropped(below.channels[c], all, r);
                return out;
            });
            for (std::size_t c = 0; c < 4; ++c)
                for (int y = part.y0; y < part.y1; ++y)
                    for (int x = part.x0; x < part.x1; ++x)
                        QVERIFY(seen[c].at(x - part.x0, y - part.y0) == whole[c].at(x, y));
        }
    }

    void a_group_that_only_keeps_takes_part_with_its_elements() {
        const std::string glass = R"({"id": "glass", "source": {"kind": "ellipse", "width": 80, "height": 60,
            "color": "#e0ffff"}, "steps": [{"kind": "bevel", "width": 12, "rise": 8}],
            "surface": {"transmission": 0.9, "thickness": 12}})";
        const Strip flat = layers_lit(scene_of(layers_json(two_ways + "," + glass))),
                    kept = layers_lit(scene_of(layers_json(grouped("", two_ways + "," + glass))));
        QVERIFY(psnr(flat, kept) > 60);
        // Kept by a group that does something, what lies below the group still shows through.
        const Strip whole = layers_lit(scene_of(layers_json(
            two_ways + "," + grouped("", glass, R"(, "steps": [{"kind": "gain", "stops": 0}])"))));
        QVERIFY(psnr(flat, whole) > 50);
    }

    void layers_are_the_same_in_tiles() {
        const std::string glass =
            R"({"id": "pane", "source": {"kind": "rectangle", "width": 100, "height": 50,
            "color": "#f0ffff"}, "steps": [{"kind": "bevel", "width": 14, "rise": 10}], "mix": {"opacity": 0.9},
            "surface": {"transmission": 0.9, "thickness": 20, "roughness": 0.4}})";
        const Scene s = scene_of(layers_json(
            two_ways + "," +
                grouped(R"(, "lit": true)", two_forms, R"(, "mix": {"opacity": 0.8, "blend": "multiply"})") +
                "," + glass,
            R"("lights": [{"id": "sun", "kind": "directional", "angle": 120, "elevation": 40}],
                "finish": [{"kind": "gleam", "above": 0.4, "radius": 6}, {"kind": "vignette"}, {"kind": "grain"},
                {"kind": "crisp", "radius": 2}, {"kind": "blur", "radius": 1}], "roll_off": "gentle")"));
        const Strip whole = layers_lit(s);
        for (const int side : {50}) {
            Evaluator evaluator(0, {0, side});
            for (const Region& tile :
                 tiles_of({0, 0, layers_w, layers_h}, {0, 0, layers_w, layers_h}, {0, side})) {
                const Strip part = look(evaluator, s, View::lit, tile, 1);
                for (std::size_t c = 0; c < 4; ++c)
                    for (int y = 0; y < tile.height(); ++y)
                        for (int x = 0; x < tile.width(); ++x)
                            QCOMPARE(part.channels[c].at(x, y),
                                     whole.channels[c].at(tile.x0 + x, tile.y0 + y));
            }
        }
    }

    /// What throws shadow is seen from afar as well: of a group lit by itself its elements alone, and nothing
    /// that light goes through, whichever tile it stands in.
    void far_shadows_are_those_of_what_throws_them() {
        const auto tower = [](const std::string& x) {
            std::string out =
                R"({"id": "tower", "source": {"kind": "rectangle", "width": 20, "height": 44},
                    "placement": {"x": @, "y": 32}, "steps": [{"kind": "raise", "amount": 120}])";
            return out.replace(out.find('@'), 1, x);
        };
        const std::string floor =
                              R"({"id": "floor", "source": {"kind": "rectangle", "width": 900, "height": 70},
                                      "placement": {"x": 300, "y": 32}},)",
                          sun =
                              R"("lights": [{"id": "sun", "kind": "directional", "angle": 0, "elevation": 16,
                                               "shadow": true}], "ambient": {"intensity": 0})";
        const std::string glass = tower("560") + R"(, "surface": {"transmission": 1}})",
                          plain = tower("560") + "}";
        const auto bright_at = [&](const std::string& elements, double x, Cut cut) {
            const Scene s = scene_of(piece_json(600, 64, elements, sun));
            Evaluator evaluator(std::size_t{64} << 20, cut);
            const int at = static_cast<int>(x);
            return look(evaluator, s, View::lit, {at, 28, at + 8, 36}, 1).channels[0].at(4, 4);
        };
        // The shadow reaches 418 px; in tiles of 64 px at most 160 of them are looked at px by px.
        const Cut whole{}, tiles{0, 64};
        for (const double x : {500.0, 300.0, 180.0}) {
            const auto told = [&](const char* what) { return QString("%1 at %2").arg(what).arg(x).toUtf8(); };
            const float open = bright_at(floor + glass, x, whole);
            QVERIFY(open > 0.05f);
            QVERIFY2(bright_at(floor + plain, x, whole) == 0 && bright_at(floor + plain, x, tiles) == 0,
                     told("plain"));
            QVERIFY2(std::abs(bright_at(floor + glass, x, tiles) - open) < 0.01f, told("glass"));
            // Lit by itself, beside something tall that is none of it.
            const std::string apart =
                tower("590") + "}," + grouped(R"(, "lit": true)", floor.substr(0, floor.size() - 1));
            QVERIFY2(std::abs(bright_at(apart, x, whole) - open) < 0.01f, told("apart"));
            QVERIFY2(std::abs(bright_at(apart, x, tiles) - open) < 0.01f, told("apart in tiles"));
            const std::string inside = grouped(R"(, "lit": true)", floor + plain);
            QVERIFY2(bright_at(inside, x, whole) == 0 && bright_at(inside, x, tiles) == 0, told("inside"));
        }
    }

    /// On a tile light reads all of it: what is finished or lit by itself is so in one go.
    void a_large_tile_is_lit_and_finished() {
        const std::string lid = R"({"id": "lid", "source": {"kind": "ellipse", "width": 60, "height": 40},
                                    "steps": [{"kind": "bevel", "width": 8, "rise": 8}]})",
                          over = R"(, "placement": {"x": 150, "y": 110})",
                          finish = R"(, "finish": [{"kind": "vignette"}])";
        auto tile = std::make_shared<Piece>(piece_from_text(
            layers_json(two_forms + "," + grouped(R"(, "lit": true)", lid, over), two_lamps + finish)));
        tile->canvas.edge = Edge::repeat;
        const Scene s{tile, std::make_shared<const Assets>()};
        Evaluator large(std::size_t{64} << 20, {0, 48});
        QCOMPARE(most_off(look(large, s, View::lit, {0, 0, 160, 120}, 1), layers_lit(s)), 0.0);
    }

    void a_twin_is_the_same_again_elsewhere() {
        const std::string words =
            R"({"id": "a", "source": {"kind": "rectangle", "width": 40, "height": 20, "corner": 6,
            "color": "#c08040"}, "placement": {"x": 40, "y": 30, "turn": 10}, "surface": {"roughness": 0.2},
            "mix": {"opacity": 0.4},
            "steps": [{"kind": "bevel", "width": 6, "rise": 5}, {"kind": "gain", "stops": -1}]})";
        const auto with = [&](const std::string& other) {
            return layers_lit(scene_of(layers_json(words + "," + other)));
        };
        const std::string place = R"("placement": {"x": 100, "y": 80, "turn": -30, "scale_u": -1})";
        const std::string copy =
            R"({"id": "b", "source": {"kind": "rectangle", "width": 40, "height": 20, "corner": 6,
            "color": "#c08040"}, "surface": {"roughness": 0.2}, )" +
            place +
            R"(, "steps": [{"kind": "bevel", "width": 6, "rise": 5}, {"kind": "gain", "stops": -1}, {"kind": "invert"}]})";
        const std::string twin = R"({"id": "b", "source": {"kind": "twin", "of": "a"}, )" + place +
                                 R"(, "steps": [{"kind": "invert"}]})";
        QVERIFY(most_off(with(copy), with(twin)) < 1e-5);
        // Twice as large, so is its bevel.
        const auto heights = [&](const std::string& scale) {
            return height_of(
                scene_of(layers_json(words + R"(, {"id": "b", "source": {"kind": "twin", "of": "a"},
                "placement": {"x": 100, "y": 80, "turn": 10, "scale_u": )" +
                                     scale + R"(, "scale_v": )" + scale + "}}")))(100, 80);
        };
        QVERIFY(std::abs(heights("2") - 2 * heights("1")) < 0.05);
        // Of a group, and of what is switched off.
        const std::string hidden = grouped("", words, R"(, "mix": {"visible": false})");
        const Strip of_group = layers_lit(scene_of(
                        layers_json(hidden + R"(, {"id": "t", "source": {"kind": "twin", "of": "g"}})"))),
                    itself = layers_lit(scene_of(layers_json(grouped("", words))));
        QVERIFY(most_off(of_group, itself) < 1e-5);
    }

    void circles_through_twins_and_lit_groups_are_refused_by_name() {
        const auto told = [](const std::string& elements) {
            return trouble_of([&] { Graph(scene_of(layers_json(elements)), 1); });
        };
        const std::string twin = told(R"({"id": "echo", "source": {"kind": "twin", "of": "echo"}})");
        QVERIFY2(twin.find("echo") != std::string::npos, twin.c_str());
        const std::string group =
            told(grouped(R"(, "lit": true)", R"({"id": "echo", "source": {"kind": "twin", "of": "g"}})"));
        QVERIFY(group.find("echo") != std::string::npos && group.find("g") != std::string::npos);
        // A file that has one is refused, and says which member it is.
        Piece bad =
            piece_from_text(layers_json(R"({"id": "echo", "source": {"kind": "twin", "of": "echo"}})"));
        const std::string refused = trouble_of([&] { open_circles(bad); });
        QVERIFY2(refused.find("\"echo\"") != std::string::npos && refused.find("\"of\"") != std::string::npos,
                 refused.c_str());
        // One that has lost what it follows gives nothing.
        const Scene lost =
            scene_of(layers_json(R"({"id": "echo", "source": {"kind": "twin", "of": "gone"}})"));
        QCOMPARE(layers_lit(lost).channels[3].at(80, 60), 0.0f);
    }
};
BATHYLUX_TEST(TestLayers)
#include "test_layers.moc"
