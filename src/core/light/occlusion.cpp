#include "core/light/occlusion.h"

#include <algorithm>
#include <numbers>

#include "core/field/parallel.h"
#include "core/light/horizon.h"
#include "core/light/normals.h"

namespace bathylux {

namespace {

/// Slopes of −60°, −17°, −3°, 7°, 17°, 27°, 39°, 51° and 75°: closer where reliefs mostly are.
constexpr Levels sky_levels{9, {-1.7f, -0.3f, -0.05f, 0.12f, 0.3f, 0.52f, 0.8f, 1.25f, 3.7f}, false};

} // namespace

Plane occlusion(const Field& height, Region region, float per_px, Edge edge, const Sky& sky,
                const Surroundings& around) {
    const int w = region.width(), h = region.height();
    if (height.is_constant()) return Plane(w, h, 1.0f);
    const bool repeat = edge == Edge::repeat;
    // How the surface rises along x and y (downwards), and its normal's z.
    auto ground = normals(height, region, region, per_px, edge);
    parallel_rows(0, h, [&](int y) {
        float *gx = ground[0].row(y), *gy = ground[1].row(y);
        const float* nz = ground[2].row(y);
        for (int x = 0; x < w; ++x) {
            const float inverse = 1 / nz[x];
            gx[x] *= -inverse, gy[x] *= inverse;
        }
    });
    Plane held;
    const Plane& heights = upright(height.plane(), per_px, held);
    Horizons horizons(heights, repeat, around);
    Plane out(w, h, 0.0f);
    // First the azimuths that are swept along the columns, then, all of it turned, those along the rows.
    for (const bool across : {false, true}) {
        const auto turn = [](Plane& p) { p = transposed(p); };
        if (across) turn(out), std::for_each(ground.begin(), ground.end(), turn);
        for (int i = 0; i < sky.azimuths; ++i) {
            const double azimuth = 2 * std::numbers::pi * (i + 0.5) / sky.azimuths;
            const double dx = std::cos(azimuth), dy = -std::sin(azimuth); // y down; towards what is looked at
            if ((sky.radius <= 0 && Horizons::turned(dx, dy)) != across) continue;
            const auto add = [&](int y, int x, int count, const float* s) {
                add_sky(s, ground[0].row(y) + x, ground[1].row(y) + x, ground[2].row(y) + x, count,
                        static_cast<float>(dx), static_cast<float>(dy), out.row(y) + x);
            };
            if (sky.radius > 0) {
                const Plane slopes = horizons_within(heights, dx, dy, repeat, sky.radius);
                parallel_rows(0, h, [&](int y) { add(y, 0, w, slopes.row(y)); });
            } else
                horizons.sweep(dx, dy, sky_levels, add, 2);
        }
        if (across) turn(out);
    }
    const float per = 2.0f / static_cast<float>(sky.azimuths); // 2π a round, ÷ π
    parallel_rows(0, h, [&](int y) {
        for (int x = 0; x < w; ++x) out(x, y) = std::clamp(out(x, y) * per, 0.0f, 1.0f);
    });
    return out;
}

} // namespace bathylux
