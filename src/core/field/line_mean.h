#pragma once
#include "core/field/geometry.h"
#include "core/field/plane.h"

namespace bathylux {

/// The mean along a line through each place: `line` is the whole of it, px (x right, y down), centred there.
/// What lies between px is interpolated along the axis the line runs across; the integral of that is exact.
/// `in` covers `have`, the result `wanted`; past the edges of `have` it reads what `edge` says (`none`
/// holds).
Plane line_mean(const Plane& in, Region have, Region wanted, Vec2 line, Edge edge);

/// How far that reads, px.
inline int line_reach(double length) { return static_cast<int>(length / 2) + 2; }

} // namespace bathylux
