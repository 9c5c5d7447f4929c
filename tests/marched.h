#pragma once
// What a relief hides of a light or of the sky, by a slow march along every ray in double: what the fast ways
// are checked against. Heights are px at px centres and bilinear in between; nothing lies beyond the edge.
#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/field/geometry.h"
#include "core/light/lamp.h"

namespace bathylux {

inline double bilinear(const Plane& h, double x, double y) {
    x = std::clamp(x - 0.5, 0.0, h.width() - 1.0), y = std::clamp(y - 0.5, 0.0, h.height() - 1.0);
    const int i = std::min(static_cast<int>(x), h.width() - 2),
              j = std::min(static_cast<int>(y), h.height() - 2);
    const double fx = x - i, fy = y - j;
    return (1 - fy) * ((1 - fx) * h(i, j) + fx * h(i + 1, j)) +
           fy * ((1 - fx) * h(i, j + 1) + fx * h(i + 1, j + 1));
}

/// The elevation of the horizon from a place along a direction, as far as `reach`.
inline double horizon_along(const Plane& h, double x, double y, double z, double ux, double uy,
                            double reach) {
    double slope = -1e9;
    for (double t = 1; t < reach; t += 0.125) {
        const double qx = x + t * ux, qy = y + t * uy;
        if (qx < 0 || qy < 0 || qx > h.width() || qy > h.height()) break;
        slope = std::max(slope, (bilinear(h, qx, qy) - z) / t);
    }
    return std::atan(slope);
}

/// How much of the light's disc is seen: the disc is cut into upright slices, each looked at along its own
/// direction.
inline double marched(const Plane& h, int px, int py, const Lamp& lamp) {
    const double x = px + 0.5, y = py + 0.5, z = h(px, py);
    double azimuth, elevation, reach, rho;
    if (lamp.directional) {
        const double flat = std::hypot(lamp.x, lamp.y);
        azimuth = std::atan2(-lamp.y, lamp.x), elevation = std::atan2(double(lamp.z), flat),
        reach = h.width() + h.height();
        rho = lamp.size / 2 * radians_per_degree;
    } else {
        const double dx = lamp.x - x, dy = lamp.y - y, flat = std::hypot(dx, dy);
        azimuth = std::atan2(dy, dx), elevation = std::atan2(lamp.z - z, flat), reach = flat;
        rho = std::atan(lamp.size / 2 / std::hypot(flat, lamp.z - z));
    }
    double seen = 0, whole = 0;
    constexpr int slices = 16, strips = 100;
    for (int i = 0; i < slices; ++i) {
        const double aside = (i + 0.5) / slices * 2 - 1, half = rho * std::sqrt(1 - aside * aside),
                     a = azimuth + aside * rho / std::cos(elevation);
        const double horizon = horizon_along(h, x, y, z, std::cos(a), std::sin(a), reach);
        for (int k = 0; k < strips; ++k)
            if (elevation + ((k + 0.5) / strips * 2 - 1) * half > horizon) seen += half;
        whole += strips * half;
    }
    return seen / whole;
}

/// The cosine-weighted part of the sky a place sees, its normal by central differences: a sum over many
/// azimuths and elevations.
inline double marched_sky(const Plane& h, int px, int py, int azimuths = 32) {
    const double x = px + 0.5, y = py + 0.5, z = h(px, py);
    const double gx = (h(std::min(px + 1, h.width() - 1), py) - h(std::max(px - 1, 0), py)) / 2.0,
                 gy = (h(px, std::min(py + 1, h.height() - 1)) - h(px, std::max(py - 1, 0))) / 2.0;
    const double k = 1 / std::sqrt(gx * gx + gy * gy + 1);
    double sum = 0;
    constexpr int steps = 180;
    for (int i = 0; i < azimuths; ++i) {
        const double a = 2 * std::numbers::pi * (i + 0.5) / azimuths, dx = std::cos(a), dy = std::sin(a);
        const double horizon = horizon_along(h, x, y, z, dx, dy, h.width() + h.height());
        for (int j = 0; j < steps; ++j) {
            const double e = std::numbers::pi * ((j + 0.5) / steps - 0.5);
            if (e <= horizon) continue;
            const double facing = k * (-gx * std::cos(e) * dx - gy * std::cos(e) * dy + std::sin(e));
            if (facing > 0)
                sum += facing * std::cos(e) * std::numbers::pi / steps * 2 * std::numbers::pi / azimuths;
        }
    }
    return sum / std::numbers::pi;
}

} // namespace bathylux
