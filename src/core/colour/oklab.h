#pragma once
#include <array>
#include <cmath>

namespace bathylux {

/// A colour in OKLab (Ottosson 2020): lightness 0…1, a towards red, b towards yellow.
struct Lab {
    float lightness, a, b;
};

/// From linear Rec. 709.
inline Lab to_oklab(float r, float g, float b) {
    const float l = std::cbrt(0.4122214708f * r + 0.5363325363f * g + 0.0514459929f * b),
                m = std::cbrt(0.2119034982f * r + 0.6806995451f * g + 0.1073969566f * b),
                s = std::cbrt(0.0883024619f * r + 0.2817188376f * g + 0.6299787005f * b);
    return {0.2104542553f * l + 0.7936177850f * m - 0.0040720468f * s,
            1.9779984951f * l - 2.4285922050f * m + 0.4505937099f * s,
            0.0259040371f * l + 0.7827717662f * m - 0.8086757660f * s};
}

inline float distance(const Lab& p, const Lab& q) {
    const float l = p.lightness - q.lightness, a = p.a - q.a, b = p.b - q.b;
    return std::sqrt(l * l + a * a + b * b);
}

} // namespace bathylux
