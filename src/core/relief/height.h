#pragma once
#include "core/piece/bundle.h"

namespace bathylux {

/// The part of a bundle over `region`, which it must contain.
Bundle cropped(const Bundle& bundle, Region region);

/// Makes sure the bundle gives a height (0 so far, weighted by its coverage) and hands out its plane.
Plane& give_height(Bundle& bundle);

} // namespace bathylux
