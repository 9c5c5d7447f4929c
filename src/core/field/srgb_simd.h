#pragma once
#include <array>

namespace bathylux {

// Rows of colour between what planes hold (linear, premultiplied) and what steps on colour are told in
// (sRGB-encoded, straight); within 2e-6 of IEC 61966-2-1. `alpha` may be null: opaque. Values
// outside 0…1 encode odd-symmetrically. Where alpha is 0 straight colour is 0. Rows can be read and written
// up to the next multiple of 16.

void encode_row(const std::array<const float*, 3>& from, const std::array<float*, 3>& to, const float* alpha,
                int width);
/// In place; `held`: what comes in is held in 0…1 first.
void decode_row(const std::array<float*, 3>& rgb, const float* alpha, int width, bool held);

} // namespace bathylux
