#pragma once
#include <array>

#include "core/field/gaussian.h"
#include "core/step/step_kind.h"

namespace bathylux {

/// Blurs colour and shape: evenly, along a line, or more and more in one direction.
struct Blur {
    float radius = 6, angle = 0, length = 0, radius_to = -1, along = 270;

    static constexpr std::string_view id = "blur", name = "Blur", group = "colour",
                                      help = "Blurs colour and edge, evenly, along a line or growing";
    static constexpr Channels reads = channel::color,
                              gives = channel::color | channel::tone | channel::coverage;
    static constexpr bool spreads = true, drops_outline = true;
    static constexpr std::array parameters{
        number<&Blur::radius>("radius", "Radius", Unit::px, {0, 60, 0, 2000},
                              "Standard deviation of the blur"),
        number<&Blur::length>("length", "Along a line", Unit::px, {0, 300, 0, 4000},
                              "How long the line is along which it smears; 0: none"),
        number<&Blur::angle>("angle", "Line's turn", Unit::degrees, {-180, 180},
                             "How the line lies, counter-clockwise from the right")
            .only_when("length", ">0"),
        number<&Blur::radius_to>("radius_to", "Grows to", Unit::px, {-1, 60, -1, 2000},
                                 "The radius at the far end of the element; -1: it does not grow"),
        number<&Blur::along>("along", "Grows towards", Unit::degrees, {-180, 180},
                             "Where it grows to, counter-clockwise from the right")
            .only_when("radius_to", ">=0"),
    };

    /// Premultiplied linear colour and coverage: a Gaussian of σ = radius; where length > 0 besides a mean
    /// along `angle` over that length, centred; where radius_to ≥ 0, σ goes from radius to radius_to across
    /// the element's box along `along` (as a linear gradient does), read out of a row of even blurs (Williams
    /// 1983: levels, interpolated in σ²).
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return gaussian_reach_at_any_scale(std::max(radius, radius_to)) + length / 2 + 1; }
    std::string says() const;
};

} // namespace bathylux
