#pragma once
#include "core/make/source_kind.h"

namespace bathylux {

/// A layer painted by hand: height and ink, where one painted.
struct PaintSource {
    std::string file;
    float density = 1;
    std::string ink{};
    float rise = 1; // canvas px for each px of height that was painted

    static constexpr std::string_view id = "paint", name = "Painted layer",
                                      help = "Height and colour painted with the brushes";
    static constexpr bool fills = true, by_hand = true;
    static constexpr Channels gives = channel::height | channel::color;
    static constexpr std::array parameters{
        bathylux::file<&PaintSource::file>(
            "file", "File", "Where the strokes are kept: red is height in px, green what is hidden")
            .ranked(Rank::hidden),
        bathylux::file<&PaintSource::ink>("ink", "Ink", "Where the colour that was painted is kept")
            .ranked(Rank::hidden),
        number<&PaintSource::density>("density", "Fineness", Unit::ratio, {0.25, 4, 0.001, 1000},
                                      "Painted px per px of the canvas")
            .ranked(Rank::hidden),
        number<&PaintSource::rise>("rise", "Rise of a painted px", Unit::px, {-4, 4, -10000, 10000},
                                   "How high what was painted 1 px high is; negative sinks")
            .as(Said::up_down),
    };

    Bundle give(const SourceContext& context) const;
};

} // namespace bathylux
