#pragma once
#include <vector>

#include "core/field/plane.h"
#include "core/shape/outline.h"

namespace bathylux {

/// Closed polygons, filled by the nonzero rule once they are simple: outer ones run one way, holes the other.
using Contours = std::vector<std::vector<Vec2>>;

/// The contours of a flattened outline as simple polygons.
Contours contours_of(const Polyline& fill);
/// The contours at half coverage of a picture of it, by marching squares with linear interpolation (Lorensen
/// & Cline 1987, in the plane). Coordinates are those of `region`.
Contours contours_of(const Field& coverage, Region region);

enum class Join { miter, round };

/// Moves every edge outwards by `by` px (inwards where negative). Mitred corners reach at most four times as
/// far. By Clipper (Johnson 2014; Chen & McMains 2005), on a grid of 1/1024 px, arcs within 1/250 px.
Contours offset(const Contours& shape, double by, Join join);
/// What lies in either.
Contours united(const Contours& a, const Contours& b);
/// What lies in `a` but not in `b`.
Contours without(const Contours& a, const Contours& b);

Polyline polyline_of(const Contours& contours);

} // namespace bathylux
