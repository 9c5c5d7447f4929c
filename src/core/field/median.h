#pragma once
#include <stop_token>

#include "core/field/plane.h"

namespace bathylux {

/// The median of every pixel's square of 2 radius + 1 px, exact to 1/65535 of the values' range in a tile.
/// `in` covers `have`; the result covers `wanted`; past the edges of `have` it reads what `edge` says.
///
/// Tile by tile: values are ranked (least-significant-digit radix sort) and cut into classes of equal size;
/// every column keeps cumulative counts of its classes, a running sum of columns gives those of the window
/// (after Huang 1979 and Perreault & Hébert 2007); within the class that holds the median its members, in
/// order of value, are tested against the window. Time hardly grows with the radius.
Plane median(const Plane& in, Region have, Region wanted, int radius, Edge edge, std::stop_token stop = {});

} // namespace bathylux
