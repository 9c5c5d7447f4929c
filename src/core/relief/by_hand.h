#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// What was painted on an element: heights added, parts hidden. It lies where the element lies and moves with
/// it.
struct ByHand {
    std::string file;
    float density = 1;
    float rise = 1; // px of the element for each px of height that was painted

    static constexpr std::string_view id = "by_hand", name = "By hand", group = "shape depth",
                                      help = "What the brushes did to this element";
    static constexpr Channels reads = channel::height, gives = channel::all;
    static constexpr bool by_hand = true;
    static constexpr bool spreads = false, drops_outline = true;
    static constexpr std::array parameters{
        bathylux::file<&ByHand::file>("file", "File",
                                      "Where the strokes are kept: red is height in px, green what is hidden")
            .ranked(Rank::hidden),
        number<&ByHand::density>("density", "Fineness", Unit::ratio, {0.25, 4, 0.001, 1000},
                                 "Painted px per px of the element")
            .ranked(Rank::hidden),
        number<&ByHand::rise>("rise", "Rise of a painted px", Unit::px, {-4, 4, -10000, 10000},
                              "How high what was painted 1 px high is; negative sinks")
            .as(Said::up_down),
    };

    /// h + rise × painted; coverage and every weight × (1 − hidden).
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const { return file.empty() ? "nothing painted yet" : "painted"; }
};

} // namespace bathylux
