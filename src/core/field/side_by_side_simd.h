#pragma once
#include <array>

namespace bathylux {

/// Lays four rows side by side, four floats a px, so that a px is one load; those that stand for one times
/// another as that product. Writes no further than `width` px.
void lay_side_by_side(const std::array<const float*, 4>& from, const std::array<const float*, 4>& times,
                      int width, float* to);
inline void lay_side_by_side(const std::array<const float*, 4>& from, int width, float* to) {
    lay_side_by_side(from, {}, width, to);
}
/// One row times another.
void lay_product(const float* from, const float* times, int width, float* to);

} // namespace bathylux
