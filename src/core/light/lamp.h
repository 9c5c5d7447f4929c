#pragma once
#include <array>
#include <vector>

#include "core/piece/lights.h"
#include "core/piece/piece.h"

namespace bathylux {

/// A light as the shading loop wants it: canvas px, y up where it is a direction, colour linear.
struct Lamp {
    bool directional = true;
    float x = 0, y = 0, z = 1;           // unit vector to the light (y up), or its place (y down)
    std::array<float, 3> power{1, 1, 1}; // π × intensity × colour
    Falloff falloff = Falloff::none;
    float distance = 1;
};

/// The lights of a piece that are switched on.
std::vector<Lamp> lamps_of(const Piece& piece);

} // namespace bathylux
