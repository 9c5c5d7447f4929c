#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Strengthens muted colours most and strong ones little.
struct Liven {
    float strength = 0.5f;

    static constexpr std::string_view id = "liven", name = "Liven", group = "colour",
                                      help = "Makes muted colours stronger, and strong ones hardly";
    static constexpr Channels reads = channel::color, gives = channel::color | channel::tone;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        number<&Liven::strength>("strength", "Strength", Unit::ratio, {-1, 2, -1, 100},
                                 "How much muted colours gain; below nothing they lose")
            .as(Said::percent),
    };

    /// OKLCh chroma C becomes C (1 + strength (1 − min(1, C ÷ 0.3))); hue and lightness stay.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const { return said(100 * strength) + " %"; }
};

} // namespace bathylux
