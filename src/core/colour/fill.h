#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// One colour over the whole element, its shape kept.
struct Fill {
    Color color = rgb(217, 209, 191);
    float amount = 1;

    static constexpr std::string_view id = "fill", name = "Fill", group = "colour",
                                      help = "Gives the element one colour, keeping its shape";
    static constexpr Channels reads = channel::color, gives = channel::color | channel::tone;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        bathylux::color<&Fill::color>("color", "Colour", "The colour laid on"),
        number<&Fill::amount>("amount", "Amount", Unit::ratio, {0, 1, 0, 1},
                              "How much of the old colour it replaces"),
    };

    /// Mixes sRGB-encoded straight colours: colour = lerp(old, color, amount × the colour's own alpha).
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const {
        return to_string(color) + (amount < 1 ? ", " + said(100 * amount) + " %" : "");
    }
};

} // namespace bathylux
