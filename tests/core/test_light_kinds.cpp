// Strips, skies, materials with coat and sheen, parts of the light, moods and lights that go with elements:
// against sums over many points, the Khronos formulas in double, and closed forms.
#include <QtTest>
#include <numbers>
#include <random>

#include "core/error.h"
#include "core/field/srgb.h"
#include "core/light/shade.h"
#include "core/render/lit_parts.h"
#include "core/render/tied_lights.h"
#include "run.h"
#include "support.h"
#include "vectors.h"

using namespace bathylux;

namespace {

constexpr double pi = std::numbers::pi;
/// JSON with its quotes told as ', which the meta-object compiler reads without stumbling.
std::string quoted(std::string json) {
    std::replace(json.begin(), json.end(), '\'', '"');
    return json;
}

struct Stuff {
    double base = 0.5, roughness = 0.5, metallic = 0, specular = 1, coat = 0, coat_roughness = 0.1, sheen = 0,
           sheen_roughness = 0.5, sheen_tint = 0;
};

double ggx(V3 n, V3 l, V3 h, double roughness) {
    const double a2 = std::pow(roughness, 4), ndl = dot3(n, l), ndv = n[2], ndh = dot3(n, h);
    const double d = a2 / (pi * std::pow(ndh * ndh * (a2 - 1) + 1, 2));
    return d * 0.5 /
           (ndl * std::sqrt(ndv * ndv * (1 - a2) + a2) + ndv * std::sqrt(ndl * ndl * (1 - a2) + a2));
}

/// KHR_materials_sheen: the Charlie distribution with the Neubelt visibility.
double charlie(V3 n, V3 l, V3 h, double roughness) {
    const double inverse = 1 / (roughness * roughness), ndh = dot3(n, h), ndl = dot3(n, l), ndv = n[2];
    const double d = (2 + inverse) * std::pow(std::sqrt(std::max(0.0, 1 - ndh * ndh)), inverse) / (2 * pi);
    return d / (4 * (ndl + ndv - ndl * ndv));
}

/// The share a white sheen sends on of a white sky, by a plain sum over the hemisphere.
double sheen_albedo(double ndv, double roughness) {
    const V3 n{std::sqrt(1 - ndv * ndv), 0, ndv}; // as seen from (0, 0, 1)
    const V3 t = unit({n[2], 0, -n[0]}), b{0, 1, 0};
    double sum = 0;
    constexpr int rings = 300, spokes = 200;
    for (int i = 0; i < rings; ++i)
        for (int k = 0; k < spokes; ++k) {
            const double c = (i + 0.5) / rings, s = std::sqrt(1 - c * c), phi = 2 * pi * (k + 0.5) / spokes;
            V3 l;
            for (int a = 0; a < 3; ++a) l[a] = c * n[a] + s * std::cos(phi) * t[a] + s * std::sin(phi) * b[a];
            const V3 h = unit({l[0], l[1], l[2] + 1});
            sum += charlie(n, l, h, roughness) * c * 2 * pi / (rings * spokes);
        }
    return sum;
}

/// f × n·l for the view (0, 0, 1), as KHR_materials_specular, _sheen and _clearcoat write it.
double surface(V3 n, V3 l, const Stuff& m) {
    const double ndl = dot3(n, l);
    if (ndl <= 0) return 0;
    const V3 h = unit({l[0], l[1], l[2] + 1});
    const double w5 = std::pow(1 - h[2], 5);
    const double f0 = 0.04 * m.specular * (1 - m.metallic) + m.base * m.metallic,
                 f90 = m.specular * (1 - m.metallic) + m.metallic, f = f0 + (f90 - f0) * w5;
    double out = (1 - f) * (1 - m.metallic) * m.base / pi + f * ggx(n, l, h, m.roughness);
    const double color = m.sheen * (1 + m.sheen_tint * (m.base - 1));
    if (m.sheen > 0)
        out = out * (1 - color * sheen_albedo(n[2], m.sheen_roughness)) +
              color * charlie(n, l, h, m.sheen_roughness);
    const double coat = m.coat * (0.04 + 0.96 * std::pow(1 - n[2], 5));
    return (out * (1 - coat) + coat * ggx(n, l, h, m.coat_roughness)) * ndl;
}

/// A tilted plane of stuff, 32 px a side.
constexpr int n_px = 32;
Bundle tilted(double p, double q, const Stuff& m) {
    Plane h(n_px, n_px);
    for (int y = 0; y < n_px; ++y)
        for (int x = 0; x < n_px; ++x) h(x, y) = static_cast<float>(p * x + q * y);
    Bundle b;
    b.region = {0, 0, n_px, n_px};
    for (Field& c : b.color) c = static_cast<float>(m.base);
    b.coverage = 1.0f;
    b.height = Field(h);
    b.roughness = float(m.roughness), b.metallic = float(m.metallic), b.specular = float(m.specular);
    b.coat = float(m.coat), b.coat_roughness = float(m.coat_roughness);
    b.sheen = float(m.sheen), b.sheen_roughness = float(m.sheen_roughness),
    b.sheen_tint = float(m.sheen_tint);
    return b;
}

Piece lit_by(const char* kind, const Described& what) {
    Piece p;
    p.ambient.intensity = 0;
    p.lights = {Light{"l", "", true, what}};
    Q_UNUSED(kind);
    return p;
}

} // namespace

class TestLightKinds : public QObject {
    Q_OBJECT
  private slots:
    void coat_sheen_and_specular_are_those_of_the_extensions() {
        std::mt19937 random(3);
        std::uniform_real_distribution<double> u(0, 1);
        for (int round = 0; round < 40; ++round) {
            Stuff m{0.05 + 0.9 * u(random), 0.2 + 0.8 * u(random), round % 2 ? u(random) : 0, u(random)};
            if (round % 3) m.coat = u(random), m.coat_roughness = 0.2 + 0.6 * u(random);
            if (round % 4)
                m.sheen = u(random), m.sheen_roughness = 0.3 + 0.7 * u(random), m.sheen_tint = u(random);
            const double p = u(random) - 0.5, q = u(random) - 0.5;
            DirectionalLight far;
            far.angle = float(360 * u(random) - 180), far.elevation = float(20 + 65 * u(random));
            const auto lit = shade(tilted(p, q, m), {0, 0, n_px, n_px}, 1, Edge::clamp,
                                   lighting_of(lit_by("", Described(light_kind("directional"), far))));
            const double a = far.angle * radians_per_degree, e = far.elevation * radians_per_degree;
            const double expected =
                pi * surface(unit({-p, q, 1}),
                             {std::cos(e) * std::cos(a), std::cos(e) * std::sin(a), std::sin(e)}, m);
            // The sheen's share of a sky comes out of a table.
            const double allowed = (m.sheen > 0 ? 4e-3 : 2e-4) * std::max(1.0, expected);
            QVERIFY2(
                std::abs(lit[0](16, 16) - expected) < allowed,
                qPrintable(QString("%1 not %2 (round %3)").arg(lit[0](16, 16)).arg(expected).arg(round)));
        }
    }

    void a_strip_is_the_sum_of_many_lamps_along_it_data() {
        QTest::addColumn<double>("roughness");
        QTest::addColumn<double>("metallic");
        QTest::addColumn<int>("falloff");
        for (const double roughness : {0.2, 0.4, 0.8})
            for (const double metallic : {0.0, 1.0})
                QTest::addRow("roughness %.1f, metallic %.0f", roughness, metallic)
                    << roughness << metallic << static_cast<int>(10 * roughness) / 2 % 3;
    }
    void a_strip_is_the_sum_of_many_lamps_along_it() {
        QFETCH(double, roughness);
        QFETCH(double, metallic);
        QFETCH(int, falloff);
        Stuff m;
        m.roughness = roughness, m.metallic = metallic, m.base = 0.7;
        StripLight strip;
        strip.x = 20, strip.y = 12, strip.z = 60, strip.length = 90, strip.width = 0, strip.turn = 30;
        strip.distance = 50, strip.color = {1, 1, 1, 1}, strip.falloff = static_cast<Falloff>(falloff);
        double worst = 0;
        for (const auto& [p, q] : {std::pair{0.0, 0.0}, {0.4, 0.1}, {-0.3, 0.5}, {0.1, -0.35}}) {
            const Bundle b = tilted(p, q, m);
            const auto lit = shade(b, b.region, 1, Edge::clamp,
                                   lighting_of(lit_by("", Described(light_kind("strip"), strip))));
            const V3 normal = unit({-p, q, 1});
            for (const int y : {3, 15, 28})
                for (const int x : {2, 14, 29}) {
                    double sum = 0;
                    constexpr int lamps = 4000;
                    const double a = strip.turn * radians_per_degree;
                    for (int i = 0; i < lamps; ++i) {
                        const double s = strip.length * ((i + 0.5) / lamps - 0.5);
                        const V3 to{strip.x + s * std::cos(a) - (x + 0.5),
                                    (y + 0.5) - strip.y + s * std::sin(a), strip.z - b.height.at(x, y)};
                        const double d = std::sqrt(dot3(to, to));
                        const double fall = falloff == 0 ? std::pow(50 / d, 2) : falloff == 1 ? 50 / d : 1;
                        sum += pi * fall * surface(normal, unit(to), m) / lamps;
                    }
                    worst = std::max(worst, std::abs(lit[0](x, y) - sum) / std::max(0.05, sum));
                }
        }
        QVERIFY2(worst < 0.02, qPrintable(QString::number(worst)));
    }

    void a_lights_size_spreads_its_highlight_as_a_disc_does() {
        // A far light 12° across over polished metal: the mean over the disc, by many directions.
        for (const double roughness : {0.2, 0.35, 0.6}) {
            Stuff m;
            m.metallic = 1, m.roughness = roughness, m.base = 1;
            DirectionalLight far;
            far.angle = 0, far.elevation = 70, far.size = 12;
            double inside = 0, expected = 0;
            for (double tilt = -20; tilt <= 20; tilt += 1) {
                // Slopes about the one that mirrors the light to the eye.
                const double slope = -std::tan((10 + tilt) * radians_per_degree);
                const auto lit = shade(tilted(slope, 0, m), {0, 0, n_px, n_px}, 1, Edge::clamp,
                                       lighting_of(lit_by("", Described(light_kind("directional"), far))));
                inside += lit[0](16, 16);
                const V3 n = unit({-slope, 0, 1});
                double sum = 0;
                int count = 0;
                for (int i = -20; i <= 20; ++i)
                    for (int k = -20; k <= 20; ++k) {
                        const double du = i / 20.0 * 6, dv = k / 20.0 * 6;
                        if (std::hypot(du, dv) > 6) continue;
                        const double e = (70 + du) * radians_per_degree,
                                     a = dv * radians_per_degree / std::cos(e);
                        sum += pi *
                               surface(n, {std::cos(e) * std::cos(a), std::cos(e) * std::sin(a), std::sin(e)},
                                       m);
                        ++count;
                    }
                expected += sum / count;
            }
            // As much light in all, to a few per cent, though spread.
            QVERIFY2(
                std::abs(inside / expected - 1) < 0.09,
                qPrintable(QString("%1 and %2 at roughness %3").arg(inside).arg(expected).arg(roughness)));
        }
    }

    void a_white_sky_shows_colours_as_they_are_and_metal_mirrors_it() {
        SkyLight sky;
        sky.zenith = sky.horizon = sky.ground = {1, 1, 1, 1}, sky.intensity = 1, sky.shadow = false;
        Stuff m;
        m.base = 0.3;
        const auto lit = [&](const Stuff& stuff, double p) {
            return shade(tilted(p, 0, stuff), {0, 0, n_px, n_px}, 1, Edge::clamp,
                         lighting_of(lit_by("", Described(light_kind("sky"), sky))))[0](16, 16);
        };
        // (1 − E) base + E, with E the share that a surface of F0 0.04 reflects.
        const EnvironmentShare e = environment_share(1, 0.5f);
        const double reflects = 0.04 * e.scale + e.offset;
        QVERIFY(reflects > 0.03 && reflects < 0.06);
        QVERIFY2(std::abs(lit(m, 0) - ((1 - reflects) * 0.3 + reflects)) < 2e-3,
                 qPrintable(QString::number(lit(m, 0))));
        // Half black, half white, parted by a plane: a mirror tilted by 30° looks 60° aside.
        const SkyMap halves([](const V3& d) { return d[0] > 0 ? Rgb{1, 1, 1} : Rgb{0, 0, 0}; });
        QVERIFY(std::abs(halves.reflected(0.5f, 0, 0.86f, 0)[0] - 1) < 1e-3);
        QVERIFY(halves.reflected(-0.5f, 0, 0.86f, 0)[0] < 1e-3);
        QVERIFY(std::abs(halves.reflected(0, 0, 1, 0.6f)[1] - 0.5) < 0.02);
        // Its irradiance in closed form: ½ + ½ n·x. Nine harmonics ring by a few per cent at such an edge.
        for (const double t : {-60.0, -20.0, 0.0, 35.0, 80.0}) {
            const double s = std::sin(t * radians_per_degree);
            const float d = halves.diffuse(float(s), 0, float(std::cos(t * radians_per_degree)))[2];
            QVERIFY2(std::abs(d - (0.5 + 0.5 * s)) < 0.03, qPrintable(QString("%1: %2").arg(t).arg(d)));
        }
    }

    void the_share_of_a_sky_is_that_of_a_plain_sum() {
        for (const double roughness : {0.3, 0.6, 1.0})
            for (const double ndv : {0.25, 0.6, 1.0}) {
                // A surface that reflects all (F = 1): scale + offset against the sum over the hemisphere.
                const V3 n{std::sqrt(1 - ndv * ndv), 0, ndv};
                const V3 t = unit({n[2], 0, -n[0]}), b{0, 1, 0};
                double sum = 0;
                constexpr int rings = 500, spokes = 400;
                for (int i = 0; i < rings; ++i)
                    for (int k = 0; k < spokes; ++k) {
                        const double c = (i + 0.5) / rings, s = std::sqrt(1 - c * c),
                                     phi = 2 * pi * (k + 0.5) / spokes;
                        V3 l;
                        for (int a = 0; a < 3; ++a)
                            l[a] = c * n[a] + s * std::cos(phi) * t[a] + s * std::sin(phi) * b[a];
                        sum += ggx(n, l, unit({l[0], l[1], l[2] + 1}), roughness) * c * 2 * pi /
                               (rings * spokes);
                    }
                const EnvironmentShare e = environment_share(float(ndv), float(roughness));
                QVERIFY2(std::abs(e.scale + e.offset - sum) < 0.015,
                         qPrintable(QString("%1 not %2").arg(e.scale + e.offset).arg(sum)));
                QVERIFY(std::abs(sheen_share(float(ndv), float(roughness)) - sheen_albedo(ndv, roughness)) <
                        0.02);
            }
    }

    void parts_add_up_to_the_whole() {
        for (const std::string& more :
             {std::string(), quoted("'keep_flat_color': true,"),
              quoted("'exposure': 0.7, 'relight': 0.6, 'relight_blend': 'overlay',")}) {
            const Scene s = scene_of(piece_json(
                90, 60,
                quoted("{'id': 'g', 'source': {'kind': 'rectangle', 'width': 90, 'height': 60, 'color': "
                       "'#c0c0c0'}}, {'id': 'r', 'source': {'kind': 'rectangle', 'width': 50, 'height': 30, "
                       "'color': '#a8642c'},"
                       " 'surface': {'roughness': 0.3, 'coat': 0.5, 'sheen': 0.3},"
                       " 'steps': [{'kind': 'bevel', 'width': 10, 'rise': 12, 'profile': 'round'}]}"),
                QString::fromStdString(quoted("%1 'ambient': {'intensity': 0.3, 'occlusion': true},"
                                              " 'lights': [{'id': 'a', 'kind': 'directional', 'elevation': "
                                              "20, 'shadow': true, 'size': 3},"
                                              " {'id': 'b', 'kind': 'strip', 'x': 40, 'y': 5, 'z': 40, "
                                              "'length': 50, 'shadow': true},"
                                              " {'id': 'c', 'kind': 'sky', 'scene': 'harbour'}]"))
                    .arg(QString::fromStdString(more))
                    .toStdString()));
            const Bundle b = relief_of(s);
            const Lighting lighting = lighting_of(s);
            const Strip whole = view_of(View::lit, b, b.region, 1, Edge::clamp, lighting);
            Evaluator evaluator;
            const LitParts parts = lit_parts(evaluator, s, 1);
            double most_shadow = 0, most_groove = 0;
            for (int y = 0; y < 60; ++y)
                for (int x = 0; x < 90; ++x)
                    for (int c = 0; c < 3; ++c) {
                        float sum = 0;
                        for (const auto& part : parts.parts) sum += part[c](x, y);
                        QVERIFY(std::abs(sum - whole.channels[c].at(x, y)) < 1e-4f * std::max(1.0f, sum));
                        most_shadow = std::min<double>(most_shadow, parts.parts[4][c](x, y));
                        most_groove = std::min<double>(most_groove, parts.parts[1][c](x, y));
                        if (more.empty() || more[1] == 'k')
                            QVERIFY(parts.parts[2][c](x, y) >= 0 && parts.parts[3][c](x, y) >= 0);
                    }
            QVERIFY2(most_shadow < -0.05 && most_groove < (more.empty() ? -0.01 : -1e-3),
                     qPrintable(QString("%1 %2").arg(most_shadow).arg(most_groove)));
        }
    }

    /// Through glass and within groups lit by themselves too: without shadow, light is a plain sum; the
    /// finish is what it changes.
    void layers_and_finish_come_apart_too() {
        const Scene s = scene_of(piece_json(
            90, 60,
            quoted("{'id': 'g', 'source': {'kind': 'rectangle', 'width': 90, 'height': 60, 'color': "
                   "'#c0a080'}, 'steps': [{'kind': 'bevel', 'width': 9, 'rise': 9}]},"
                   "{'id': 'lit', 'source': {'kind': 'group', 'lit': true}, 'mix': {'opacity': 0.7, "
                   "'linear': true}, "
                   "'elements': [{'id': 'e', 'source': {'kind': 'ellipse', 'width': 40, 'height': 40, "
                   "'color': '#4060c0'}, 'placement': {'x': 30, 'y': 30}, 'steps': [{'kind': 'bevel', "
                   "'width': 20, 'rise': 15}]}]},"
                   "{'id': 'pane', 'source': {'kind': 'ellipse', 'width': 60, 'height': 50, 'color': "
                   "'#c0ffd0'}, 'placement': {'x': 50, 'y': 30}, 'surface': {'roughness': 0.2, "
                   "'transmission': 0.7, 'ior': 1.5, 'thickness': 10}, 'steps': [{'kind': 'bevel', 'width': "
                   "20, 'rise': 9}]}"),
            quoted("'ambient': {'intensity': 0.3, 'occlusion': false}, 'roll_off': 'film', 'lights': "
                   "[{'id': 'a', 'kind': 'directional', 'elevation': 30}, {'id': 'b', 'kind': 'sky', "
                   "'scene': 'harbour', 'shadow': false}],"
                   "'finish': [{'id': 'f', 'kind': 'gleam', 'radius': 8, 'above': 0.4, 'strength': 0.6}]")));
        Piece bare = *s.piece;
        bare.roll_off = RollOff::none;
        Scene plain = s;
        plain.piece = std::make_shared<const Piece>(bare);
        Evaluator evaluator;
        const LitParts light = lit_parts(evaluator, s, 1);
        QCOMPARE(light.parts.size(), part_names.size());
        const auto whole = look(evaluator, plain, {View::unfinished, View::lit}, light.region, 1);
        std::array<double, 6> most{};
        for (int y = 0; y < 60; ++y)
            for (int x = 0; x < 90; ++x)
                for (int c = 0; c < 3; ++c) {
                    double sum = 0;
                    for (std::size_t i = 0; i < 6; ++i) {
                        const double v = light.parts[i][c](x, y);
                        most[i] = std::max(most[i], std::abs(v));
                        sum += v;
                        if (i == 3) QVERIFY(std::abs(sum - whole[0].channels[c].at(x, y)) < 1e-5);
                    }
                    QVERIFY(std::abs(sum - whole[1].channels[c].at(x, y)) < 1e-5);
                }
        QVERIFY(most[0] > 0.1 && most[1] < 1e-6 && most[2] > 0.1 && most[3] > 0.1 && most[4] < 1e-5 &&
                most[5] > 0.05);
    }

    void light_lies_over_the_flat_picture_and_rolls_off() {
        const auto lit = [](const std::string& more) {
            const Scene s = scene_of(piece_json(
                16, 16,
                quoted("{'id': 'r', 'source': {'kind': 'rectangle', 'width': 16, 'height': 16, 'color': "
                       "'#808080'}}"),
                quoted("'lights': [{'id': 'l', 'kind': 'directional', 'elevation': 90, 'intensity': 4}], "
                       "'ambient': {'intensity': 0}, 'surface': {'roughness': 1, 'specular': 0}") +
                    more));
            return view_of(View::lit, relief_of(s), {0, 0, 16, 16}, 1, Edge::clamp, lighting_of(s))
                .channels[0]
                .at(8, 8);
        };
        const double base = srgb_decode(128 / 255.0f), full = 4 * base;
        QVERIFY(std::abs(lit("") - full) < 1e-4);
        QVERIFY(std::abs(lit(quoted(", 'relight': 0.25")) - (0.75 * base + 0.25 * full)) < 1e-4);
        QVERIFY(std::abs(lit(quoted(", 'relight': 0")) - base) < 1e-6);
        QVERIFY(std::abs(lit(quoted(", 'relight_blend': 'darken'")) - base) < 1e-4);
        QVERIFY(std::abs(lit(quoted(", 'roll_off': 'gentle'")) -
                         (0.7 + 0.3 * (1 - std::exp((0.7 - full) / 0.3)))) < 1e-4);
        // No step, ever rising, and middle grey stays.
        for (const RollOff how : {RollOff::gentle, RollOff::film}) {
            float before = -1;
            for (float v = 0; v < 20; v += 0.01f) {
                const float now = rolled_off(how, v);
                QVERIFY(now > before - 1e-6f && now - before < (v > 0 ? 0.016f : 2) && now < 1.04f);
                before = now;
            }
            QVERIFY(std::abs(rolled_off(how, 0.18f) - 0.18f) < 0.01f);
        }
    }

    void a_body_is_seen_where_it_stands_unless_something_stands_higher() {
        const auto lit = [](double z, bool body) {
            const Scene s = scene_of(piece_json(
                60, 40,
                "{\"id\": \"r\", \"source\": {\"kind\": \"rectangle\", \"width\": 20, \"height\": 40, "
                "\"color\": \"#000000\"}, "
                "\"placement\": {\"x\": 50, \"y\": 20}, \"steps\": [{\"kind\": \"raise\", \"amount\": 30}]}",
                "\"ambient\": {\"intensity\": 0}, \"lights\": [{\"id\": \"l\", \"kind\": \"strip\", \"x\": "
                "40, \"y\": 20, \"z\": " +
                    std::to_string(z) +
                    ", \"length\": 30, \"width\": 6, \"color\": \"#ff0000\", \"intensity\": 2, \"body\": " +
                    (body ? "true" : "false") + "}]"));
            return view_of(View::lit, relief_of(s), {0, 0, 60, 40}, 1, Edge::clamp, lighting_of(s));
        };
        const Strip high = lit(50, true), low = lit(10, true), hidden = lit(50, false);
        // Over empty ground it brings its own coverage; a capsule, 3 px to each side and rounded at its ends.
        QVERIFY(high.channels[3].at(30, 20) == 1 && std::abs(high.channels[0].at(30, 20) - 2) < 1e-4);
        QVERIFY(high.channels[3].at(30, 24) == 0 && high.channels[3].at(20, 20) == 0 &&
                high.channels[3].at(23, 20) > 0);
        QVERIFY(hidden.channels[3].at(30, 20) == 0);
        // The block is 30 px high: a bar 10 px up is under it.
        QVERIFY(std::abs(high.channels[0].at(50, 20) - 2) < 1e-4 && low.channels[0].at(50, 20) < 1.5f);
        QVERIFY(std::abs(low.channels[0].at(30, 20) - 2) < 1e-4);
    }

    void art_and_a_normal_map_alone_are_relit_as_the_map_says() {
        // A dome's normals as an 8-bit map over plain art: lit as a surface with just those normals.
        constexpr int n = 128;
        const auto slope = [](double x, double y) {
            const double dx = (x - 64) / 40, dy = (y - 64) / 40, r2 = dx * dx + dy * dy;
            const double k = r2 < 1 ? (1 - r2) * (1 - r2) : 0; // h = (1 − r²)³
            return std::pair{-1.2 * k * dx, -1.2 * k * dy};
        };
        auto picture = std::make_shared<Picture>();
        picture->width = picture->height = n, picture->channels = 3;
        picture->samples.resize(3ull * n * n);
        for (int y = 0; y < n; ++y)
            for (int x = 0; x < n; ++x) {
                const auto [p, q] = slope(x + 0.5, y + 0.5);
                const V3 normal = unit({-p, q, 1});
                for (int c = 0; c < 3; ++c)
                    picture->samples[3ull * (y * n + x) + c] =
                        static_cast<std::byte>(std::lround(127.5 + 127.5 * normal[c]));
            }
        picture->seal();
        Scene s = scene_of(piece_json(
            n, n,
            "{\"id\": \"art\", \"source\": {\"kind\": \"rectangle\", \"width\": 128, \"height\": 128, "
            "\"color\": \"#b0b0b0\"}}, "
            "{\"id\": \"map\", \"source\": {\"kind\": \"normals\", \"file\": \"n.png\", \"green\": \"up\"}, "
            "\"mix\": {\"opacity\": 0}}",
            "\"ambient\": {\"intensity\": 0}, \"surface\": {\"roughness\": 0.6}, "
            "\"lights\": [{\"id\": \"l\", \"kind\": \"directional\", \"angle\": 120, \"elevation\": 40}]"));
        auto asset = std::make_shared<Asset>();
        asset->picture = picture, asset->width = asset->height = n, asset->hash = picture->hash;
        auto assets = std::make_shared<Assets>(*s.assets);
        (*assets)["map"] = asset;
        s.assets = assets;
        const auto lit = shade(relief_of(s), {0, 0, n, n}, 1, Edge::clamp, lighting_of(s));
        Stuff m;
        m.base = srgb_decode(176 / 255.0f), m.roughness = 0.6;
        const double a = 120 * radians_per_degree, e = 40 * radians_per_degree;
        double worst = 0;
        for (int y = 20; y < n - 20; y += 4)
            for (int x = 20; x < n - 20; x += 4) {
                const auto [p, q] = slope(x + 0.5, y + 0.5);
                const double expected =
                    pi * surface(unit({-p, q, 1}),
                                 {std::cos(e) * std::cos(a), std::cos(e) * std::sin(a), std::sin(e)}, m);
                worst = std::max(worst, std::abs(lit[0](x, y) - expected));
            }
        QVERIFY2(worst < 0.012, qPrintable(QString::number(worst)));
    }

    void glowing_bodies_have_their_colour() {
        // CIE illuminant A, 2856 K: x = 0.4476, y = 0.4074; and the Planckian at 6504 K: 0.3135, 0.3237.
        for (const auto& [kelvin, x, y] : {std::array{2856.0, 0.4476, 0.4074}, {6504.0, 0.3135, 0.3237}}) {
            const Color c = color_of_temperature(kelvin);
            const double r = srgb_decode(c.r), g = srgb_decode(c.g), b = srgb_decode(c.b);
            const double X = 0.4124 * r + 0.3576 * g + 0.1805 * b, Y = 0.2126 * r + 0.7152 * g + 0.0722 * b,
                         Z = 0.0193 * r + 0.1192 * g + 0.9505 * b;
            QVERIFY(std::abs(X / (X + Y + Z) - x) < 0.006 && std::abs(Y / (X + Y + Z) - y) < 0.006);
            QVERIFY(std::abs(temperature_of(c) / kelvin - 1) < 0.03);
        }
    }

    void a_tied_light_goes_with_its_element_and_stays_when_let_go() {
        Piece p = piece_from_json(parse_json(
            piece_json(200, 100,
                       quoted("{'id': 'g', 'source': {'kind': 'group'}, 'placement': {'x': 90, 'y': 40, "
                              "'turn': 20}, 'elements': ["
                              " {'id': 'r', 'source': {'kind': 'rectangle', 'width': 40, 'height': 20}, "
                              "'placement': {'x': 120, 'y': 60, 'turn': 30, 'scale_u': 2, 'scale_v': 2}}]}"),
                       quoted("'lights': [{'id': 'l', 'kind': 'spot', 'x': 50, 'y': 30, 'z': 70, 'target_x': "
                              "80, 'target_y': 44},"
                              " {'id': 's', 'kind': 'strip', 'x': 20, 'y': 30, 'turn': 10}, {'id': 'f', "
                              "'kind': 'directional', 'angle': 100}]"))));
        for (auto& node : p.lights) {
            const Json before = to_json(*node);
            node = node.with([&](Light& light) { tie_to(p, light, "r"); });
            const Light& l = node;
            QVERIFY(to_json(l) != before);
            const Light here = on_canvas(p, l);
            for (const Parameter& q : l.what.kind().parameters)
                if (q.type == Parameter::Type::number)
                    QVERIFY(std::abs(std::get<double>(here.what.get(q)) -
                                     before[std::string(q.id)].get<double>()) < 1e-3);
        }
        // The element moves and turns in its group: so do they.
        change(p, "r", [](Element& r) { r.placement.turn += 90; });
        const auto spot = *on_canvas(p, p.lights[0]).what.as<SpotLight>();
        const Affine m = frame_of(p, p.lights[0]);
        const Vec2 centre = m(Vec2{0, 0});
        // A quarter turn counter-clockwise as seen: (dx, dy) → (dy, −dx), y down.
        QVERIFY(std::abs(spot.x - (centre.x + (30 - centre.y))) < 1e-2 &&
                std::abs(spot.y - (centre.y - (50 - centre.x))) < 1e-2);
        QVERIFY(std::abs(on_canvas(p, p.lights[2]).what.as<DirectionalLight>()->angle - -170) < 1e-2);
        const Json there = to_json(on_canvas(p, p.lights[1]));
        p.lights[1] = p.lights[1].with([&](Light& l) { tie_to(p, l, ""); });
        QVERIFY(std::abs(to_json(*p.lights[1])["x"].get<double>() - there["x"].get<double>()) < 1e-3 &&
                p.lights[1]->tied.empty());
    }

    void moods_keep_their_light_and_alone_darkens_the_others() {
        Piece p = piece_from_json(parse_json(piece_json(
            20, 20, "",
            quoted(
                "'exposure': 1, 'lights': [{'id': 'a', 'kind': 'directional'}, {'id': 'b', 'kind': 'point'}],"
                " 'mood': 'day', 'moods': [{'id': 'day'}, {'id': 'night', 'exposure': -2, 'lights': [{'id': "
                "'moon', 'kind': 'directional'}], 'ambient': {'intensity': 0.01}}]"))));
        const Json day = to_json(p);
        set_parameter(p, "mood", "night");
        QVERIFY(p.lights.size() == 1 && p.lights[0]->id == "moon" && p.exposure == -2 && p.mood == "night");
        QVERIFY_THROWS_EXCEPTION(Error, set_parameter(p, "mood", "noon"));
        use_mood(p, "day");
        QCOMPARE(to_json(p), day);
        change_light(p, "b", [](Light& l) { l.alone = true; });
        QVERIFY(lighting_of(p).lamps.size() == 1 && !lighting_of(p).lamps[0].directional);
        change_light(p, "b", [](Light& l) { l.on = false; });
        QVERIFY(lighting_of(p).lamps.empty());
    }

    void a_map_drives_the_surface() {
        const Scene s = scene_of(piece_json(
            40, 20,
            quoted(
                "{'id': 'm', 'source': {'kind': 'rectangle', 'width': 20, 'height': 20, 'color': '#ffffff'}, "
                "'placement': {'x': 10, 'y': 10}, 'mix': {'visible': false}},"
                " {'id': 'r', 'source': {'kind': 'rectangle', 'width': 40, 'height': 20, 'color': '#ff0000'},"
                " 'surface': {'roughness': 0.2, 'color': '#0000ff', 'own_color': 1,"
                " 'maps': {'roughness': {'element': 'm', 'of': 'alpha', 'black': 0.9}, 'own_color': "
                "{'element': 'm', 'of': 'alpha'}}}}")));
        const Bundle b = relief_of(s);
        QVERIFY(std::abs(b.roughness.at(5, 10) - 0.2) < 1e-5 &&
                std::abs(b.roughness.at(30, 10) - 0.9) < 1e-5);
        QVERIFY(std::abs(b.color[2].at(5, 10) - 1) < 1e-5 && std::abs(b.color[0].at(30, 10) - 1) < 1e-5);
        // A circle through a surface's map is refused like any other.
        QVERIFY_THROWS_EXCEPTION(
            Error,
            relief_of(scene_of(piece_json(10, 10,
                                          quoted("{'id': 'r', 'source': {'kind': 'rectangle'}, 'surface': "
                                                 "{'maps': {'coat': {'element': 'r'}}}}")))));
        QVERIFY_THROWS_EXCEPTION(Error, piece_from_json(parse_json(piece_json(
                                            10, 10,
                                            quoted("{'id': 'r', 'source': {'kind': 'rectangle'}, 'surface': "
                                                   "{'maps': {'gloss': {'element': 'x'}}}}")))));
    }
};
BATHYLUX_TEST(TestLightKinds)
#include "test_light_kinds.moc"
