#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Brings out detail of a size by adding its difference from the smoothed height.
struct Sharpen {
    float radius = 3;
    float strength = 1;

    static constexpr std::string_view id = "sharpen", name = "Sharpen", group = "shape depth",
                                      help = "Brings out detail of a size";
    static constexpr Channels reads = channel::height, gives = channel::height;
    static constexpr bool spreads = true;
    static constexpr std::array parameters{
        number<&Sharpen::radius>("radius", "Radius", Unit::px, {0.5, 40, 0, 4000},
                                 "Standard deviation of what counts as smooth"),
        number<&Sharpen::strength>("strength", "Strength", Unit::ratio, {0, 4, -1, 1000},
                                   "0 changes nothing; −1 softens"),
    };

    /// h + strength (h − Gh), within the element.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const;
    std::string says() const { return said(radius) + " px, " + said(strength) + "×"; }
};

} // namespace bathylux
