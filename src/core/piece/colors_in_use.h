#pragma once
#include <vector>

#include "core/piece/piece.h"

namespace bathylux {

/// The colours a piece states (its ground, its elements' sources, steps and surfaces, its finish and lights),
/// opaque, those used most often first; colours that no picture shows differently (within one part in 255 a
/// channel) count as one.
std::vector<Color> colors_in_use(const Piece& piece);

} // namespace bathylux
