#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Fine noise over the picture.
struct Grain {
    float strength = 0.06f, size = 1.5f, seed = 1;

    static constexpr std::string_view id = "grain", name = "Grain", group = "finish",
                                      help = "Lays fine noise over the picture";
    static constexpr Channels reads = channel::color, gives = channel::color;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        number<&Grain::strength>("strength", "Strength", Unit::ratio, {0, 0.3, 0, 10}, "How strong it is")
            .as(Said::percent),
        number<&Grain::size>("size", "Size", Unit::px, {0.5, 8, 0.25, 1000}, "How large its cells are"),
        whole<&Grain::seed>("seed", "Seed", {0, 9999, 0, 1000000}, "Another number, another grain"),
    };

    /// Encoded + strength × n on all channels alike, n of mean 0 and deviation ½: a sum of three even chances
    /// a cell, between cells mixed with weights whose squares add up to 1, so that it is as strong
    /// everywhere.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const { return said(100 * strength) + " %, " + said(size) + " px"; }
};

} // namespace bathylux
