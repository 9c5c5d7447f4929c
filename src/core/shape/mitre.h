#pragma once
#include "core/field/plane.h"
#include "core/shape/offset.h"

namespace bathylux {

/// Turns a field of distances inside a shape into one whose contours are mitred at corners that go in: in the
/// wedge between the normals of such a corner, the farther of the distances to its two lines, where that is
/// less, up to `limit`. `distance` covers `region`; in place.
void mitre_corners(Plane& distance, const Contours& shape, Region region, float limit);

/// Rounds the ridges of a distance field: max over q of d(q) − |p − q|² ÷ 2r, less r ÷ 2. Slopes of 1 stay as
/// they are; a ridge becomes a parabola of radius r. Never below half the distance, so that thin shapes keep
/// some height. Separable and linear in time (Felzenszwalb & Huttenlocher 2012). In place.
void round_ridges(Plane& distance, float radius);

} // namespace bathylux
