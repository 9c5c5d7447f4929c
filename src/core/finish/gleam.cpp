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
    // What is brighter than the threshold, in its own colour; premultiplied, as all light is.
    std::array<Plane, 3> bright{Plane(have.width(), have.height()), Plane(have.width(), have.height()),
                                Plane(have.width(), have.height())};
    const int w = have.width();
    const Rows red(below.color[0], w), green(below.color[1], w), blue(below.color[2], w),
        alpha(below.coverage, w);
    std::vector<char> any(static_cast<std::size_t>(have.height()), 0);
    parallel_rows(0, have.height(), [&](int y) {
        const float *r = red(y), *g = green(y), *b = blue(y), *a = alpha(y);
        float *to_r = bright[0].row(y), *to_g = bright[1].row(y), *to_b = bright[2].row(y);
        float most = 0;
#pragma GCC ivdep
        for (int x = 0; x < w; ++x) {
            const float light = luma_r * r[x] + luma_g * g[x] + luma_b * b[x],
                        over = std::max(0.0f, light - above * a[x]), k = over / std::max(light, 1e-20f);
            to_r[x] = k * r[x], to_g[x] = k * g[x], to_b[x] = k * b[x];
        }
        for (int x = 0; x < w; ++x) most = std::max({most, to_r[x], to_g[x], to_b[x]});
        if (most > 0) any[static_cast<std::size_t>(y)] = 1;
    });
    if (std::none_of(any.begin(), any.end(), [](char row) { return row != 0; })) return out;
    const double sigma = radius * context.length, line = length * context.length,
                 turn = angle * radians_per_degree;
    const float tints[3] = {strength * srgb_decode(tint.r), strength * srgb_decode(tint.g),
                            strength * srgb_decode(tint.b)};
    for (int c = 0; c < 3; ++c) {
        const Plane spread =
            line > 0       ? line_mean(bright[c], have, want, {line * std::cos(turn), -line * std::sin(turn)},
                                       context.canvas_edge)
            : sigma > 0.05 ? gaussian(bright[c], have, want, sigma, context.canvas_edge)
                           : extended(bright[c], have, want, context.canvas_edge);
        Plane& to = out.color[c].writable(want.width(), want.height());
        parallel_rows(0, want.height(), [&](int y) {
            float* v = to.row(y);
            const float* s = spread.row(y);
#pragma GCC ivdep
            for (int x = 0; x < want.width(); ++x) v[x] += tints[c] * s[x];
        });
    }
    return out;
}

std::string Gleam::says() const {
    return "highlights over " + said(100 * above) + " % glow " +
           (length > 0 ? said(length) + " px at " + said(angle) + "°" : said(radius) + " px");
}

} // namespace bathylux
