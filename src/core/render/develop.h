#pragma once
#include <cstdint>
#include <vector>

#include "core/field/plane.h"

namespace bathylux {

/// A picture made ready for the screen: sRGB, premultiplied, 0xAARRGGBB.
struct Pixels {
    int width = 0, height = 0;
    std::vector<std::uint32_t> argb;
};

/// Linear premultiplied colour and coverage (values outside 0…1 are held).
Pixels develop_color(const std::array<Field, 3>& color, const Field& coverage, int width, int height);

/// Normals as a map shows them: round(127.5 + 127.5 n).
Pixels develop_normals(const std::array<Field, 3>& normals, int width, int height);

/// How heights are drawn.
struct ChartStyle {
    float low = 0, high = 1; // canvas px: the ends of the tints
    float contour_step = 0;  // canvas px between contour lines; 0 draws none
    bool grey = false;       // black low, white high, as maps are exchanged
};
Pixels develop_height(const Field& height, int width, int height_px, const ChartStyle& style);

/// The depth tint at t in 0…1, 0xFFRRGGBB: deep teal, sea green, ivory, ochre; lightness in OKLab
/// (Ottosson 2020) rises evenly.
std::uint32_t depth_tint(float t);

/// A round step (1, 2 or 5 times a power of ten) that gives about eight contours over the range.
float round_contour_step(float low, float high);

} // namespace bathylux
