#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// More or less light of a colour.
struct Gain {
    float stops = 0;
    Color color = rgb(255, 255, 255);

    static constexpr std::string_view id = "gain", name = "Gain", group = "colour",
                                      help =
                                          "Multiplies the light: brighter, darker, or filtered by a colour";
    static constexpr Channels reads = channel::color, gives = channel::color | channel::tone;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        number<&Gain::stops>("stops", "Stops", Unit::stops, {-4, 4, -30, 30}, "One stop doubles the light"),
        bathylux::color<&Gain::color>("color", "Filter", "The colour the light is filtered by"),
    };

    /// Linear colour × 2^stops × color.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const;
};

} // namespace bathylux
