#pragma once
#include <array>
#include <optional>
#include <span>

#include "core/step/kind.h"

namespace bathylux {

enum class Falloff { square, linear, none };
inline constexpr std::array<std::string_view, 3> falloff_names{"square", "linear", "none"};
inline constexpr std::array<std::string_view, 3> falloff_words{"by distance squared", "by distance",
                                                               "not at all"};

// What several kinds of light have in common, told once.

namespace detail {

template <std::size_t... N> constexpr auto joined(const std::array<Parameter, N>&... parts) {
    std::array<Parameter, (N + ...)> out{};
    std::size_t i = 0;
    const auto take = [&](const auto& part) {
        for (const Parameter& p : part) out[i++] = p;
    };
    (take(parts), ...);
    return out;
}

/// Where a light stands over the art.
template <class T>
constexpr std::array stands{
    number<&T::x>("x", "Across", Unit::px, {0, 4000}, "Foot, from the canvas's left edge")
        .as(Said::across_canvas),
    number<&T::y>("y", "Down", Unit::px, {0, 4000}, "Foot, from the canvas's top edge").as(Said::down_canvas),
    number<&T::z>("z", "Height above the art", Unit::px, {1, 800}, "From height 0"),
};

/// What shines from there, and how far.
template <class T>
constexpr std::array shines{
    bathylux::color<&T::color>("color", "Colour", "Colour of the light"),
    number<&T::intensity>("intensity", "Intensity", Unit::none, {0, 4, 0, 10000},
                          "What arrives at the stated reach"),
    choice<&T::falloff, falloff_names>(
        "falloff", "Falls off",
        "How the light fades on its way: with the square of the distance, with the distance, not at all")
        .reads(falloff_words),
    number<&T::distance>("distance", "Reach", Unit::px, {10, 1600, 0.01, 1000000},
                         "Where its intensity is as stated")
        .only_when("falloff", "square|linear"),
    toggle<&T::shadow>("shadow", "Casts shadow", "Heights stand in its way"),
};

/// A round body.
template <class T>
constexpr std::array has_size{
    number<&T::size>("size", "Size", Unit::px, {0, 160, 0, 100000},
                     "Its diameter: softens shadow and highlight; 0 throws a hard shadow"),
};
template <class T>
constexpr std::array has_body{
    toggle<&T::body>("body", "Body shown", "The light itself is seen over the art"),
};

} // namespace detail

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
        number<&DirectionalLight::size>("size", "Size", Unit::degrees, {0, 20, 0, 90},
                                        "How wide it looks from the art: softens shadow and highlight"),
    };
};

/// A lamp that stands over the art.
struct PointLight {
    float x = 0, y = 0, z = 160;
    Color color = rgb(255, 209, 148);
    float intensity = 1;
    Falloff falloff = Falloff::square;
    float distance = 300;
    bool shadow = false;
    float size = 0;
    bool body = false;

    static constexpr std::string_view id = "point", name = "Lamp",
                                      help = "Stands over the art and shines all round";
    static const std::array<Parameter, 10> parameters;
};

/// A lamp that shines in a cone, aimed at a spot on the art.
struct SpotLight {
    float x = 0, y = 0, z = 300, target_x = 0, target_y = 0;
    float inner_cone = 18, outer_cone = 28;
    Color color = rgb(255, 230, 189);
    float intensity = 1;
    Falloff falloff = Falloff::square;
    float distance = 400;
    bool shadow = false;
    float size = 0;
    bool body = false;

    static constexpr std::string_view id = "spot", name = "Spot",
                                      help = "Shines in a cone on a spot of the art";
    static const std::array<Parameter, 14> parameters;
};

/// A soft bar of light that lies level over the art: the band that glides over bevels.
struct StripLight {
    float x = 0, y = 0, z = 200;
    float length = 400, width = 30, turn = 0;
    Color color = rgb(219, 237, 255);
    float intensity = 1;
    Falloff falloff = Falloff::square;
    float distance = 300;
    bool shadow = false;
    bool body = false;

    static constexpr std::string_view id = "strip", name = "Strip",
                                      help = "A bar of light whose reflection glides over bevels";
    static const std::array<Parameter, 12> parameters;
};

enum class SkyScene { gradient, harbour, workshop, file };
inline constexpr std::array<std::string_view, 4> sky_scene_names{"gradient", "harbour", "workshop", "file"};
inline constexpr std::array<std::string_view, 4> sky_scene_words{"three colours", "harbour at dusk",
                                                                 "workshop with windows", "a picture"};

/// Light from all round: ambient light that knows where it comes from, and what polished metal reflects.
struct SkyLight {
    SkyScene scene = SkyScene::gradient;
    std::string file;
    Color zenith = rgb(158, 189, 230), horizon = rgb(242, 237, 224), ground = rgb(66, 61, 56);
    float turn = 0;
    Color color{1, 1, 1, 1};
    float intensity = 0.5f;
    bool shadow = true;

    static constexpr std::string_view id = "sky", name = "Sky",
                                      help = "Light from all round, seen again in polished metal";
    static const std::array<Parameter, 9> parameters;
};

inline constexpr std::array<Parameter, 10> PointLight::parameters =
    detail::joined(detail::stands<PointLight>, detail::shines<PointLight>, detail::has_size<PointLight>,
                   detail::has_body<PointLight>);
inline constexpr std::array<Parameter, 14> SpotLight::parameters =
    detail::joined(detail::stands<SpotLight>,
                   std::array{number<&SpotLight::target_x>("target_x", "Aimed across", Unit::px, {0, 4000},
                                                           "Where it shines, from the left edge")
                                  .as(Said::across_canvas),
                              number<&SpotLight::target_y>("target_y", "Aimed down", Unit::px, {0, 4000},
                                                           "Where it shines, from the top edge")
                                  .as(Said::down_canvas),
                              number<&SpotLight::inner_cone>("inner_cone", "Full within", Unit::degrees,
                                                             {0, 60, 0, 89}, "From the cone's middle"),
                              number<&SpotLight::outer_cone>("outer_cone", "Ends at", Unit::degrees,
                                                             {1, 80, 0.1, 89.9}, "From the cone's middle")},
                   detail::shines<SpotLight>, detail::has_size<SpotLight>, detail::has_body<SpotLight>);
inline constexpr std::array<Parameter, 12> StripLight::parameters = detail::joined(
    detail::stands<StripLight>,
    std::array{number<&StripLight::length>("length", "Length", Unit::px, {0, 2000, 0, 100000}, "Of the bar"),
               number<&StripLight::width>("width", "Width", Unit::px, {0, 160, 0, 100000},
                                          "Of the bar: softens shadow and highlight"),
               number<&StripLight::turn>("turn", "Turn", Unit::degrees, {-180, 180},
                                         "0 lies level across the canvas")},
    detail::shines<StripLight>, detail::has_body<StripLight>);
inline constexpr std::array<Parameter, 9> SkyLight::parameters{
    choice<&SkyLight::scene, sky_scene_names>(
        "scene", "What it is", "Three colours, a harbour at dusk, a workshop with windows, a picture")
        .reads(sky_scene_words),
    bathylux::file<&SkyLight::file>("file", "Picture",
                                    "A panorama, twice as wide as high, straight up at its top")
        .only_when("scene", "file"),
    bathylux::color<&SkyLight::zenith>("zenith", "Overhead", "Colour of the sky straight over the art")
        .only_when("scene", "gradient"),
    bathylux::color<&SkyLight::horizon>("horizon", "Horizon", "Colour of the sky all round")
        .only_when("scene", "gradient"),
    bathylux::color<&SkyLight::ground>("ground", "From below", "What steep places see beyond the horizon")
        .only_when("scene", "gradient"),
    number<&SkyLight::turn>("turn", "Turn", Unit::degrees, {-180, 180}, "Turns the panorama about the art"),
    number<&SkyLight::intensity>("intensity", "Intensity", Unit::none, {0, 2, 0, 10000},
                                 "1 shows a white flat surface under a white sky as white"),
    bathylux::color<&SkyLight::color>("color", "Tint", "Colours all of it"),
    toggle<&SkyLight::shadow>("shadow", "Grooves darken", "Places that see less of the sky get less of it"),
};

/// Every kind of light's mark on charts and in lists.
enum class LightMark : std::uint8_t { dot, diamond, bar, arch };

/// A kind of light. Beside what every described thing has: how it stands.
struct LightKind : Kind {
    LightMark mark = LightMark::dot;
    bool stands = false;      // somewhere over the art, at x, y, z
    bool aimed = false;       // at target_x, target_y
    std::string_view angle{}; // the parameter that says where it comes from or is turned to
    std::string_view wish;    // what its ids begin with
};

/// What a light that stands somewhere has of a lamp, whatever else it is; none for far lights and skies.
inline std::optional<PointLight> standing(const Described& what) {
    if (const auto* p = what.as<PointLight>()) return *p;
    if (const auto* s = what.as<SpotLight>())
        return PointLight{s->x,       s->y,        s->z,      s->color, s->intensity,
                          s->falloff, s->distance, s->shadow, s->size,  s->body};
    if (const auto* s = what.as<StripLight>())
        return PointLight{s->x,       s->y,        s->z,      s->color, s->intensity,
                          s->falloff, s->distance, s->shadow, s->width, s->body};
    return std::nullopt;
}

} // namespace bathylux
