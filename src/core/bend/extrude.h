#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// A body behind the face: its silhouette swept along an angle.
struct Extrude {
    float angle = 300, length = 60, taper = 1;
    Color color = rgb(58, 61, 64);
    float darken = 0.4f, rise = 0;

    static constexpr std::string_view id = "extrude", name = "Extrude", group = "bend",
                                      help = "A body behind the face, swept along an angle";
    static constexpr bool spreads = false, looks = true, drops_outline = true;
    static constexpr Channels gives = channel::all;
    static constexpr std::array parameters{
        number<&Extrude::angle>("angle", "Runs towards", Unit::degrees, {0, 360},
                                "Counter-clockwise from the right"),
        number<&Extrude::length>("length", "Length", Unit::px, {0, 400, 0, 10000}, "How far it runs"),
        number<&Extrude::taper>("taper", "Taper", Unit::ratio, {0, 2, 0, 10}, "Its size at the end")
            .as(Said::percent),
        bathylux::color<&Extrude::color>("color", "Colour", "Of the body"),
        number<&Extrude::darken>("darken", "Darkens", Unit::ratio, {0, 1, 0, 1}, "How much, at the end")
            .as(Said::percent),
        number<&Extrude::rise>("rise", "Rise", Unit::px, {-60, 60},
                               "Height of the body where it meets the face; 0 at its end")
            .as(Said::up_down),
    };

    /// For s in 0…1 every point p of the silhouette goes to c + (1 + s (taper − 1)) (p − c) + s × length
    /// along the angle, c the middle of the element's box; the smallest s is seen, of colour × (1 − darken ×
    /// s) in linear light, rise × (1 − s) high. The face lies over it, and stands on it: its height is its
    /// own and rise. Found by marching from s = 0, in strides as long as the silhouette is far (Hart 1996).
    Bundle apply(const Bundle& nothing, const Context& context) const;
    float reach() const { return 0; }
    Region lands(Region below, const Context& context) const;
    std::string says() const;
};

} // namespace bathylux
