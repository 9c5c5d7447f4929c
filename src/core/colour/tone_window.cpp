#include "core/colour/tone_window.h"

#include <cmath>

#include "core/colour/recolour.h"

namespace bathylux {

Bundle ColorWindow::apply(const Bundle& below, const Context& context) const {
    if (low == 0 && high == 1 && gamma == 1 && out_low == 0 && out_high == 1)
        return cropped(below, context.region); // exactly as it was
    // A window of no width is a threshold.
    const float span = std::abs(high - low) < 1e-6f ? 1e-6f : high - low, power = 1 / gamma;
    return recoloured<Values::encoded>(below, context, [&](Rgb v) {
        for (float& c : v) {
            const float t = std::clamp((c - low) / span, 0.0f, 1.0f);
            c = out_low + (out_high - out_low) * (power == 1 ? t : std::pow(t, power));
        }
        return v;
    });
}

std::string ColorWindow::says() const {
    std::string out = said(100 * low) + " to " + said(100 * high) + " %";
    if (gamma != 1) out += gamma > 1 ? ", middle brighter" : ", middle darker";
    if (out_low != 0 || out_high != 1)
        out += ", over " + said(100 * out_low) + " to " + said(100 * out_high) + " %";
    return out;
}

} // namespace bathylux
