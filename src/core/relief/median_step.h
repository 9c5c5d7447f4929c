#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// The median of the height around every place: takes out specks and rounds corners, keeps edges.
struct Median {
    float radius = 3;

    static constexpr std::string_view id = "median", name = "Median", group = "shape depth",
                                      help = "Takes out specks and melts corners; edges stay";
    static constexpr Channels reads = channel::height, gives = channel::height;
    static constexpr bool spreads = true;
    static constexpr std::array parameters{
        number<&Median::radius>("radius", "Radius", Unit::px, {0, 40, 0, 1000},
                                "Of a square of 2 radius + 1 px"),
    };

    /// Exact to 1/65535 of the range; within the element, beyond whose edge the height counts as 0.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return radius + 1; }
    std::string says() const { return said(radius) + " px"; }
};

} // namespace bathylux
