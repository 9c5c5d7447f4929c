#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Turns hues, and makes colours stronger, weaker, lighter or darker, evenly to the eye (OKLCh, Ottosson
/// 2020).
struct Hue {
    float turn = 0, saturation = 1, lightness = 0;

    static constexpr std::string_view id = "hue", name = "Hue", group = "colour",
                                      help =
                                          "Turns the hue, strengthens or weakens colour, lightens or darkens";
    static constexpr Channels reads = channel::color, gives = channel::color | channel::tone;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        number<&Hue::turn>("turn", "Turn", Unit::degrees, {-180, 180}, "How far the hue is turned"),
        number<&Hue::saturation>("saturation", "Saturation", Unit::ratio, {0, 3, 0, 1000},
                                 "100 % leaves colours as strong as they are")
            .as(Said::percent),
        number<&Hue::lightness>("lightness", "Lightness", Unit::ratio, {-1, 1, -1, 1},
                                "Added to the lightness")
            .as(Said::percent),
    };

    /// Hue + turn, chroma × saturation, lightness + lightness, held in 0…1. Colours that then lie outside
    /// what can be shown keep hue and lightness and lose chroma.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const;
};

} // namespace bathylux
