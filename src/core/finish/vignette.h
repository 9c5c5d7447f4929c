#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Darkens towards the corners.
struct Vignette {
    float strength = 0.4f, radius = 0.8f, softness = 0.8f;

    static constexpr std::string_view id = "vignette", name = "Vignette", group = "finish",
                                      help = "Darkens the picture towards its corners";
    static constexpr Channels reads = channel::color, gives = channel::color;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        number<&Vignette::strength>("strength", "Strength", Unit::ratio, {0, 1, -10, 1},
                                    "How much darker the corners become; below nothing, brighter")
            .as(Said::percent),
        number<&Vignette::radius>("radius", "Radius", Unit::ratio, {0, 1.5, 0, 100},
                                  "Where it is half there; 100 % is the corners")
            .as(Said::percent),
        number<&Vignette::softness>("softness", "Softness", Unit::ratio, {0, 2, 0, 100},
                                    "How wide the passage is, in the same measure")
            .as(Said::percent),
    };

    /// × 1 − strength × smoothstep(radius − softness ÷ 2, radius + softness ÷ 2, d), d the distance from the
    /// canvas's middle in half diagonals.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const;
};

} // namespace bathylux
