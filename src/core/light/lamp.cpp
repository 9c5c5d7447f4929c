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

std::vector<Lamp> lamps_of(const Piece& piece) {
    std::vector<Lamp> out;
    for (const Light& light : piece.lights) {
        if (!light.on) continue;
        if (const auto* d = light.what.as<DirectionalLight>()) {
            const double a = d->angle * radians_per_degree, e = d->elevation * radians_per_degree;
            out.push_back({true, static_cast<float>(std::cos(e) * std::cos(a)),
                           static_cast<float>(std::cos(e) * std::sin(a)), static_cast<float>(std::sin(e)),
                           power_of(d->color, d->intensity), Falloff::none, 1});
        } else if (const auto* p = light.what.as<PointLight>()) {
            out.push_back(
                {false, p->x, p->y, p->z, power_of(p->color, p->intensity), p->falloff, p->distance});
        }
    }
    return out;
}

} // namespace bathylux
