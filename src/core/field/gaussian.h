#pragma once
#include <cstddef>
#include <functional>
#include <span>

#include "core/field/plane.h"

namespace bathylux {

/// How far, in px, the sampled Gaussian of standard deviation `sigma` reads.
int gaussian_reach(double sigma);
/// The same in px of a parameter, enough whatever scale it is looked at.
inline float gaussian_reach_at_any_scale(float sigma) { return 9 * sigma + 1; }

/// Convolution with the sampled, normalised Gaussian of standard deviation `sigma` px (> 0). `in` covers
/// `have`; the result covers `wanted`; past the edges of `have` it reads what `edge` says (`none` holds).
///
/// Small kernels are applied as they are. Large ones are split, exactly but for aliasing below 1e-5 of the
/// range, into three Gaussians whose variances add up: one that is read only at every k-th pixel, one on
/// those, and one that interpolates between them. Time does not grow with sigma.
Plane gaussian(const Plane& in, Region have, Region wanted, double sigma, Edge edge);

/// Makes a row of every channel of what is read, at height y of the canvas.
using MakeRows = std::function<void(int y, std::span<float* const> rows)>;
/// Takes a row of every channel of the result, from the left of what is wanted.
using TakeRows = std::function<void(int y, std::span<const float* const> rows)>;
/// The same a row at a time, for what is made of a picture and laid over it: no planes are needed in between
/// where sigma is large. Every row of `have` is made once, then every row of `wanted` taken once; both are
/// called from several threads, in no order.
void gaussian_rows(std::size_t channels, Region have, Region wanted, double sigma, Edge edge,
                   const MakeRows& in, const TakeRows& out);

} // namespace bathylux
