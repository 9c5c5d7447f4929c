#pragma once
#include <array>
#include <optional>
#include <vector>

#include "core/field/geometry.h"
#include "core/light/lights.h"

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
    /// Of a strip: half its length, canvas px, and the unit vector along it (y up). 0: not a strip.
    float half_length = 0;
    std::array<float, 3> along{1, 0, 0};
    bool body = false; // seen over the art
};

/// Where a spot's cone of the given half angle (degrees) meets the art at height 0, canvas px: `count` points
/// round it. Rays that would go up and away end at the distance `far`.
std::vector<Vec2> pool_of(const SpotLight& spot, double half_angle, int count, double far);

/// A light (on the canvas) as the shading loop wants it; none for skies.
std::optional<Lamp> lamp_of(const Described& light);

/// The colour of a glowing body of that temperature (kelvin, 1000…15000), sRGB-encoded, its brightest channel
/// 1: Planck's law through the colour matching functions' fit of Wyman, Sloan & Shirley (2013), on to Rec.
/// 709.
Color color_of_temperature(double kelvin);
/// The temperature whose colour comes nearest to that of a light in hue and saturation.
double temperature_of(const Color& color);

} // namespace bathylux
