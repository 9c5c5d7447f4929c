#pragma once
#include <vector>

#include "core/piece/picture.h"
#include "core/piece/sources.h"

namespace bathylux {

/// Where the frames of a sheet lie, in reading order. By a grid: cells of equal size between margin and
/// spacing; by islands: boxes around what is joined (a gap of one px is bridged) and not fully transparent.
/// Throws Error where the grid does not fit or there is no island.
std::vector<Region> sprite_frames(const Picture& sheet, const SpritesSource& source);

/// A part of a picture as one of its own.
Picture part_of(const Picture& picture, Region part);

/// The grid a sheet most likely has: the columns and rows whose lines run through the most transparency,
/// frames nearly square. 1 × 1 when nothing speaks for a grid.
std::pair<int, int> guessed_grid(const Picture& sheet);

} // namespace bathylux
