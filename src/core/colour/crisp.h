#pragma once
#include <array>

#include "core/field/gaussian.h"
#include "core/step/step_kind.h"

namespace bathylux {

/// Brings out what differs from its surroundings.
struct Crisp {
    float radius = 2, strength = 1, threshold = 0;

    static constexpr std::string_view id = "crisp", name = "Crisp", group = "colour",
                                      help = "Strengthens what differs from its surroundings";
    static constexpr Channels reads = channel::color, gives = channel::color | channel::tone;
    static constexpr bool spreads = true;
    static constexpr std::array parameters{
        number<&Crisp::radius>("radius", "Radius", Unit::px, {0.5, 60, 0, 500},
                               "How wide the surroundings are"),
        number<&Crisp::strength>("strength", "Strength", Unit::ratio, {0, 4, -100, 100},
                                 "How much differences grow; below nothing they shrink")
            .as(Said::percent),
        number<&Crisp::threshold>("threshold", "Leaves alone", Unit::ratio, {0, 0.2, 0, 1},
                                  "Differences no greater than this stay as they are: grain, for one"),
    };

    /// c + strength (c − Gaussian(c, σ = radius)) where that difference exceeds the threshold, per channel;
    /// at the element's edge the surroundings are what of it there is.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return gaussian_reach_at_any_scale(radius); }
    std::string says() const { return said(100 * strength) + " % within " + said(radius) + " px"; }
};

} // namespace bathylux
