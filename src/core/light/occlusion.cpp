#include "core/light/occlusion.h"

#include <numbers>

#include "core/field/parallel.h"
#include "core/light/horizon.h"
#include "core/light/normals.h"

namespace bathylux {

namespace {

/// atan within 1e-5: a polynomial on −1…1 (Hastings 1955), the complement beyond.
float arctangent(float x) {
    const float a = std::abs(x), t = a > 1 ? 1 / a : a, q = t * t;
    const float p =
        t * (0.9998660f + q * (-0.3302995f + q * (0.1801410f + q * (-0.0851330f + q * 0.0208351f))));
    return std::copysign(a > 1 ? 0.5f * std::numbers::pi_v<float> - p : p, x);
}

/// ∫ over elevation, from the zenith down to the horizon, of the cosine to a normal (n_u along the azimuth,
/// n_z up) times the solid angle: n_u (T − ½ sin 2T) ÷ 2 + n_z ½ sin² T, with T = ½π − atan(slope).
float seen(float slope, float nu, float nz) {
    // The surface hides what lies below its own plane: slope −n_u ÷ n_z along the way.
    slope = std::max(slope, -nu / nz);
    const float inverse = 1 / (1 + slope * slope);
    return 0.5f *
           (nu * (0.5f * std::numbers::pi_v<float> - arctangent(slope) - slope * inverse) + nz * inverse);
}

} // namespace

Plane occlusion(const Field& height, Region region, float per_px, Edge edge, const Sky& sky,
                std::stop_token stop) {
    const int w = region.width(), h = region.height();
    Plane out(w, h, 0.0f);
    if (height.is_constant()) return Plane(w, h, 1.0f);
    const bool repeat = edge == Edge::repeat;
    const auto n = normals(height, region, region, per_px, edge, stop);
    // Heights in device px, so that slopes are slopes.
    Plane upright(w, h);
    parallel_rows(0, h, [&](int y) {
        const float* from = height.plane().row(y);
        for (int x = 0; x < w; ++x) upright(x, y) = from[x] * per_px;
    });
    for (int i = 0; i < sky.azimuths; ++i) {
        const double azimuth = 2 * std::numbers::pi * (i + 0.5) / sky.azimuths;
        const double dx = std::cos(azimuth), dy = -std::sin(azimuth); // y down; towards what is looked at
        const Plane slopes = horizons_along(upright, dx, dy, repeat, sky.radius, stop);
        const auto nu_x = static_cast<float>(dx), nu_y = static_cast<float>(-dy); // normals have y up
        parallel_rows(
            0, h,
            [&](int y) {
                float* to = out.row(y);
                const float *s = slopes.row(y), *nx = n[0].row(y), *ny = n[1].row(y), *nz = n[2].row(y);
                for (int x = 0; x < w; ++x) to[x] += seen(s[x], nx[x] * nu_x + ny[x] * nu_y, nz[x]);
            },
            stop);
    }
    const float per = 2.0f / static_cast<float>(sky.azimuths); // 2π a round, ÷ π
    parallel_rows(0, h, [&](int y) {
        for (int x = 0; x < w; ++x) out(x, y) = std::clamp(out(x, y) * per, 0.0f, 1.0f);
    });
    return out;
}

} // namespace bathylux
