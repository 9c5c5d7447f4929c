#pragma once
#include <optional>
#include <vector>

#include "core/piece/piece.h"
#include "core/step/bundle.h"

namespace bathylux {

/// What the relief is like at one place.
struct Sounding {
    float height = 0;              // canvas px
    float slope = 0;               // degrees from level
    std::array<float, 3> normal{}; // x right, y up, z towards the viewer
};

/// Sounds a relief evaluated at `scale` at a point of the canvas (canvas px): height bilinear between
/// pixel centres, normal of the nearest pixel. None outside the relief's region.
std::optional<Sounding> sound(const Bundle& relief, double scale, Edge edge, Vec2 at);

/// The profile of a relief along a line: heights at `count` evenly spread points, ends included.
struct Profile1D {
    std::vector<float> heights; // canvas px; points off the canvas hold the nearest height
    double length = 0;          // canvas px
    double steepest = 0;        // degrees, along the line
    double steepest_at = 0;     // canvas px from the start
};
Profile1D profile_along(const Bundle& relief, double scale, const SectionLine& line, int count);

} // namespace bathylux
