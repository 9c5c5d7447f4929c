#pragma once
#include <array>
#include <span>

#include "core/piece/kind.h"

namespace bathylux {

/// Light from so far away that it falls the same everywhere.
struct DirectionalLight {
    float angle = 135, elevation = 40;
    Color color{1, 1, 1, 1};
    float intensity = 1;

    static constexpr std::string_view id = "directional", name = "Far light",
                                      help = "Falls the same everywhere, like the sun";
    static constexpr std::array parameters{
        number<&DirectionalLight::angle>("angle", "Comes from", Unit::degrees, {-180, 180},
                                         "0 from the right, 90 from the top"),
        number<&DirectionalLight::elevation>("elevation", "Elevation", Unit::degrees, {0, 90, -90, 90},
                                             "0 grazing, 90 straight on"),
        bathylux::color<&DirectionalLight::color>("color", "Colour", "Colour of the light"),
        number<&DirectionalLight::intensity>("intensity", "Intensity", Unit::none, {0, 4, 0, 10000},
                                             "1 shows a white flat surface as white, straight on"),
    };
};

enum class Falloff { square, linear, none };
inline constexpr std::array<std::string_view, 3> falloff_names{"square", "linear", "none"};

/// A lamp that stands over the art.
struct PointLight {
    float x = 0, y = 0, z = 160;
    Color color{1, 0.82f, 0.58f, 1};
    float intensity = 1;
    Falloff falloff = Falloff::square;
    float distance = 300;

    static constexpr std::string_view id = "point", name = "Lamp",
                                      help = "Stands over the art and shines all round";
    static constexpr std::array parameters{
        number<&PointLight::x>("x", "Across", Unit::px, {0, 4000}, "Foot, from the canvas's left edge"),
        number<&PointLight::y>("y", "Down", Unit::px, {0, 4000}, "Foot, from the canvas's top edge"),
        number<&PointLight::z>("z", "Height above the art", Unit::px, {1, 800}, "From height 0"),
        bathylux::color<&PointLight::color>("color", "Colour", "Colour of the light"),
        number<&PointLight::intensity>("intensity", "Intensity", Unit::none, {0, 4, 0, 10000},
                                       "What arrives at the stated reach"),
        choice<&PointLight::falloff, falloff_names>(
            "falloff", "Falls off",
            "How the light fades: with the square of the distance, with the distance, not at all"),
        number<&PointLight::distance>("distance", "Reach", Unit::px, {10, 1600, 0.01, 1000000},
                                      "Where its intensity is as stated"),
    };
};

std::span<const Kind> light_kinds();
const Kind* find_light_kind(std::string_view id);
const Kind& light_kind(std::string_view id);

} // namespace bathylux
