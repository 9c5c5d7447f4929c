#pragma once
#include <algorithm>

#include "core/field/plane.h"

namespace bathylux {

/// A pair of planes at a place between the middles of their px (which lie at ½), bilinear, held at the rim.
/// They have at least two px a side.
inline Vec2 between(const Plane& x, const Plane& y, Vec2 p) {
    const double u = std::clamp(p.x - 0.5, 0.0, x.width() - 1.001),
                 v = std::clamp(p.y - 0.5, 0.0, x.height() - 1.001);
    const int i = static_cast<int>(u), j = static_cast<int>(v);
    const double s = u - i, t = v - j;
    const auto mix = [&](const Plane& f) {
        return (1 - t) * ((1 - s) * f(i, j) + s * f(i + 1, j)) +
               t * ((1 - s) * f(i, j + 1) + s * f(i + 1, j + 1));
    };
    return {mix(x), mix(y)};
}

} // namespace bathylux
