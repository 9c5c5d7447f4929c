#include "core/relief/smoothing.h"

#include "core/field/gaussian.h"
#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

Smoothed smoothed(const Bundle& b, Region wanted, double sigma, Edge canvas_edge) {
    const auto smooth = [&](const Plane& p) { return gaussian(p, b.region, wanted, sigma, canvas_edge); };
    const bool everywhere = b.weight.is_constant() && b.weight.constant() == 1.0f;
    if (everywhere) return {b.height.is_constant() ? b.height : Field(smooth(b.height.plane())), b.weight};

    const int w = b.region.width();
    Plane weighted(w, b.region.height()), weight(w, b.region.height());
    const Rows h(b.height, w), k(b.weight, w);
    parallel_rows(0, b.region.height(), [&](int y) {
        for (int x = 0; x < w; ++x) {
            weight(x, y) = k(y)[x];
            weighted(x, y) = h(y)[x] * k(y)[x];
        }
    });
    Plane height = smooth(weighted), spread = smooth(weight);
    parallel_rows(0, height.height(), [&](int y) {
        for (int x = 0; x < height.width(); ++x) {
            float& s = spread(x, y);
            if (s < 1e-6f) s = 0;
            height(x, y) = s > 0 ? height(x, y) / s : 0.0f;
        }
    });
    return {Field(std::move(height)), Field(std::move(spread))};
}

} // namespace bathylux
