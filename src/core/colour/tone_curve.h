#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

enum class CurveChannel { all, red, green, blue };
inline constexpr std::array<std::string_view, 4> curve_channel_names{"all", "red", "green", "blue"};

/// Sends tones through a curve, all alike or one channel.
struct ToneCurve {
    CurveChannel channel = CurveChannel::all;
    Points points{{0.0f, 0.0f}, {1.0f, 1.0f}};

    static constexpr std::string_view id = "tone_curve", name = "Tone curve", group = "colour",
                                      help = "Sends tones through a curve: all of them, or one colour's";
    static constexpr Channels reads = channel::color, gives = channel::color | channel::tone;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        choice<&ToneCurve::channel, curve_channel_names>("channel", "Channel", "Which values go through it"),
        curve<&ToneCurve::points>("points", "Curve", "Tone in across, tone out up"),
    };

    /// A monotone cubic through the points (MonotoneCurve), per channel.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const;
};

} // namespace bathylux
