#pragma once
#include <array>
#include <limits>

#include "core/step/step_kind.h"

namespace bathylux {

/// Draws the height at opposite edges of the canvas together, so that it tiles.
struct MeetEdges {
    float width = 64;

    static constexpr std::string_view id = "meet_edges", name = "Edges meet", group = "shape depth",
                                      help = "Draws opposite edges of the canvas together, so that it tiles";
    static constexpr Channels reads = channel::height, gives = channel::height;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        number<&MeetEdges::width>("width", "Within", Unit::px, {4, 400, 1, 8192},
                                  "How far in from the edges it may change"),
    };

    /// Half the leap across the join is taken from either side, fading out smoothly over `width`; first
    /// across, then down. What lies further in stays as it is.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return std::numeric_limits<float>::infinity(); }
    std::string says() const { return "within " + said(width) + " px"; }
};

} // namespace bathylux
