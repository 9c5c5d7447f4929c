#pragma once
#include <algorithm>
#include <cmath>

#include "core/field/geometry.h"
#include "core/solid/vec3.h"

namespace bathylux {

/// A way through something that lets light through.
struct WayThrough {
    Vec2 off;         // how far from where it went in it comes out, px to the right and up
    double way = 0;   // px
    double share = 1; // of the light goes that way: what is not mirrored
};

/// How a look along `view` (unit, downwards: z < 0, x right, y up about the place) goes on through a surface
/// of the unit normal `normal` and comes out `thick` px below (Snell, from 1 to `ior`; the share by Schlick
/// 1994). Looked at straight, the formula of the flat lit picture (see seen_below).
inline WayThrough way_through(Vec3 view, Vec3 normal, double ior, double thick) {
    const double eta = 1 / std::max(1.0, ior), cosine = std::clamp(-dot(view, normal), 0.02, 1.0);
    const double bends = eta * cosine - std::sqrt(1 - eta * eta * (1 - cosine * cosine));
    const Vec3 r = normalized(eta * view + bends * normal);
    const double f0 = (1 - eta) / (1 + eta), side = std::pow(1 - cosine, 5);
    WayThrough out;
    out.share = (1 - f0 * f0) * (1 - side);
    // A look that hardly sinks would go on for ever.
    out.way = std::max(0.0, thick) / std::max(0.05, -r.z);
    out.off = {r.x * out.way, r.y * out.way};
    return out;
}

} // namespace bathylux
