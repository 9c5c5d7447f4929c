#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Rounds the shape as heat does: points and notches go, the body stays.
struct Melt {
    float radius = 8;

    static constexpr std::string_view id = "melt", name = "Melt", group = "bend",
                                      help = "Rounds the shape as heat does";
    static constexpr bool spreads = true, drops_outline = true;
    static constexpr std::array parameters{
        number<&Melt::radius>("radius", "Radius", Unit::px, {0, 60, 0, 500},
                              "Half the side of what flows together"),
    };

    /// The median of coverage over a square of 2 radius + 1 px; colour, height and surface are carried from
    /// the nearest px that was covered.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 2 * radius + 2; }
    std::string says() const { return said(radius) + " px"; }
};

} // namespace bathylux
