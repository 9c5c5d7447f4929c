#pragma once
#include <array>
#include <cstdint>
#include <string_view>

namespace bathylux {

/// Blend modes of W3C Compositing and Blending Level 1.
enum class BlendMode : std::uint8_t {
    normal,
    multiply,
    screen,
    overlay,
    darken,
    lighten,
    color_dodge,
    color_burn,
    hard_light,
    soft_light,
    difference,
    exclusion,
    hue,
    saturation,
    color,
    luminosity
};
inline constexpr std::array<std::string_view, 16> blend_names{
    "normal",      "multiply",   "screen",     "overlay",    "darken",     "lighten",
    "color-dodge", "color-burn", "hard-light", "soft-light", "difference", "exclusion",
    "hue",         "saturation", "color",      "luminosity"};
inline constexpr std::array<std::string_view, 16> blend_words{
    "normal",       "multiply",    "screen",     "overlay",    "darken",     "lighten",
    "colour dodge", "colour burn", "hard light", "soft light", "difference", "exclusion",
    "hue",          "saturation",  "colour",     "luminosity"};

/// B(backdrop, source): three straight values each, in the space blending happens in.
std::array<float, 3> blend(BlendMode mode, const std::array<float, 3>& backdrop,
                           const std::array<float, 3>& source);

/// How much both cover, one over the other, within a share of the px that neither exceeds.
inline float united_coverage(float over, float under, float within = 1) {
    return over >= within || under >= within ? within : over + under - over * under / within;
}

/// Premultiplied linear RGBA of `source` (its coverage already times opacity) over `backdrop`:
/// co = (1 − αb) αs cs + αb αs B(cb, cs) + (1 − αs) αb cb, αo = αs + αb − αs αb (W3C, section 5).
/// Mixed in sRGB-encoded values unless `linear`.
void composite(BlendMode mode, bool linear, const std::array<float, 4>& source,
               std::array<float, 4>& backdrop);

} // namespace bathylux
