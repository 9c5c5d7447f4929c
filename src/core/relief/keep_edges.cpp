#include "core/relief/keep_edges.h"

#include "core/field/gaussian.h"
#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

float KeepEdges::reach() const { return 3 * gaussian_reach_at_any_scale(radius); }

Bundle KeepEdges::apply(const Bundle& below, const Context& context) const {
    Bundle out = cropped(below, context.region);
    const double sigma = radius * context.length;
    if (!below.gives_height || below.height.is_constant() || sigma < 0.2) return out;
    const Region all = below.region;
    const int w = all.width(), h = all.height();
    const auto smooth = [&](const Plane& p) { return gaussian(p, all, all, sigma, context.canvas_edge); };
    const auto each = [&](const auto& work) { parallel_rows(0, h, work); };
    // Weighted by where the element is: what lies outside pulls nothing.
    const Rows k(below.weight, w), height(below.height, w);
    Plane weight(w, h), mean(w, h), variance(w, h);
    each([&](int y) {
        for (int x = 0; x < w; ++x) weight(x, y) = k(y)[x], mean(x, y) = k(y)[x] * height(y)[x];
    });
    const bool everywhere = below.weight.is_constant();
    const Plane total = everywhere ? Plane() : smooth(weight);
    const auto divide = [&](Plane& p) {
        if (everywhere) return;
        each([&](int y) {
            for (int x = 0; x < w; ++x) p(x, y) /= std::max(total(x, y), 1e-6f);
        });
    };
    mean = smooth(mean);
    divide(mean);
    each([&](int y) {
        for (int x = 0; x < w; ++x) {
            const float d = height(y)[x] - mean(x, y);
            variance(x, y) = weight(x, y) * d * d;
        }
    });
    variance = smooth(variance);
    divide(variance);
    const auto threshold = static_cast<float>(edge * edge * context.rise * context.rise);
    Plane a(w, h), b(w, h);
    each([&](int y) {
        for (int x = 0; x < w; ++x) {
            const float share = variance(x, y) / std::max(variance(x, y) + threshold, 1e-12f);
            a(x, y) = weight(x, y) * share;
            b(x, y) = weight(x, y) * (1 - share) * mean(x, y);
        }
    });
    a = smooth(a), b = smooth(b);
    divide(a), divide(b);
    const int dx = context.region.x0 - all.x0, dy = context.region.y0 - all.y0;
    Plane& to = give_height(out);
    parallel_rows(0, to.height(), [&](int y) {
        for (int x = 0; x < to.width(); ++x) to(x, y) = a(x + dx, y + dy) * to(x, y) + b(x + dx, y + dy);
    });
    return out;
}

} // namespace bathylux
