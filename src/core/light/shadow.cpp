#include "core/light/shadow.h"

#include <numbers>

#include "core/field/parallel.h"
#include "core/light/horizon.h"

namespace bathylux {

namespace {

/// A hard edge is as soft as the px it falls on: a fifth of a degree hides stair-steps and no more.
constexpr float hard_radius = 0.1f;
/// Farther than any canvas.
constexpr double the_horizon = 1e6;

void add(Plane& sum, const Plane& more, float weight = 1) {
    parallel_rows(0, sum.height(), [&](int y) {
        float* to = sum.row(y);
        const float* from = more.row(y);
        for (int x = 0; x < sum.width(); ++x) to[x] += weight * from[x];
    });
}

} // namespace

double reach_of_shadow(const Lamp& lamp, float per_px, float lowest, float highest, Region region) {
    const double rise = std::max(0.0f, highest - lowest);
    if (rise <= 0) return 0;
    if (lamp.directional) {
        const double radius = std::max(lamp.size / 2, hard_radius) * radians_per_degree;
        const double low = std::atan2(double(lamp.z), std::hypot(lamp.x, lamp.y)) - 1.2 * radius;
        return low > 1e-3 ? rise / std::tan(low) : the_horizon;
    }
    // A ray from a place at height h to the lamp is above everything from (highest − h) ÷ (top − h) of its
    // way.
    const double lx = lamp.x * per_px, ly = lamp.y * per_px;
    const double far = std::hypot(std::max(std::abs(region.x0 - lx), std::abs(region.x1 - lx)),
                                  std::max(std::abs(region.y0 - ly), std::abs(region.y1 - ly)));
    const double low = (lamp.z - lamp.size / 2) * per_px - lowest;
    return low > rise ? far * rise / low : the_horizon;
}

Plane shadow(const Field& height, Region region, float per_px, Edge edge, const Lamp& lamp,
             const Surroundings& around) {
    const int w = region.width(), h = region.height();
    if (height.is_constant()) return Plane(w, h, 1.0f);
    if (lamp.half_length > 0) {
        // A bar: round bodies side by side along it, not further apart than it is wide where that can be.
        const int count =
            std::clamp(static_cast<int>(2 * lamp.half_length / std::max(lamp.size, 1.0f)), 3, 7);
        Plane out(w, h, 0.0f);
        for (int i = 0; i < count; ++i) {
            const double s = lamp.half_length * ((2 * i + 1.0) / count - 1);
            Lamp ball = lamp;
            ball.half_length = 0,
            ball.size = std::max(lamp.size, 2 * lamp.half_length / static_cast<float>(count));
            ball.x += static_cast<float>(s * lamp.along[0]), ball.y -= static_cast<float>(s * lamp.along[1]);
            add(out, shadow(height, region, per_px, edge, ball, around), 1.0f / static_cast<float>(count));
        }
        return out;
    }
    Plane held;
    const Plane& heights = upright(height.plane(), per_px, held);
    if (lamp.directional) {
        Plane out(w, h, 0.0f);
        // A light straight overhead is hidden by nothing.
        const double flat = std::hypot(lamp.x, lamp.y);
        if (flat < 1e-6) return Plane(w, h, 1.0f);
        const double radius = std::max(lamp.size / 2, hard_radius) * radians_per_degree;
        const double angle = std::atan2(double(lamp.y), double(lamp.x)),
                     elevation = std::atan2(double(lamp.z), flat);
        const int count = lamp.size < 0.5f ? 1 : lamp.size < 5 ? 3 : lamp.size < 20 ? 7 : 11;
        Horizons horizons(heights, edge == Edge::repeat, around);
        Plane turned;
        for (const Slice& slice : slices_of_disc(count)) {
            // Towards the zenith the same width covers more azimuths.
            const double azimuth =
                angle - std::clamp(slice.aside * radius / std::max(0.05, std::cos(elevation)), -1.5, 1.5);
            const auto slope = [&](double across) {
                const double e = elevation + across * slice.half * radius;
                return static_cast<float>(std::tan(std::clamp(e, -1.57, 1.57)));
            };
            // Above and below the upper three the slice is whole or gone; the second helps to find what lies
            // higher, and the lowest where the horizon lies that hides nothing, for what is interpolated
            // beside it.
            const Levels levels{5, {std::min(-0.25f, slope(-3)), slope(-1.5), slope(-1), slope(0), slope(1)}};
            const double dx = std::cos(azimuth), dy = -std::sin(azimuth);
            const bool across = Horizons::turned(dx, dy);
            if (across && !turned.width()) turned = Plane(h, w, 0.0f);
            Plane& sum = across ? turned : out;
            horizons.sweep(dx, dy, levels, [&](int y, int x, int n, const float* s) {
                add_share_above(s, n, levels.slope[2], levels.slope[4], static_cast<float>(slice.share),
                                sum.row(y) + x);
            });
        }
        if (turned.width()) add(out, transposed(turned));
        return out;
    }
    const double lx = lamp.x * per_px - region.x0, ly = lamp.y * per_px - region.y0, top = lamp.z * per_px;
    const double ball = 0.5 * lamp.size * per_px;
    // What is the same for all windows of a canvas is told from the canvas.
    const double cw = around.beyond ? around.width : w, ch = around.beyond ? around.height : h,
                 cx = lx + (around.beyond ? region.x0 : 0), cy = ly + (around.beyond ? region.y0 : 0);
    const double hard =
        hard_radius * radians_per_degree * std::hypot(std::max(cx, cw - cx), std::max(cy, ch - cy), top);
    // What looks small from where it counts is cut into fewer slices.
    const double looks = ball / std::hypot(0.3 * std::hypot(cw, ch), top);
    const int slices = ball <= hard ? 1 : looks < 0.03 ? 3 : looks < 0.1 ? 5 : 9;
    return seen_of_ball(heights, {lx, ly, top, std::max(ball, hard)}, slices, around);
}

} // namespace bathylux
