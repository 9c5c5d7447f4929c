#pragma once
#include "core/step/bundle.h"

namespace bathylux {

/// Distance in device px from every px within an element to its edge, exact to its outline where it has one
/// and to a px where it is a picture (a soft quantity wants no more), at most `limit`; 0 outside. Over
/// `wanted`; `b` covers that and `limit` around it, as far as there is anything.
Plane distance_within(const Bundle& b, Region wanted, float limit);

} // namespace bathylux
