#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Spreads the tones about a middle, without an upper end: a soft plaster becomes black and white.
struct Contrast {
    float contrast = 1.5f, brightness = 0, pivot = 0.5f;

    static constexpr std::string_view id = "contrast", name = "Contrast", group = "colour",
                                      help = "Spreads tones apart about a middle, as far as one likes";
    static constexpr Channels reads = channel::color, gives = channel::color | channel::tone;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        number<&Contrast::contrast>("contrast", "Contrast", Unit::ratio, {0, 8, 0, 1000},
                                    "100 % changes nothing; there is no upper end")
            .as(Said::percent),
        number<&Contrast::brightness>("brightness", "Brightness", Unit::ratio, {-1, 1, -1000, 1000},
                                      "Added to all tones")
            .as(Said::percent),
        number<&Contrast::pivot>("pivot", "Middle", Unit::ratio, {0, 1}, "The tone that stays where it is"),
    };

    /// clamp((c − pivot) contrast + pivot + brightness), per channel.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const;
};

} // namespace bathylux
