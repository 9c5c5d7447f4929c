#pragma once
#include <array>

namespace bathylux {

/// Lays four rows side by side, four floats a px, so that a px is one load; writes no further than `width`
/// px.
void lay_side_by_side(const std::array<const float*, 4>& from, int width, float* to);

} // namespace bathylux
