#include "core/light/shadow.h"

#include <numbers>

#include "core/field/parallel.h"
#include "core/light/horizon.h"

namespace bathylux {

namespace {

/// Share of a disc that lies above a line, `t` from −1 (all hidden below it … none seen) to 1 (all seen), t =
/// (middle − line) ÷ radius: the area of a segment.
float above_line(float t) {
    t = std::clamp(t, -1.0f, 1.0f);
    return 0.5f + (std::asin(t) + t * std::sqrt(1 - t * t)) / std::numbers::pi_v<float>;
}

/// The same for a light at slope `light` above a horizon at slope `horizon`, `radius` its angular radius. The
/// angle between them is atan((L − s) ÷ (1 + L s)); it is worked out only where the horizon cuts the disc.
float seen_above(float light, float horizon, float radius) {
    const float across = light - horizon, along = 1 + light * horizon;
    if (along > 0) {
        // Up to the tangent's third order tan ρ ≤ ρ (1 + ρ²): beyond that the disc is whole or gone.
        const float edge = along * radius * (1 + radius * radius);
        if (across >= edge) return 1;
        if (across <= -edge) return 0;
    }
    return above_line(std::atan2(across, along) / radius);
}

} // namespace

Plane shadow(const Field& height, Region region, float per_px, Edge edge, const Lamp& lamp,
             std::stop_token stop) {
    const int w = region.width(), h = region.height();
    if (height.is_constant()) return Plane(w, h, 1.0f);
    // Heights in device px, so that slopes are slopes.
    Plane upright(w, h);
    parallel_rows(0, h, [&](int y) {
        const float* from = height.plane().row(y);
        for (int x = 0; x < w; ++x) upright(x, y) = from[x] * per_px;
    });
    Plane out(w, h);
    if (lamp.directional) {
        // A light straight overhead is hidden by nothing.
        const double flat = std::hypot(lamp.x, lamp.y);
        if (flat < 1e-6) return Plane(w, h, 1.0f);
        const Plane horizon =
            horizons_along(upright, lamp.x / flat, -lamp.y / flat, edge == Edge::repeat, 0, stop);
        const auto light = static_cast<float>(lamp.z / flat);
        // A hard edge is as soft as the px it falls on: a fifth of a degree hides stair-steps and no more.
        const float radius = std::max(lamp.size / 2, 0.1f) * static_cast<float>(radians_per_degree);
        parallel_rows(
            0, h,
            [&](int y) {
                const float* s = horizon.row(y);
                float* to = out.row(y);
                for (int x = 0; x < w; ++x)
                    to[x] = s[x] == no_horizon ? 1.0f : seen_above(light, s[x], radius);
            },
            stop);
        return out;
    }
    const double lx = lamp.x * per_px - region.x0, ly = lamp.y * per_px - region.y0;
    const Plane horizon = horizons_towards(upright, lx, ly, stop);
    const float top = lamp.z * per_px;
    parallel_rows(
        0, h,
        [&](int y) {
            const float* s = horizon.row(y);
            float* to = out.row(y);
            for (int x = 0; x < w; ++x) {
                if (s[x] == no_horizon) {
                    to[x] = 1;
                    continue;
                }
                const auto dx = static_cast<float>(x + 0.5 - lx), dy = static_cast<float>(y + 0.5 - ly);
                const float flat = std::max(std::sqrt(dx * dx + dy * dy), 1e-3f), up = top - upright(x, y);
                // A small ball's angular radius is as good as its sine.
                const float distance = std::sqrt(flat * flat + up * up);
                const float radius = std::max(std::min(1.2f, 0.5f * lamp.size * per_px / distance),
                                              0.1f * static_cast<float>(radians_per_degree));
                to[x] = seen_above(up / flat, s[x], radius);
            }
        },
        stop);
    return out;
}

} // namespace bathylux
