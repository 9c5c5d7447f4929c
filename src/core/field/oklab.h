#pragma once
#include <algorithm>
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

/// To linear Rec. 709.
inline std::array<float, 3> from_oklab(const Lab& c) {
    const float l = c.lightness + 0.3963377774f * c.a + 0.2158037573f * c.b,
                m = c.lightness - 0.1055613458f * c.a - 0.0638541728f * c.b,
                s = c.lightness - 0.0894841775f * c.a - 1.2914855480f * c.b;
    const float l3 = l * l * l, m3 = m * m * m, s3 = s * s * s;
    return {4.0767416621f * l3 - 3.3077115913f * m3 + 0.2309699292f * s3,
            -1.2684380046f * l3 + 2.6097574011f * m3 - 0.3413193965f * s3,
            -0.0041960863f * l3 - 0.7034186147f * m3 + 1.7076147010f * s3};
}

/// The same, or where it cannot be shown the strongest colour of its hue and lightness that can. Light has no
/// upper end: there (`most` infinite) only what would be less than none cannot be.
inline std::array<float, 3> shown(const Lab& c, float most = 1) {
    constexpr float slack = 1e-6f;
    const auto can_be = [most](const std::array<float, 3>& v) {
        return std::min({v[0], v[1], v[2]}) >= -slack && std::max({v[0], v[1], v[2]}) <= most + slack;
    };
    const auto whole = from_oklab(c);
    if (can_be(whole)) return whole;
    float can = 0, cannot = 1;
    for (int i = 0; i < 18; ++i) {
        const float k = 0.5f * (can + cannot);
        (can_be(from_oklab({c.lightness, k * c.a, k * c.b})) ? can : cannot) = k;
    }
    return from_oklab({c.lightness, can * c.a, can * c.b});
}

inline float distance(const Lab& p, const Lab& q) {
    const float l = p.lightness - q.lightness, a = p.a - q.a, b = p.b - q.b;
    return std::sqrt(l * l + a * a + b * b);
}

} // namespace bathylux
