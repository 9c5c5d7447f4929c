#pragma once
#include "core/bend/texels.h"
#include "core/step/step_kind.h"

namespace bathylux {

/// What comes in, at the places looked at: out(p) = in(looks(p)), colour, coverage, height, surface and all.
/// Heights are read times how much they count. Past the element's box lies what `edge` says (for `none`:
/// whatever is there); a canvas that is a tile is continued. `looks` covers context.region and a px around.
Bundle bent(const Looks& looks, const Context& context, Edge edge);

/// Where what `bent` gives can lie, for what looks at most (x, y) device px from itself.
Region bent_extent(Region below, Edge edge, const Context& context, double x, double y);

} // namespace bathylux
