#include "core/colour/hue.h"

#include <cmath>
#include <limits>

#include "core/colour/recolour.h"
#include "core/field/geometry.h"
#include "core/field/oklab.h"

namespace bathylux {

Bundle Hue::apply(const Bundle& below, const Context& context) const {
    if (turn == 0 && saturation == 1 && lightness == 0)
        return cropped(below, context.region); // exactly as it was
    const double a = turn * radians_per_degree;
    const auto c = static_cast<float>(saturation * std::cos(a)),
               s = static_cast<float>(saturation * std::sin(a));
    const float most = context.unclamped ? std::numeric_limits<float>::infinity() : 1.0f;
    return recoloured<Values::linear>(below, context, [&](Rgb v) {
        const Lab lab = to_oklab(v[0], v[1], v[2]);
        return shown(
            {std::clamp(lab.lightness + lightness, 0.0f, most), c * lab.a - s * lab.b, s * lab.a + c * lab.b},
            most);
    });
}

std::string Hue::says() const {
    std::string out;
    const auto add = [&](const std::string& what) { out += (out.empty() ? "" : ", ") + what; };
    if (turn != 0) add("turned by " + bathylux::said(turn) + "°");
    if (saturation != 1) add(bathylux::said(100 * saturation) + " % as strong");
    if (lightness != 0)
        add(lightness > 0 ? "lighter by " + bathylux::said(100 * lightness) + " %"
                          : "darker by " + bathylux::said(-100 * lightness) + " %");
    return out.empty() ? "as it is" : out;
}

} // namespace bathylux
