#pragma once
#include <array>

#include "core/field/gaussian.h"
#include "core/step/step_kind.h"

namespace bathylux {

/// Light that spreads out of the highlights.
struct Gleam {
    float above = 0.8f, radius = 24, strength = 0.6f;
    Color tint = rgb(255, 255, 255);
    float angle = 0, length = 0;

    static constexpr std::string_view id = "gleam", name = "Gleam", group = "finish",
                                      help = "Light spreads out of the highlights, round or along a line";
    static constexpr Channels reads = channel::color, gives = channel::color;
    static constexpr bool spreads = true;
    static constexpr std::array parameters{
        number<&Gleam::above>("above", "Over", Unit::ratio, {0, 2, 0, 1000},
                              "The brightness over which light spreads, linear; 100 % is paper in full light")
            .as(Said::percent),
        number<&Gleam::radius>("radius", "Radius", Unit::px, {0, 200, 0, 4000},
                               "How far it spreads all round"),
        number<&Gleam::strength>("strength", "Strength", Unit::ratio, {0, 3, 0, 1000},
                                 "How much of it is added")
            .as(Said::percent),
        bathylux::color<&Gleam::tint>("tint", "Tint", "The colour of what is added"),
        number<&Gleam::length>("length", "Along a line", Unit::px, {0, 600, 0, 8000},
                               "Spreads along a line of this length instead; 0: all round"),
        number<&Gleam::angle>("angle", "Line's turn", Unit::degrees, {-180, 180},
                              "How the line lies, counter-clockwise from the right")
            .only_when("length", ">0"),
    };

    /// c + strength × tint × spread(b), b = c × max(0, L − above) ÷ L with L the luminance (Rec. 709,
    /// linear); spread a Gaussian of σ = radius, or where length > 0 the mean along `angle` over that length.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return length > 0 ? length / 2 + 2 : gaussian_reach_at_any_scale(radius); }
    std::string says() const;
};

} // namespace bathylux
