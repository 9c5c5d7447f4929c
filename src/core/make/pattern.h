#pragma once
#include "core/make/noise.h"

namespace bathylux {

/// A relief that repeats, 0…1, as the motif's closed form says at every place. On a grid coarser than the
/// source it is averaged over the pixel, so that a preview looks like the whole.
Plane pattern(const PatternSource& source, const Grid& grid, std::stop_token stop = {});

/// The relief at one place of the source, px (for brushes).
float pattern_at(const PatternSource& source, Vec2 at);

} // namespace bathylux
