#include "core/relief/bands.h"

#include "core/field/gaussian.h"
#include "core/field/parallel.h"
#include "core/relief/smoothing.h"
#include "core/step/height.h"

namespace bathylux {

float Bands::reach() const { return gaussian_reach_at_any_scale(std::max(fine_size, medium_size)); }

Bundle Bands::apply(const Bundle& below, const Context& context) const {
    Bundle out = cropped(below, context.region);
    if (!below.gives_height || below.height.is_constant()) return out;
    const double s1 = fine_size * context.length, s2 = std::max(medium_size, fine_size) * context.length;
    const auto smooth = [&](double sigma) {
        return smoothed(below, context.region, sigma, context.canvas_edge).height;
    };
    const Field first = smooth(s1), second = s2 > s1 ? smooth(s2) : first;
    Plane& height = give_height(out);
    const int w = height.width();
    const Rows g1(first, w), g2(second, w);
    parallel_rows(0, height.height(), [&](int y) {
        float* h = height.row(y);
        const float *a = g1(y), *b = g2(y);
        for (int x = 0; x < w; ++x) h[x] = fine * (h[x] - a[x]) + medium * (a[x] - b[x]) + broad * b[x];
    });
    return out;
}

} // namespace bathylux
