#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Stretches the tones between two values over two others, and bends the middle.
struct ColorWindow {
    float low = 0, high = 1, gamma = 1, out_low = 0, out_high = 1;

    static constexpr std::string_view
        id = "tone_window",
        name = "Tone window", group = "colour",
        help = "Stretches the tones between two values over the whole range, or a part of it";
    static constexpr Channels reads = channel::color, gives = channel::color | channel::tone;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        number<&ColorWindow::low>("low", "From", Unit::ratio, {0, 1}, "The value that becomes darkest"),
        number<&ColorWindow::high>("high", "To", Unit::ratio, {0, 1}, "The value that becomes brightest"),
        number<&ColorWindow::gamma>("gamma", "Middle", Unit::none, {0.2, 5, 0.01, 100},
                                    "Above 1 brightens the middle, below 1 darkens it"),
        number<&ColorWindow::out_low>("out_low", "Darkest", Unit::ratio, {0, 1},
                                      "What the lower end becomes"),
        number<&ColorWindow::out_high>("out_high", "Brightest", Unit::ratio, {0, 1},
                                       "What the upper end becomes"),
    };

    /// out_low + (out_high − out_low) clamp((c − low) ÷ (high − low))^(1 ÷ gamma), per channel.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const;
};

} // namespace bathylux
