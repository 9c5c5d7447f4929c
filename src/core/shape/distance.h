#pragma once
#include <limits>

#include "core/field/plane.h"
#include "core/shape/coverage.h"
#include "core/shape/outline.h"

namespace bathylux {

/// Distance in px from every pixel centre inside a shape to the shape's edge; 0 outside, at most `limit`.
///
/// `edge` holds the pieces that part inside from outside (see boundary_of); `inside` the pixels within.
/// Exact to the curves: the nearest flattened piece is found by branch and bound over a quadtree of
/// pixels, then refined on its curve by Newton's method.
Plane distance_inside(const Polyline& edge, const Spans& inside, Region region,
                      float limit = std::numeric_limits<float>::infinity());

/// The edge of an anti-aliased picture of coverage, as short oriented pieces one per boundary pixel: each
/// lies where a straight edge of the local direction would cut the pixel to its coverage
/// (Gustavson & Strand 2011). Coordinates are those of `region`.
Polyline edge_of_coverage(const Field& coverage, Region region);

} // namespace bathylux
