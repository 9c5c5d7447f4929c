#include "core/finish/gleam.h"

#include <cmath>

#include "core/field/line_mean.h"
#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

Bundle Gleam::apply(const Bundle& below, const Context& context) const {
    const Region have = below.region, want = context.region;
    Bundle out = cropped(below, want);
    if (strength == 0) return out;
    const Edge edge = context.canvas_edge;
    const int w = have.width(), wide = want.width();
    const Rows red(below.color[0], w), green(below.color[1], w), blue(below.color[2], w),
        alpha(below.coverage, w);
    // What is brighter than the threshold, in its own colour; premultiplied, as all light is.
    const MakeRows brighter = [&](int y, std::span<float* const> to) {
        const int row = y - have.y0;
        const float *r = red(row), *g = green(row), *b = blue(row), *a = alpha(row);
        float *to_r = to[0], *to_g = to[1], *to_b = to[2];
#pragma GCC ivdep
        for (int x = 0; x < w; ++x) {
            const float light = luma_r * r[x] + luma_g * g[x] + luma_b * b[x],
                        over = std::max(0.0f, light - above * a[x]), k = over / std::max(light, 1e-20f);
            to_r[x] = k * r[x], to_g[x] = k * g[x], to_b[x] = k * b[x];
        }
    };
    const std::array<float, 3> tints{strength * srgb_decode(tint.r), strength * srgb_decode(tint.g),
                                     strength * srgb_decode(tint.b)};
    const std::array<Field, 3> lit = out.color;
    const std::array<Rows, 3> under{Rows(lit[0], wide), Rows(lit[1], wide), Rows(lit[2], wide)};
    std::array<Plane, 3> sum{Plane(wide, want.height()), Plane(wide, want.height()),
                             Plane(wide, want.height())};
    const TakeRows added = [&](int y, std::span<const float* const> spread) {
        for (std::size_t c = 0; c < 3; ++c) {
            const float *u = under[c](y - want.y0), *s = spread[c], k = tints[c];
            float* to = sum[c].row(y - want.y0);
#pragma GCC ivdep
            for (int x = 0; x < wide; ++x) to[x] = u[x] + k * s[x];
        }
    };
    const double sigma = radius * context.length, line = length * context.length,
                 turn = angle * radians_per_degree;
    if (line <= 0 && sigma > 0.05)
        gaussian_rows(3, have, want, sigma, edge, brighter, added);
    else {
        std::array<Plane, 3> bright{Plane(w, have.height()), Plane(w, have.height()),
                                    Plane(w, have.height())};
        parallel_rows(have.y0, have.y1, [&](int y) {
            const int row = y - have.y0;
            brighter(y, std::array{bright[0].row(row), bright[1].row(row), bright[2].row(row)});
        });
        for (Plane& p : bright)
            p = line > 0 ? line_mean(p, have, want, {line * std::cos(turn), -line * std::sin(turn)}, edge)
                         : extended(p, have, want, edge);
        parallel_rows(want.y0, want.y1, [&](int y) {
            const int row = y - want.y0;
            added(y, std::array<const float*, 3>{bright[0].row(row), bright[1].row(row), bright[2].row(row)});
        });
    }
    for (std::size_t c = 0; c < 3; ++c) out.color[c] = Field(std::move(sum[c]));
    return out;
}

std::string Gleam::says() const {
    return "highlights over " + said(100 * above) + " % glow " +
           (length > 0 ? said(length) + " px at " + said(angle) + "°" : said(radius) + " px");
}

} // namespace bathylux
