#include "core/relief/shape_steps.h"

#include "core/field/gaussian.h"
#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

Contours contours_of(const Bundle& b) {
    return b.silhouette ? bathylux::contours_of(b.silhouette->fill)
                        : bathylux::contours_of(b.coverage, b.region);
}

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

/// The element with another edge; `beyond`: how far, device px, that may lie outside the old one.
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
    for (int c = 0; c < 3; ++c) carry(below.color[c], out.color[c], true);
    if (below.gives_height) {
        if (!below.height.is_constant()) carry(below.height, out.height, false);
        out.weight = Field(cover);
    }
    if (!(below.surface_weight.is_constant() && below.surface_weight.constant() == 0))
        out.surface_weight = Field(cover);
    out.coverage = Field(std::move(cover));
    out.silhouette = silhouette;
    out.coverage_hash = name;
    if (beyond > 0) out.stored.reset(), out.tone.reset();
    return out;
}

template <class... P> std::uint64_t named(const Bundle& below, const Context& context, P... parts) {
    Hash h;
    h << (below.silhouette ? below.silhouette->hash : below.coverage_hash) << context.length;
    ((h << parts), ...);
    return h.value();
}

} // namespace

Bundle Inset::apply(const Bundle& below, const Context& context) const {
    const double by = -amount * context.length;
    return reshaped(below, context, offset(contours_of(below), by, join), std::max(0.0, by),
                    named(below, context, "inset", amount, static_cast<int>(join)));
}

Bundle Border::apply(const Bundle& below, const Context& context) const {
    const double w = width * context.length;
    const double out = side == BorderSide::inside ? 0 : side == BorderSide::both ? w / 2 : w;
    const Contours shape = contours_of(below);
    const Contours outer = out > 0 ? offset(shape, out, join) : shape;
    const Contours inner = out < w ? offset(shape, out - w, join) : shape;
    return reshaped(below, context, without(outer, inner), out,
                    named(below, context, "border", width, static_cast<int>(side), static_cast<int>(join)));
}

Bundle RoundCorners::apply(const Bundle& below, const Context& context) const {
    const double r = radius * context.length, i = inner * context.length;
    Contours shape = contours_of(below);
    if (r > 0) shape = offset(offset(shape, -r, Join::miter), r, Join::round);
    if (i > 0) shape = offset(offset(shape, i, Join::miter), -i, Join::round);
    return reshaped(below, context, shape, i, named(below, context, "round", radius, inner));
}

} // namespace bathylux
