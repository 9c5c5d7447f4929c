#pragma once
#include <stop_token>

#include "core/field/plane.h"

namespace bathylux {

/// The horizon where nothing stands in the way.
constexpr float no_horizon = -1e30f;

/// For every px of a height field: the steepest slope (height per px of way) under which anything is seen
/// when looking level along a direction (dx, dy), y down; `no_horizon` where nothing is met. `height` in px.
/// With `repeat` the field goes on past its edges. Only what lies within `radius` px is looked at (0: all of
/// it).
///
/// Lines are swept across a sheared field, each carrying the upper hull of the heights met so far, so that
/// the horizon is found in constant time on average (Timonen & Westerholm 2010). A px is tested against what
/// lies before it only: level ground sees nothing but itself.
Plane horizons_along(const Plane& height, double dx, double dy, bool repeat, float radius,
                     std::stop_token stop = {});

/// The same when looking from every px towards one place (px of the field, may lie outside it); what lies
/// beyond that place does not count. Lines run outwards from it, one to every px of the field's rim in the
/// four quarters around it.
Plane horizons_towards(const Plane& height, double x, double y, std::stop_token stop = {});

} // namespace bathylux
