#include <QtTest>
#include <numbers>
#include <random>

#include "core/field/srgb.h"
#include "run.h"
#include "support.h"
#include "vectors.h"

using namespace bathylux;

namespace {

/// glTF 2.0, Appendix B, as the standard writes it, in double: f × max(0, n·l) for view (0, 0, 1).
double surface(V3 n, V3 l, double base, double roughness, double metallic) {
    const V3 v{0, 0, 1}, half = unit({l[0] + v[0], l[1] + v[1], l[2] + v[2]});
    const double ndl = dot3(n, l), ndv = dot3(n, v);
    if (ndl <= 0) return 0;
    const double a = roughness * roughness, a2 = a * a, ndh = dot3(n, half), vdh = dot3(v, half);
    const double d = a2 / (std::numbers::pi * std::pow(ndh * ndh * (a2 - 1) + 1, 2));
    const double vis =
        0.5 / (ndl * std::sqrt(ndv * ndv * (1 - a2) + a2) + ndv * std::sqrt(ndl * ndl * (1 - a2) + a2));
    const double f0 = 0.04 * (1 - metallic) + base * metallic,
                 f = f0 + (1 - f0) * std::pow(1 - std::abs(vdh), 5);
    return ((1 - f) * (1 - metallic) * base / std::numbers::pi + f * d * vis) * ndl;
}

} // namespace

class TestLight : public QObject {
    Q_OBJECT
  private slots:
    void shading_agrees_with_the_standard_in_double() {
        std::mt19937 random(5);
        std::uniform_real_distribution<double> u(0, 1);
        constexpr int n = 64;
        for (int round = 0; round < 60; ++round) {
            const double roughness = 0.15 + 0.85 * u(random),
                         metallic = round % 3 == 0   ? 1
                                    : round % 3 == 1 ? 0
                                                     : u(random),
                         base = 0.02 + 0.95 * u(random);
            Plane h(n, n);
            const double p = 2 * u(random) - 1, q = 2 * u(random) - 1, bend = 0.02 * (u(random) - 0.5);
            for (int y = 0; y < n; ++y)
                for (int x = 0; x < n; ++x) h(x, y) = static_cast<float>(p * x + q * y + bend * x * x);
            Bundle b;
            b.region = {0, 0, n, n};
            b.color = {static_cast<float>(base), static_cast<float>(base), static_cast<float>(base)};
            b.coverage = 1.0f;
            b.height = Field(h);
            b.roughness = static_cast<float>(roughness);
            b.metallic = static_cast<float>(metallic);
            Piece piece;
            piece.ambient.intensity = 0;
            DirectionalLight far;
            far.angle = static_cast<float>(360 * u(random) - 180),
            far.elevation = static_cast<float>(5 + 80 * u(random)),
            far.intensity = static_cast<float>(2 * u(random));
            PointLight lamp;
            lamp.x = static_cast<float>(n * u(random)), lamp.y = static_cast<float>(n * u(random)),
            lamp.z = static_cast<float>(90 + 60 * u(random));
            lamp.distance = 80, lamp.color = {1, 1, 1, 1}, lamp.falloff = static_cast<Falloff>(round % 3);
            piece.lights = {Light{"a", "", true, Described(light_kind("directional"), far)},
                            Light{"b", "", true, Described(light_kind("point"), lamp)}};
            piece.exposure = 0.5f;
            const auto lit = shade(b, b.region, 1, Edge::clamp, lighting_of(piece));
            for (int y = 1; y < n - 1; y += 3)
                for (int x = 1; x < n - 1; x += 3) {
                    const V3 normal = unit({-0.5 * (double(h(x + 1, y)) - h(x - 1, y)),
                                            0.5 * (double(h(x, y + 1)) - h(x, y - 1)), 1});
                    const double a = far.angle * radians_per_degree, e = far.elevation * radians_per_degree;
                    double out =
                        std::numbers::pi * far.intensity *
                        surface(normal, {std::cos(e) * std::cos(a), std::cos(e) * std::sin(a), std::sin(e)},
                                base, roughness, metallic);
                    const V3 to{lamp.x - (x + 0.5), (y + 0.5) - lamp.y, lamp.z - h(x, y)};
                    const double d = std::sqrt(dot3(to, to));
                    const double fall = lamp.falloff == Falloff::square   ? std::pow(80 / d, 2)
                                        : lamp.falloff == Falloff::linear ? 80 / d
                                                                          : 1;
                    out += std::numbers::pi * fall * surface(normal, unit(to), base, roughness, metallic);
                    out *= std::sqrt(2.0);
                    QVERIFY2(std::abs(lit[0](x, y) - out) < 1e-4 * std::max(1.0, out),
                             qPrintable(QString("%1 vs %2, roughness %3 metallic %4")
                                            .arg(lit[0](x, y))
                                            .arg(out)
                                            .arg(roughness)
                                            .arg(metallic)));
                }
        }
    }

    void a_white_flat_surface_lit_straight_on_is_white_and_exposure_is_in_stops() {
        const auto lit = [](const std::string& more) {
            const Scene s = scene_of(piece_json(
                16, 16,
                R"({"id": "r", "source": {"kind": "rectangle", "width": 16, "height": 16, "color": "#808080"}})",
                R"("lights": [{"id": "l", "kind": "directional", "angle": 90, "elevation": 90}], "surface": {"roughness": 1}, "ambient": {"intensity": 0})" +
                    more));
            return shade(relief_of(s), {0, 0, 16, 16}, 1, Edge::clamp, lighting_of(*s.piece))[0](8, 8);
        };
        const double base = srgb_decode(128 / 255.0f);
        // Diffuse (1 − F) base with F = 0.04, and the rough highlight F D V π: 0.04 ÷ 4.
        QVERIFY(std::abs(lit("") - (0.96 * base + 0.01)) < 1e-4);
        QVERIFY(std::abs(lit(R"(, "exposure": 1)") - 2 * (0.96 * base + 0.01)) < 2e-4);
    }

    void flat_colour_is_kept_exactly_on_flat_ground() {
        const Scene s = scene_of(piece_json(
            64, 64,
            R"({"id": "r", "source": {"kind": "rectangle", "width": 64, "height": 64, "color": "#b4532a"}},
            {"id": "o", "source": {"kind": "ellipse", "width": 30, "height": 30, "color": "#1f4e79"}, "steps": [{"kind": "bevel", "width": 8, "rise": 6, "profile": "round"}]})",
            R"("keep_flat_color": true, "exposure": 2, "lights": [{"id": "l", "kind": "point", "x": 10, "y": 12, "z": 40, "intensity": 3}, {"id": "m", "kind": "directional", "elevation": 20}])"));
        const Bundle b = relief_of(s);
        const auto lit = shade(b, b.region, 1, Edge::clamp, lighting_of(*s.piece));
        for (int c = 0; c < 3; ++c) {
            QVERIFY(std::abs(lit[c](3, 3) - b.color[c].at(3, 3)) < 1e-6);     // flat ground
            QVERIFY(std::abs(lit[c](32, 32) - b.color[c].at(32, 32)) < 1e-6); // the flat top
        }
        QVERIFY(std::abs(lit[2](20, 32) - b.color[2].at(20, 32)) > 1e-3); // a flank is shaded
    }
};
BATHYLUX_TEST(TestLight)
#include "test_light.moc"
