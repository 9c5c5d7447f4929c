#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Takes the stair-steps of an 8-bit map out of its height; true edges stay where they are.
struct Deterrace {
    float reach_px = 48;

    static constexpr std::string_view id = "deterrace", name = "Take out stair-steps", group = "shape depth",
                                      help = "Makes smooth ground of 8-bit steps; edges stay";
    static constexpr Channels reads = channel::height, gives = channel::height;
    static constexpr bool spreads = true;
    static constexpr std::array parameters{
        number<&Deterrace::reach_px>("reach", "Up to", Unit::px, {4, 200, 1, 2000},
                                     "Width of the widest step that is smoothed away"),
    };

    /// Between two rungs the height runs evenly, by the ways to the next rung up and down within the level;
    /// it never leaves the half level around what came in. Steeper neighbours than one rung are edges, not
    /// rungs. Finished by a small Gaussian within the same bounds. The rung is the gap most often found
    /// between heights that occur (see level_gap). Finer maps, whose heights are no ladder, pass untouched.
    Bundle apply(const Bundle& below, const Context& context) const;
    /// Its ladder is that of the whole canvas.
    float reach() const { return std::numeric_limits<float>::infinity(); }
    std::string says() const { return "steps up to " + said(reach_px) + " px wide"; }
};

/// The distance of levels when the heights of a plane are a ladder of at most 512 rungs; otherwise 0.
float level_gap(const Field& height, const Field& weight, Region region);

} // namespace bathylux
