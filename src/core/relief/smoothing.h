#pragma once

#include "core/step/bundle.h"

namespace bathylux {

/// A bundle's height under a Gaussian of standard deviation `sigma` device px, over `wanted`.
///
/// Height and weight are smoothed together (height weighted), as a premultiplied colour would be: what lies
/// outside the element does not pull its height down. `weight` is the smoothed weight.
struct Smoothed {
    Field height, weight;
};
Smoothed smoothed(const Bundle& bundle, Region wanted, double sigma, Edge canvas_edge);

} // namespace bathylux
