#include "core/colour/gain.h"

#include <cmath>

#include "core/colour/recolour.h"

namespace bathylux {

Bundle Gain::apply(const Bundle& below, const Context& context) const {
    if (stops == 0 && color == rgb(255, 255, 255)) return cropped(below, context.region); // exactly as it was
    const float k = std::exp2(stops);
    const Rgb by{k * srgb_decode(color.r), k * srgb_decode(color.g), k * srgb_decode(color.b)};
    return recoloured<Values::linear>(below, context, [&](Rgb v) {
        for (int c = 0; c < 3; ++c) v[c] *= by[c];
        return v;
    });
}

std::string Gain::says() const {
    const std::string light = (stops > 0 ? "+" : "") + said(stops) + " EV";
    return color == rgb(255, 255, 255) ? light : light + ", through " + to_string(color);
}

} // namespace bathylux
