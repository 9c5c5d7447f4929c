#include "core/relief/shape_steps.h"

#include "core/field/hash.h"
#include "core/step/reshaped.h"

namespace bathylux {

namespace {

template <class... P> std::uint64_t named(const Bundle& below, const Context& context, P... parts) {
    Hash h;
    h << (below.silhouette ? below.silhouette->hash : below.coverage_hash) << context.length;
    ((h << parts), ...);
    return h.value();
}

} // namespace

Bundle Inset::apply(const Bundle& below, const Context& context) const {
    if (amount == 0) return below;
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
    if (radius <= 0 && inner <= 0) return below;
    const double r = radius * context.length, i = inner * context.length;
    Contours shape = contours_of(below);
    if (r > 0) shape = offset(offset(shape, -r, Join::miter), r, Join::round);
    if (i > 0) shape = offset(offset(shape, i, Join::miter), -i, Join::round);
    return reshaped(below, context, shape, i, named(below, context, "round", radius, inner));
}

} // namespace bathylux
