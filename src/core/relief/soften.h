#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Gaussian smoothing of the height, in the element and a little past its edge.
struct Soften {
    float radius = 2;

    static constexpr std::string_view id = "soften", name = "Soften", group = "shape depth",
                                      help = "Smooths the height evenly (Gaussian)";
    static constexpr Channels reads = channel::height, gives = channel::height;
    static constexpr bool spreads = true;
    static constexpr std::array parameters{
        number<&Soften::radius>("radius", "Radius", Unit::px, {0, 60, 0, 4000},
                                "Standard deviation of the smoothing"),
    };

    /// Height and weight are smoothed together (height weighted), as a premultiplied colour would be: the
    /// joined relief is the smoothed one, also across the element's edge.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const;
    std::string says() const { return said(radius) + " px"; }
};

} // namespace bathylux
