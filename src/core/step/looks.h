#pragma once
#include "core/field/plane.h"

namespace bathylux {

/// Where every px of a region looks, device px; one px more on every side.
struct Looks {
    Region region;
    Plane x, y; // of grow(region, 1)
};

} // namespace bathylux
