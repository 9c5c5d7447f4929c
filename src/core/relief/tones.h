#pragma once
#include <array>

#include "core/piece/step_kind.h"

namespace bathylux {

enum class Channel { luma, red, green, blue, alpha };
inline constexpr std::array<std::string_view, 5> channel_names{"luma", "red", "green", "blue", "alpha"};

/// Height from the tones of the art, as stored.
struct Tones {
    Channel channel = Channel::luma;
    float low = 0, high = 1;
    float rise = 8;

    static constexpr std::string_view id = "tones", name = "Tones", group = "give depth",
                                      help = "Reads the picture's tones as height";
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        choice<&Tones::channel, channel_names>("channel", "Channel", "Which of the picture's values is read"),
        number<&Tones::low>("low", "From tone", Unit::ratio, {0, 1}, "The tone that gives no height"),
        number<&Tones::high>("high", "To tone", Unit::ratio, {0, 1}, "The tone that gives the full rise"),
        number<&Tones::rise>("rise", "Rise", Unit::px, {-60, 60}, "Height of the upper tone; negative sinks"),
    };

    /// rise × (tone − low) ÷ (high − low), held at both ends for integer sources; adds to the height.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const;
};

/// How often each of `bins` equal stretches of 0…1 occurs in the picture's channel, for the tone window.
std::vector<int> tone_histogram(const Picture& picture, Channel channel, int bins);
/// The stretch of tones that holds all but a thousandth of the picture's pixels at either end.
std::pair<float, float> tone_range(const Picture& picture, Channel channel);

} // namespace bathylux
