#pragma once
#include "core/step/bundle.h"

namespace bathylux {

/// The part of a bundle over `region`, which it must contain.
Bundle cropped(const Bundle& bundle, Region region);

/// A field over `have`, over `wanted`, with 0 where there is nothing.
Field extended_with_nothing(const Field& field, Region have, Region wanted);
/// A bundle over `region`, with nothing where it does not reach.
Bundle extended_with_nothing(const Bundle& bundle, Region region);

/// Scales an element's coverage, and with it colour and every weight, in place. `mask` covers its region.
void limit(Bundle& element, const Field& mask);

/// How steep a height (canvas px) is over `wanted`, 0 level to 1 upright: atan of its slope by central
/// differences, as a share of a right angle. It covers `have`, past whose edges it goes on level. `per_px`:
/// device px per canvas px.
Plane steepness(const Field& height, Region have, Region wanted, float per_px);

/// The range of heights, or nothing but its lowest where it is no wider than rounding makes it: what is level
/// must not be stretched until that shows.
std::pair<float, float> range_beyond_rounding(std::pair<float, float> range);

/// Makes sure the bundle gives a height (0 so far, weighted by its coverage) and hands out its plane.
Plane& give_height(Bundle& bundle);

} // namespace bathylux
