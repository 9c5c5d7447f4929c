#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Lifts the whole element, or sinks it.
struct Raise {
    float amount = 4;

    static constexpr std::string_view id = "raise", name = "Raise", group = "give depth",
                                      help = "Lifts the whole element; negative sinks it";
    static constexpr Channels reads = channel::height, gives = channel::height;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        number<&Raise::amount>("amount", "Amount", Unit::px, {-60, 60}, "Height added everywhere")
            .as(Said::up_down),
    };

    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const { return (amount < 0 ? "down " : "up ") + said(std::abs(amount)) + " px"; }
};

} // namespace bathylux
