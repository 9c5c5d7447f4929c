#include "core/relief/sharpen.h"

#include "core/field/gaussian.h"
#include "core/field/parallel.h"
#include "core/relief/smoothing.h"
#include "core/step/height.h"

namespace bathylux {

float Sharpen::reach() const { return gaussian_reach_at_any_scale(radius); }

Bundle Sharpen::apply(const Bundle& below, const Context& context) const {
    Bundle out = cropped(below, context.region);
    const double sigma = radius * context.length;
    if (!below.gives_height || below.height.is_constant() || sigma <= 0) return out;
    const Field smooth = smoothed(below, context.region, sigma, context.canvas_edge).height;
    Plane& height = give_height(out);
    const int w = height.width();
    const Rows g(smooth, w);
    parallel_rows(0, height.height(), [&](int y) {
        float* h = height.row(y);
        for (int x = 0; x < w; ++x) h[x] += strength * (h[x] - g(y)[x]);
    });
    return out;
}

} // namespace bathylux
