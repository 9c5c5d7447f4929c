#include "core/colour/wash.h"

#include "core/colour/lay_colors.h"
#include "core/step/color_words.h"

namespace bathylux {

Bundle Wash::apply(const Bundle& below, const Context& context) const {
    if (!context.box_to_device.invertible() || context.box.empty()) return cropped(below, context.region);
    const Gradient gradient({shape, angle, repeats, mirrored}, stops, mix_in, context.box,
                            context.box_to_device);
    const Region r = context.region;
    return colors_laid(below, context, blend, {.opaque = gradient.opaque()},
                       [&](int y, const std::array<float*, 3>&, const std::array<float*, 4>& out) {
                           gradient.row(r.x0, r.y0 + y, r.width(), out);
                       });
}

std::string Wash::says() const {
    std::string out =
        in_words(stops) + ", " + std::string(gradient_shape_words[static_cast<std::size_t>(shape)]);
    if (repeats != 1 && shape != GradientShape::corners) out += ", " + counted(repeats) + " times";
    if (blend != BlendMode::normal) out += ", " + std::string(blend_words[static_cast<std::size_t>(blend)]);
    return out;
}

} // namespace bathylux
