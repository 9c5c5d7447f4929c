#include "core/relief/soften.h"

#include "core/field/gaussian.h"
#include "core/field/parallel.h"
#include "core/relief/height.h"

namespace bathylux {

float Soften::reach() const { return static_cast<float>(gaussian_reach(radius)); }

Bundle Soften::apply(const Bundle& below, const Context& context) const {
    const double sigma = radius * context.length;
    Bundle out = cropped(below, context.region);
    if (!below.gives_height || sigma <= 0) return out;
    const int w = below.region.width();

    const bool everywhere = below.weight.is_constant() && below.weight.constant() == 1.0f;
    if (everywhere) {
        if (below.height.is_constant()) return out;
        out.height = Field(gaussian(below.height.plane(), below.region, context.region, sigma,
                                    context.canvas_edge, context.stop));
        return out;
    }

    Plane weighted(w, below.region.height()), weight(w, below.region.height());
    const Rows h(below.height, w), k(below.weight, w);
    parallel_rows(0, below.region.height(), [&](int y) {
        for (int x = 0; x < w; ++x) {
            weight(x, y) = k(y)[x];
            weighted(x, y) = h(y)[x] * k(y)[x];
        }
    });
    const auto smooth = [&](const Plane& p) {
        return gaussian(p, below.region, context.region, sigma, context.canvas_edge, context.stop);
    };
    Plane height = smooth(weighted), spread = smooth(weight);
    parallel_rows(0, height.height(), [&](int y) {
        for (int x = 0; x < height.width(); ++x) {
            float& s = spread(x, y);
            if (s < 1e-6f) s = 0;
            height(x, y) = s > 0 ? height(x, y) / s : 0.0f;
        }
    });
    out.height = Field(std::move(height));
    out.weight = Field(std::move(spread));
    return out;
}

} // namespace bathylux
