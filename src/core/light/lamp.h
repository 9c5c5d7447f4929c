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
    bool shadow = false;
    float size = 0; // degrees across for far lights, canvas px otherwise
    /// Of a spot (KHR_lights_punctual): attenuation = clamp(cos(angle to the axis) × scale + offset, 0, 1)².
    bool cone = false;
    std::array<float, 3> axis{0, 0, -1}; // unit vector, where it shines; y up
    float cone_scale = 0, cone_offset = 1;
};

/// Where a spot's cone of the given half angle (degrees) meets the art at height 0, canvas px: `count` points
/// round it. Rays that would go up and away end at the distance `far`.
std::vector<Vec2> pool_of(const SpotLight& spot, double half_angle, int count, double far);

/// The lights of a piece that are switched on.
std::vector<Lamp> lamps_of(const Piece& piece);

} // namespace bathylux
