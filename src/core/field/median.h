#pragma once

#include "core/field/plane.h"

namespace bathylux {

/// The median of every pixel's square of 2 radius + 1 px, exact to 1/65535 of the values' range in a tile.
/// `in` covers `have`; the result covers `wanted`; past the edges of `have` it reads what `edge` says.
///
/// Tile by tile: values are sorted once; a rank walks from window to window (Huang, Yang & Tang 1979), told
/// by the ranks that enter and leave how many of the window lie below it, and goes on to the median by
/// testing places in order of rank against the window. Time hardly grows with the radius.
Plane median(const Plane& in, Region have, Region wanted, int radius, Edge edge);

} // namespace bathylux
