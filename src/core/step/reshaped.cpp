#include "core/step/reshaped.h"

#include "core/field/gaussian.h"
#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

/// A quantity of the element continued past its old edge: where it was at least half there, itself; beyond, a
/// Gaussian mean of what was there, as far as that reaches.
Plane continued(const Field& value, const Field& coverage, bool premultiplied, Region all, double sigma,
                Edge edge) {
    const int w = all.width(), h = all.height();
    Plane sum(w, h), weight(w, h);
    const Rows v(value, w), a(coverage, w);
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            const float k = a(y)[x] > 0.5f ? 1.0f : 0.0f;
            weight(x, y) = k;
            sum(x, y) = k > 0 ? v(y)[x] / (premultiplied ? a(y)[x] : 1.0f) : 0.0f;
        }
    const Plane spread = gaussian(sum, all, all, sigma, edge),
                total = gaussian(weight, all, all, sigma, edge);
    parallel_rows(0, h, [&](int y) {
        for (int x = 0; x < w; ++x)
            if (weight(x, y) == 0) sum(x, y) = total(x, y) > 1e-7f ? spread(x, y) / total(x, y) : 0.0f;
    });
    return sum;
}

} // namespace

Contours contours_of(const Bundle& b) {
    return b.silhouette ? contours_of(b.silhouette->fill) : contours_of(b.coverage, b.region);
}

Bundle reshaped(const Bundle& below, const Context& context, const Contours& contours, double beyond,
                std::uint64_t name) {
    auto silhouette = std::make_shared<Silhouette>();
    silhouette->fill = polyline_of(contours);
    silhouette->edge = silhouette->fill;
    silhouette->hash = name;
    Plane cover = coverage(silhouette->fill, context.region);
    Bundle out = cropped(below, context.region);
    const int w = cover.width(), h = cover.height();
    const double sigma = std::max(1.0, beyond / 2.5);
    const auto carry = [&](const Field& value, Field& to, bool premultiplied) {
        Plane straight = cropped(Field(continued(value, below.coverage, premultiplied, below.region, sigma,
                                                 context.canvas_edge)),
                                 below.region, context.region)
                             .plane();
        if (premultiplied)
            for (int y = 0; y < h; ++y)
                for (int x = 0; x < w; ++x) straight(x, y) *= cover(x, y);
        to = Field(std::move(straight));
    };
    // Counts as much of what is covered as it did before.
    const auto carry_weight = [&](const Field& weight, Field& to) {
        if (same(weight, below.coverage)) {
            to = Field(cover);
            return;
        }
        carry(weight, to, true);
        Plane& k = to.writable(w, h);
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) k(x, y) = std::min(k(x, y), cover(x, y));
    };
    for (int c = 0; c < 3; ++c) carry(below.color[c], out.color[c], true);
    if (below.gives_height) {
        if (!below.height.is_constant()) carry(below.height, out.height, false);
        carry_weight(below.weight, out.weight);
    }
    if (!(below.surface_weight.is_constant() && below.surface_weight.constant() == 0))
        carry_weight(below.surface_weight, out.surface_weight);
    out.coverage = Field(std::move(cover));
    out.silhouette = silhouette;
    out.coverage_hash = name;
    if (beyond > 0) out.stored.reset(), out.tone.reset();
    return out;
}

} // namespace bathylux
