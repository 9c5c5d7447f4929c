#pragma once
#include <array>
#include <optional>

#include "core/step/step_kind.h"

namespace bathylux {

enum class Channel { luma, red, green, blue, alpha };
inline constexpr std::array<std::string_view, 5> channel_names{"luma", "red", "green", "blue", "alpha"};
inline constexpr std::array<std::string_view, 5> channel_words{"brightness", "red", "green", "blue",
                                                               "coverage"};

/// Height from the tones of the art, as stored.
struct Tones {
    Channel channel = Channel::luma;
    float low = 0, high = 1;
    float gain = 1;
    float rise = 8;
    Profile curve = Profile::Shape::chamfer;

    static constexpr std::string_view id = "tones", name = "Tones", group = "give depth",
                                      help = "Reads the picture's tones as height";
    static constexpr Channels reads = channel::height | channel::tone, gives = channel::height;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        choice<&Tones::channel, channel_names>("channel", "Channel", "Which of the picture's values is read")
            .reads(channel_words),
        number<&Tones::low>("low", "From tone", Unit::ratio, {0, 1}, "The tone that gives no height"),
        number<&Tones::high>("high", "To tone", Unit::ratio, {0, 1}, "The tone that gives the full rise"),
        number<&Tones::gain>("gain", "Gain", Unit::ratio, {0, 6, 0, 1000},
                             "Contrast about the middle of the window; past 1 both ends are cut"),
        number<&Tones::rise>("rise", "Rise", Unit::px, {-60, 60}, "Height of the upper tone; negative sinks")
            .as(Said::up_down),
        bathylux::profile<&Tones::curve>("curve", "Curve",
                                         "Tone in across, height out up; chamfer is straight")
            .ranked(Rank::first),
    };

    /// rise × curve(½ + gain (t − ½)), t = (tone − low) ÷ (high − low). The curve's argument is held in 0…1,
    /// but for a float source with a straight curve, which goes on past both ends. Adds to the height.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const;
};

/// A channel over the bundle's region: the raw tone or stored samples where the source still has them,
/// otherwise the sRGB-encoded straight colour.
Plane tone_plane(const Bundle& bundle, Channel channel);

/// A px's tone as it is stored; nothing where it is not seen, or is no number.
std::optional<float> stored_tone(const Picture& picture, int x, int y, Channel channel);
/// Which of `bins` equal stretches of 0…1 a tone lies in.
int tone_bin(float tone, int bins);
/// How often each of `bins` equal stretches of 0…1 occurs in the picture's channel, for the tone window.
std::vector<int> tone_histogram(const Picture& picture, Channel channel, int bins);
/// The stretch of tones that holds all but a thousandth of the picture's pixels at either end.
std::pair<float, float> tone_range(const Picture& picture, Channel channel);

} // namespace bathylux
