#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Cuts the height into level terraces, from its lowest to its highest place.
struct Terrace {
    float steps = 6, slope = 0;

    static constexpr std::string_view id = "terrace", name = "Terraces", group = "shape depth",
                                      help = "Cuts the height into level steps";
    static constexpr Channels reads = channel::height, gives = channel::height;
    static constexpr bool needs_range = true;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        whole<&Terrace::steps>("steps", "Steps", {2, 24, 2, 1000}, "Number of levels"),
        number<&Terrace::slope>("slope", "Slope", Unit::ratio, {0, 1, 0, 1},
                                "Share of every step that still rises"),
    };

    /// With t = (h − lowest) ÷ (highest − lowest): level k of ⌊t steps⌋, at lowest + k ÷ (steps − 1) of the
    /// range; the last `slope` of every step rises straight to the next. Lowest and highest are those of the
    /// whole canvas.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const { return said(steps) + " levels"; }
};

/// Stretches the height so that the whole runs from one height to another.
struct TotalRise {
    float low = 0, high = 12;

    static constexpr std::string_view id = "total_rise", name = "Total rise", group = "shape depth",
                                      help = "Stretches the height to run from one level to another";
    static constexpr Channels reads = channel::height, gives = channel::height;
    static constexpr bool needs_range = true;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        number<&TotalRise::low>("low", "Lowest", Unit::px, {-60, 60}, "Height of the lowest place"),
        number<&TotalRise::high>("high", "Highest", Unit::px, {-60, 60}, "Height of the highest place"),
    };

    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const { return said(low) + " to " + said(high) + " px"; }
};

} // namespace bathylux
