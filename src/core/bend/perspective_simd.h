#pragma once
#include <array>

namespace bathylux {

/// Where the middles of `n` px of a row, the first at (x, y), come from by a homography; 1e9 both ways where
/// that is past the horizon, and no further in any case.
void places_in_perspective(const std::array<double, 9>& back, double x, double y, int n, float* to_x,
                           float* to_y);

} // namespace bathylux
