#include "core/light/lamp.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace bathylux {

namespace {
std::array<float, 3> power_of(const Color& c, float intensity) {
    const float k = std::numbers::pi_v<float> * intensity;
    return {k * srgb_decode(c.r), k * srgb_decode(c.g), k * srgb_decode(c.b)};
}
} // namespace

std::vector<Vec2> pool_of(const SpotLight& s, double half_angle, int count, double far) {
    const double ax = s.target_x - s.x, ay = s.target_y - s.y, az = -s.z,
                 length = std::sqrt(ax * ax + ay * ay + az * az);
    std::vector<Vec2> out;
    if (length < 1e-9) return out;
    const double a[3] = {ax / length, ay / length, az / length};
    // Two directions across the axis.
    const double flat = std::hypot(a[0], a[1]);
    const double u[3] = {flat > 1e-9 ? -a[1] / flat : 1, flat > 1e-9 ? a[0] / flat : 0, 0};
    const double v[3] = {a[1] * u[2] - a[2] * u[1], a[2] * u[0] - a[0] * u[2], a[0] * u[1] - a[1] * u[0]};
    const double c = std::cos(half_angle * radians_per_degree), k = std::sin(half_angle * radians_per_degree);
    for (int i = 0; i < count; ++i) {
        const double t = 2 * std::numbers::pi * i / count, cu = k * std::cos(t), cv = k * std::sin(t);
        const double d[3] = {c * a[0] + cu * u[0] + cv * v[0], c * a[1] + cu * u[1] + cv * v[1],
                             c * a[2] + cu * u[2] + cv * v[2]};
        const double way =
            d[2] < 0 ? std::min(s.z / -d[2], far / std::max(1e-9, std::hypot(d[0], d[1]))) : far;
        out.push_back({s.x + way * d[0], s.y + way * d[1]});
    }
    return out;
}

std::optional<Lamp> lamp_of(const Described& light) {
    Lamp lamp;
    if (const auto* d = light.as<DirectionalLight>()) {
        const double a = d->angle * radians_per_degree, e = d->elevation * radians_per_degree;
        lamp.x = static_cast<float>(std::cos(e) * std::cos(a));
        lamp.y = static_cast<float>(std::cos(e) * std::sin(a)), lamp.z = static_cast<float>(std::sin(e));
        lamp.power = power_of(d->color, d->intensity);
        lamp.shadow = d->shadow, lamp.size = d->size;
        return lamp;
    }
    const auto p = standing(light);
    if (!p) return std::nullopt;
    lamp.directional = false;
    lamp.x = p->x, lamp.y = p->y, lamp.z = p->z;
    lamp.power = power_of(p->color, p->intensity);
    lamp.falloff = p->falloff, lamp.distance = p->distance;
    lamp.shadow = p->shadow, lamp.size = p->size, lamp.body = p->body;
    if (const auto* s = light.as<SpotLight>()) {
        const float dx = s->target_x - s->x, dy = s->y - s->target_y, dz = -s->z;
        const float length = std::max(1e-6f, std::sqrt(dx * dx + dy * dy + dz * dz));
        lamp.cone = true;
        lamp.axis = {dx / length, dy / length, dz / length};
        const double outer = std::cos(s->outer_cone * radians_per_degree),
                     inner = std::cos(std::min(s->inner_cone, s->outer_cone) * radians_per_degree);
        lamp.cone_scale = static_cast<float>(1 / std::max(0.001, inner - outer));
        lamp.cone_offset = static_cast<float>(-outer) * lamp.cone_scale;
    }
    if (const auto* s = light.as<StripLight>()) {
        lamp.half_length = s->length / 2;
        lamp.along = {static_cast<float>(std::cos(s->turn * radians_per_degree)),
                      static_cast<float>(std::sin(s->turn * radians_per_degree)), 0};
    }
    return lamp;
}

namespace {

constexpr double first_nm = 380, nm_apart = 5;
constexpr std::size_t wavelengths = 81;

/// The standard observer (Wyman, Sloan & Shirley 2013), a row for each of X, Y and Z.
std::array<std::array<double, wavelengths>, 3> standard_observer() {
    // A Gaussian with different widths to the left and the right.
    const auto lobe = [](double x, double at, double left, double right) {
        const double t = (x - at) * (x < at ? left : right);
        return std::exp(-0.5 * t * t);
    };
    std::array<std::array<double, wavelengths>, 3> out{};
    for (std::size_t i = 0; i < wavelengths; ++i) {
        const double nm = first_nm + nm_apart * static_cast<double>(i);
        out[0][i] = 0.362 * lobe(nm, 442.0, 0.0624, 0.0374) + 1.056 * lobe(nm, 599.8, 0.0264, 0.0323) -
                    0.065 * lobe(nm, 501.1, 0.0490, 0.0382);
        out[1][i] = 0.821 * lobe(nm, 568.8, 0.0213, 0.0247) + 0.286 * lobe(nm, 530.9, 0.0613, 0.0322);
        out[2][i] = 1.217 * lobe(nm, 437.0, 0.0845, 0.0278) + 0.681 * lobe(nm, 459.0, 0.0385, 0.0725);
    }
    return out;
}

/// Linear Rec. 709 of a black body, brightest channel 1.
std::array<double, 3> glowing(double kelvin) {
    static const auto observer = standard_observer();
    double x = 0, y = 0, z = 0;
    for (std::size_t i = 0; i < wavelengths; ++i) {
        // Planck's law, up to a factor.
        const double um = (first_nm + nm_apart * static_cast<double>(i)) * 1e-3, um2 = um * um;
        const double power = 1 / (um2 * um2 * um * (std::exp(1.4387769e4 / (um * kelvin)) - 1));
        x += power * observer[0][i];
        y += power * observer[1][i];
        z += power * observer[2][i];
    }
    std::array<double, 3> rgb{3.2404542 * x - 1.5371385 * y - 0.4985314 * z,
                              -0.9692660 * x + 1.8760108 * y + 0.0415560 * z,
                              0.0556434 * x - 0.2040259 * y + 1.0572252 * z};
    const double most = std::max({rgb[0], rgb[1], rgb[2]});
    for (double& v : rgb) v = std::max(0.0, v / most);
    return rgb;
}

} // namespace

Color color_of_temperature(double kelvin) {
    const auto rgb = glowing(std::clamp(kelvin, 1000.0, 15000.0));
    return {srgb_encode(static_cast<float>(rgb[0])), srgb_encode(static_cast<float>(rgb[1])),
            srgb_encode(static_cast<float>(rgb[2])), 1};
}

double temperature_of(const Color& color) {
    // Evenly in 1 ÷ K, as the eye tells them apart; spectra are summed up once.
    struct Glow {
        double kelvin;
        Color color;
    };
    static const auto table = [] {
        std::array<Glow, 121> out;
        for (int i = 0; i <= 120; ++i) {
            const double kelvin = 1 / (1e-3 + (1.0 / 15000 - 1e-3) * i / 120);
            out[i] = {kelvin, color_of_temperature(kelvin)};
        }
        return out;
    }();
    const float most = std::max({color.r, color.g, color.b, 1e-6f});
    const auto apart = [&](const Glow& g) {
        return std::hypot(g.color.r - color.r / most, g.color.g - color.g / most, g.color.b - color.b / most);
    };
    return std::min_element(table.begin(), table.end(),
                            [&](const Glow& a, const Glow& b) { return apart(a) < apart(b); })
        ->kelvin;
}

} // namespace bathylux
