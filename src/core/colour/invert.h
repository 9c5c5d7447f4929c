#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Bright becomes dark, and each colour its opposite.
struct Invert {
    static constexpr std::string_view id = "invert", name = "Invert", group = "colour",
                                      help = "Turns bright to dark, and colours to their opposites";
    static constexpr Channels reads = channel::color, gives = channel::color | channel::tone;
    static constexpr bool spreads = false;
    static constexpr std::array<Parameter, 0> parameters{};

    /// 1 − c, per channel.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
};

} // namespace bathylux
