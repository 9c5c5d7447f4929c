#pragma once

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

} // namespace bathylux
