#include "core/colour/wash.h"

#include "core/colour/lay_colors.h"

namespace bathylux {

Bundle Wash::apply(const Bundle& below, const Context& context) const {
    if (!context.box_to_device.invertible() || context.box.empty()) return cropped(below, context.region);
    const Gradient gradient({shape, angle, repeats, mirrored}, stops, mix_in, context.box,
                            context.box_to_device);
    const Region r = context.region;
    return colors_laid(
        below, context, blend, gradient.opaque(),
        [&](int y, const std::array<float*, 4>& out) { gradient.row(r.x0, r.y0 + y, r.width(), out); });
}

std::string Wash::says() const {
    std::string out = to_string(stops.front().color) + " to " + to_string(stops.back().color) + ", " +
                      std::string(gradient_shape_words[static_cast<std::size_t>(shape)]);
    if (repeats != 1 && shape != GradientShape::corners) out += ", " + said(repeats) + " times";
    if (blend != BlendMode::normal) out += ", " + std::string(blend_words[static_cast<std::size_t>(blend)]);
    return out;
}

} // namespace bathylux
