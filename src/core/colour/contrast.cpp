#include "core/colour/contrast.h"

#include "core/colour/recolour.h"

namespace bathylux {

Bundle Contrast::apply(const Bundle& below, const Context& context) const {
    if (contrast == 1 && brightness == 0) return cropped(below, context.region); // exactly as it was
    const float add = pivot + brightness;
    // Its corners, where it is held, want a finer table than a curve.
    return recoloured_by_channel(below, context, 4 * contrast, -1, [&](float c) {
        return std::clamp((c - pivot) * contrast + add, 0.0f, 1.0f);
    });
}

std::string Contrast::says() const {
    std::string out = said(100 * contrast) + " %";
    if (brightness != 0)
        out += brightness > 0 ? ", brighter by " + said(100 * brightness) + " %"
                              : ", darker by " + said(-100 * brightness) + " %";
    return out + (pivot != 0.5f ? " about " + said(100 * pivot) + " %" : "");
}

} // namespace bathylux
