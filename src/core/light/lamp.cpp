#include "core/light/lamp.h"

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

std::vector<Lamp> lamps_of(const Piece& piece) {
    std::vector<Lamp> out;
    for (const Light& light : piece.lights) {
        if (!light.on) continue;
        if (const auto* d = light.what.as<DirectionalLight>()) {
            const double a = d->angle * radians_per_degree, e = d->elevation * radians_per_degree;
            out.push_back({true, static_cast<float>(std::cos(e) * std::cos(a)),
                           static_cast<float>(std::cos(e) * std::sin(a)), static_cast<float>(std::sin(e)),
                           power_of(d->color, d->intensity), Falloff::none, 1, d->shadow, d->size});
        } else if (const auto p = lamp_of(light.what)) {
            out.push_back({false, p->x, p->y, p->z, power_of(p->color, p->intensity), p->falloff, p->distance,
                           p->shadow, p->size});
            const auto* s = light.what.as<SpotLight>();
            if (!s) continue;
            Lamp& lamp = out.back();
            const float dx = s->target_x - s->x, dy = s->y - s->target_y, dz = -s->z;
            const float length = std::max(1e-6f, std::sqrt(dx * dx + dy * dy + dz * dz));
            lamp.cone = true;
            lamp.axis = {dx / length, dy / length, dz / length};
            const double outer = std::cos(s->outer_cone * radians_per_degree),
                         inner = std::cos(std::min(s->inner_cone, s->outer_cone) * radians_per_degree);
            lamp.cone_scale = static_cast<float>(1 / std::max(0.001, inner - outer));
            lamp.cone_offset = static_cast<float>(-outer) * lamp.cone_scale;
        }
    }
    return out;
}

} // namespace bathylux
