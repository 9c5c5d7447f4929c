#include "core/relief/soften.h"

#include "core/field/gaussian.h"
#include "core/relief/smoothing.h"
#include "core/step/height.h"

namespace bathylux {

float Soften::reach() const { return gaussian_reach_at_any_scale(radius); }

Bundle Soften::apply(const Bundle& below, const Context& context) const {
    const double sigma = radius * context.length;
    Bundle out = cropped(below, context.region);
    if (!below.gives_height || sigma <= 0) return out;
    Smoothed s = smoothed(below, context.region, sigma, context.canvas_edge);
    out.height = std::move(s.height);
    out.weight = std::move(s.weight);
    return out;
}

} // namespace bathylux
