#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Smooths what is level or gentle and keeps what is steep (guided filter, He, Sun & Tang 2010, guided by
/// itself, with Gaussian windows, so that no direction is preferred).
struct KeepEdges {
    float radius = 4, edge = 2;

    static constexpr std::string_view id = "smooth", name = "Smooth, edges kept", group = "shape depth",
                                      help = "Smooths gentle ground and keeps steep edges";
    static constexpr Channels reads = channel::height, gives = channel::height;
    static constexpr bool spreads = true;
    static constexpr std::array parameters{
        number<&KeepEdges::radius>("radius", "Radius", Unit::px, {0, 40, 0, 4000},
                                   "Standard deviation of the window"),
        number<&KeepEdges::edge>("edge", "Edge from", Unit::px, {0.1, 20, 0, 10000},
                                 "Differences of height well above this are kept"),
    };

    /// With the window's mean m and variance v: a = v ÷ (v + edge²), then mean(a) h + mean((1 − a) m).
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const;
    std::string says() const { return said(radius) + " px, edges from " + said(edge) + " px"; }
};

} // namespace bathylux
