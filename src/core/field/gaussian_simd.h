#pragma once
#include <span>
#include <vector>

namespace bathylux {

// The vector loops of gaussian(). Outputs may be written up to the next multiple of 16 floats, inputs read
// likewise; `half` is the right half of a symmetric kernel, half[0] in the middle.

/// out[x] = Σ_i half[|i|] middle[i][x], i = −r … r.
void combine_rows(const float* const* middle, std::span<const float> half, int width, float* out);
/// out[x] = Σ_m weights[m] rows[m][x].
void weigh_rows(std::span<const float* const> rows, std::span<const float> weights, int width, float* out);
/// out[x] = Σ_i half[|i|] in[x + i]; `in` may be read from −r.
void convolve_row(const float* in, std::span<const float> half, int width, float* out);
/// out[j] = Σ_i kernel[i] in[j k + i]. The kernel's length is a multiple of 16 (zeros behind it).
void read_every(const float* in, int k, std::span<const float> kernel, int count, float* out);
/// out[j k + phase] = Σ_m weights[m k + phase] in[j + m], for j in [0, blocks). k is a power of two.
void interpolate_row(const float* in, int k, int taps, std::span<const float> weights, int blocks,
                     float* out);

} // namespace bathylux
