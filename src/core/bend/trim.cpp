#include "core/bend/trim.h"

#include <cmath>

#include "core/shape/coverage.h"
#include "core/step/height.h"

namespace bathylux {

Box trimmed(const Trim& t, const Box& box, const Affine& m, double length) {
    // A px of the element's own may be shown larger or smaller than the px that is cut off.
    const double u = length / std::max(1e-9, std::hypot(m.a, m.b)),
                 v = length / std::max(1e-9, std::hypot(m.c, m.d));
    Box out{box.x0 + u * t.left, box.y0 + v * t.top, box.x1 - u * t.right, box.y1 - v * t.bottom};
    if (out.empty()) out = {box.centre().x, box.centre().y, box.centre().x, box.centre().y};
    return out;
}

Bundle Trim::apply(const Bundle& below, const Context& context) const {
    Bundle out = cropped(below, context.region);
    if ((left == 0 && top == 0 && right == 0 && bottom == 0) || context.box.empty() ||
        !context.box_to_device.invertible())
        return out;
    Box box = trimmed(*this, context.box, context.box_to_device, context.length);
    // A side off which nothing is cut keeps what lies past it.
    const double past = 1e5 / std::max(1e-9, context.box_to_device.mean_scale());
    if (left == 0) box.x0 -= past;
    if (top == 0) box.y0 -= past;
    if (right == 0) box.x1 += past;
    if (bottom == 0) box.y1 += past;
    OutlineBuilder rim;
    const auto corner = [&](double x, double y) { return context.box_to_device({x, y}); };
    rim.move_to(corner(box.x0, box.y0));
    for (const Vec2 p : {corner(box.x1, box.y0), corner(box.x1, box.y1), corner(box.x0, box.y1)})
        rim.line_to(p);
    rim.close();
    limit(out, Field(coverage(flatten(rim.finish(), 0.05), context.region)));
    out.silhouette.reset();
    out.coverage_hash =
        (Hash() << "trimmed" << below.coverage_hash << box.x0 << box.y0 << box.x1 << box.y1
                << context.region.x0 << context.region.y0 << context.region.x1 << context.region.y1)
            .value();
    return out;
}

Box Trim::boxed(const Context& context) const {
    return trimmed(*this, context.box, context.box_to_device, context.length);
}

std::string Trim::says() const {
    std::string out;
    for (const auto& [by, side] :
         {std::pair{left, "left"}, {top, "top"}, {right, "right"}, {bottom, "bottom"}})
        if (by != 0) out += (out.empty() ? "" : ", ") + said(by) + " px " + side;
    return out.empty() ? "nothing cut off" : out;
}

} // namespace bathylux
