#include "core/colour/liven.h"

#include <cmath>
#include <limits>

#include "core/colour/recolour.h"
#include "core/field/oklab.h"

namespace bathylux {

Bundle Liven::apply(const Bundle& below, const Context& context) const {
    if (strength == 0) return cropped(below, context.region); // exactly as it was
    constexpr float strong = 0.3f;                            // chroma that gains nothing
    const float most = context.unclamped ? std::numeric_limits<float>::infinity() : 1.0f;
    return recoloured<Values::linear>(below, context, [&](Rgb v) {
        const Lab lab = to_oklab(v[0], v[1], v[2]);
        const float chroma = std::sqrt(lab.a * lab.a + lab.b * lab.b),
                    k = 1 + strength * (1 - std::min(1.0f, chroma / strong));
        return shown({lab.lightness, k * lab.a, k * lab.b}, most);
    });
}

} // namespace bathylux
