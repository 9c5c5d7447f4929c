#pragma once
#include <array>
#include <optional>
#include <span>

#include "core/piece/kind.h"

namespace bathylux {

/// Light from so far away that it falls the same everywhere.
struct DirectionalLight {
    float angle = 135, elevation = 40;
    Color color{1, 1, 1, 1};
    float intensity = 1;
    bool shadow = false;
    float size = 0;

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
        toggle<&DirectionalLight::shadow>("shadow", "Casts shadow", "Heights stand in its way"),
        number<&DirectionalLight::size>("size", "Size (soft shadow)", Unit::degrees, {0, 20, 0, 90},
                                        "How wide it looks from the art; 0 throws a hard shadow"),
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
    bool shadow = false;
    float size = 0;

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
        toggle<&PointLight::shadow>("shadow", "Casts shadow", "Heights stand in its way"),
        number<&PointLight::size>("size", "Size (soft shadow)", Unit::px, {0, 160, 0, 100000},
                                  "Its diameter; 0 throws a hard shadow"),
    };
};

/// A lamp that shines in a cone, aimed at a spot on the art.
struct SpotLight {
    float x = 0, y = 0, z = 300, target_x = 0, target_y = 0;
    float inner_cone = 18, outer_cone = 28;
    Color color{1, 0.9f, 0.74f, 1};
    float intensity = 1;
    Falloff falloff = Falloff::square;
    float distance = 400;
    bool shadow = false;
    float size = 0;

    static constexpr std::string_view id = "spot", name = "Spot",
                                      help = "Shines in a cone on a spot of the art";
    static constexpr std::array parameters{
        number<&SpotLight::x>("x", "Across", Unit::px, {0, 4000}, "Foot, from the canvas's left edge"),
        number<&SpotLight::y>("y", "Down", Unit::px, {0, 4000}, "Foot, from the canvas's top edge"),
        number<&SpotLight::z>("z", "Height above the art", Unit::px, {1, 800}, "From height 0"),
        number<&SpotLight::target_x>("target_x", "Aimed across", Unit::px, {0, 4000},
                                     "Where it shines, from the left edge"),
        number<&SpotLight::target_y>("target_y", "Aimed down", Unit::px, {0, 4000},
                                     "Where it shines, from the top edge"),
        number<&SpotLight::inner_cone>("inner_cone", "Full within", Unit::degrees, {0, 60, 0, 89},
                                       "From the cone's middle"),
        number<&SpotLight::outer_cone>("outer_cone", "Ends at", Unit::degrees, {1, 80, 0.1, 89.9},
                                       "From the cone's middle"),
        bathylux::color<&SpotLight::color>("color", "Colour", "Colour of the light"),
        number<&SpotLight::intensity>("intensity", "Intensity", Unit::none, {0, 4, 0, 10000},
                                      "What arrives at the stated reach, in the cone's middle"),
        choice<&SpotLight::falloff, falloff_names>(
            "falloff", "Falls off",
            "How the light fades: with the square of the distance, with the distance, not at all"),
        number<&SpotLight::distance>("distance", "Reach", Unit::px, {10, 1600, 0.01, 1000000},
                                     "Where its intensity is as stated"),
        toggle<&SpotLight::shadow>("shadow", "Casts shadow", "Heights stand in its way"),
        number<&SpotLight::size>("size", "Size (soft shadow)", Unit::px, {0, 160, 0, 100000},
                                 "Its diameter; 0 throws a hard shadow"),
    };
};

/// What a light that stands somewhere has of a lamp, cone or not; none for far lights.
inline std::optional<PointLight> lamp_of(const Described& what) {
    if (const auto* p = what.as<PointLight>()) return *p;
    const auto* s = what.as<SpotLight>();
    if (!s) return std::nullopt;
    return PointLight{s->x, s->y, s->z, s->color, s->intensity, s->falloff, s->distance, s->shadow, s->size};
}

std::span<const Kind> light_kinds();
const Kind* find_light_kind(std::string_view id);
const Kind& light_kind(std::string_view id);

} // namespace bathylux
