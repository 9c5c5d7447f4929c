#include "core/colour/crisp.h"

#include <cmath>

#include "core/colour/recolour.h"

namespace bathylux {

Bundle Crisp::apply(const Bundle& below, const Context& context) const {
    Bundle out = to_recolour(below, context.region);
    const double sigma = radius * context.length;
    const Region have = below.region, want = context.region;
    if (!(sigma > 0.05) || strength == 0) return out;
    const int w = have.width(), h = have.height(), dx = want.x0 - have.x0, dy = want.y0 - have.y0;
    const Rows alpha(below.coverage, w);
    const bool opaque = below.coverage.is_constant() && below.coverage.constant() == 1;
    Plane cover;
    if (!opaque) {
        Plane own(w, h);
        parallel_rows(0, h, [&](int y) { std::copy_n(alpha(y), w, own.row(y)); });
        cover = gaussian(own, have, want, sigma, context.canvas_edge);
    }
    for (int c = 0; c < 3; ++c) {
        Plane encoded(w, h);
        const Rows color(below.color[c], w);
        // Weighed by how much of the element there is, so that nothing beyond its edge counts.
        parallel_rows(0, h, [&](int y) {
            const float *a = alpha(y), *v = color(y);
            float* to = encoded.row(y);
            for (int x = 0; x < w; ++x) to[x] = a[x] > 0 ? a[x] * fast_srgb_encode(v[x] / a[x]) : 0.0f;
        });
        const Plane around = gaussian(encoded, have, want, sigma, context.canvas_edge);
        Plane& result = out.color[c].writable(want.width(), want.height());
        parallel_rows(0, want.height(), [&](int y) {
            const float *a = alpha(y + dy) + dx, *own = encoded.row(y + dy) + dx, *blurred = around.row(y);
            float* to = result.row(y);
            for (int x = 0; x < want.width(); ++x) {
                if (!(a[x] > 0)) continue;
                const float value = own[x] / a[x],
                            difference = value - blurred[x] / (opaque ? 1.0f : std::max(cover(x, y), 1e-6f));
                if (!(std::abs(difference) > threshold)) continue;
                const float now = value + strength * difference;
                to[x] = a[x] * fast_srgb_decode(context.unclamped ? now : std::clamp(now, 0.0f, 1.0f));
            }
        });
    }
    return out;
}

} // namespace bathylux
