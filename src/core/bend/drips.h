#pragma once
#include <array>

#include "core/shape/offset.h"
#include "core/step/step_kind.h"

namespace bathylux {

/// Drips run from an edge: thin in the middle, a bead at the end.
struct Drips {
    float count = 9, length = 120, width = 18, bead = 24, vary = 0.6f, seed = 1, angle = 270;

    static constexpr std::string_view id = "drips", name = "Drips", group = "bend",
                                      help = "Drips that run from the edge, a bead at their end";
    static constexpr bool spreads = true, whole_without_outline = true;
    static constexpr std::array parameters{
        whole<&Drips::count>("count", "Count", {0, 60, 0, 2000}, "How many, over the whole element"),
        number<&Drips::length>("length", "Length", Unit::px, {0, 400, 0, 4000}, "Of the longest"),
        number<&Drips::width>("width", "Width", Unit::px, {1, 80, 0, 1000}, "Where they leave the edge"),
        number<&Drips::bead>("bead", "Bead", Unit::px, {0, 100, 0, 1000}, "Diameter of the drop at the end"),
        number<&Drips::vary>("vary", "Vary", Unit::ratio, {0, 1, 0, 1},
                             "How much shorter and thinner some are")
            .as(Said::percent),
        whole<&Drips::seed>("seed", "Seed", {0, 99, 0, 1000000}, "Another number, other drips"),
        number<&Drips::angle>("angle", "Run towards", Unit::degrees, {0, 360}, "270: down"),
    };

    /// They leave the edge where it faces `angle`, spread evenly along it with some chance, and are one
    /// outline with the element: what moulds its edge moulds them too.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 4 * (length + bead) + 2 * width + 4; } // colour goes on so far
    std::string says() const;
};

/// The drips that run from contours, px; `length`: px per px of the parameters.
Contours drips_from(const Drips& drips, const Contours& shape, double length);

} // namespace bathylux
