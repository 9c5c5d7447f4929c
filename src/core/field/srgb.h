#pragma once
#include <cmath>
#include <string>
#include <string_view>

namespace bathylux {

/// sRGB transfer function (IEC 61966-2-1), odd-symmetric outside 0…1 so that float pictures survive.
inline float srgb_encode(float linear) {
    const float x = std::abs(linear);
    const float y = x <= 0.0031308f ? 12.92f * x : 1.055f * std::pow(x, 1 / 2.4f) - 0.055f;
    return std::copysign(y, linear);
}
inline float srgb_decode(float encoded) {
    const float y = std::abs(encoded);
    const float x = y <= 0.04045f ? y / 12.92f : std::pow((y + 0.055f) / 1.055f, 2.4f);
    return std::copysign(x, encoded);
}

/// The same curves from tables with linear interpolation, for 0…1 (error below 2e-6; outside: exact).
float fast_srgb_encode(float linear);
float fast_srgb_decode(float encoded);

/// A colour as people write it: straight, sRGB-encoded, 0…1.
struct Color {
    float r = 0, g = 0, b = 0, a = 1;
    friend bool operator==(const Color&, const Color&) = default;
};

/// An opaque colour by its three bytes.
constexpr Color rgb(int r, int g, int b) {
    return {static_cast<float>(r) / 255.0f, static_cast<float>(g) / 255.0f, static_cast<float>(b) / 255.0f,
            1};
}
/// The nearest colour that eight bits a channel can say: what is written in files, and so what is kept.
Color in_bytes(const Color& color);

/// "#rgb", "#rrggbb" or "#rrggbbaa"; throws Error that quotes anything else.
Color parse_color(std::string_view text);
/// "#rrggbb", or "#rrggbbaa" where not opaque.
std::string to_string(const Color& color);

/// tone: 0.2126 R + 0.7152 G + 0.0722 B of the values as given.
constexpr float luma_r = 0.2126f, luma_g = 0.7152f, luma_b = 0.0722f;

} // namespace bathylux
