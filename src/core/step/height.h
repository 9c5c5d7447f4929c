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

/// Makes sure the bundle gives a height (0 so far, weighted by its coverage) and hands out its plane.
Plane& give_height(Bundle& bundle);

} // namespace bathylux
