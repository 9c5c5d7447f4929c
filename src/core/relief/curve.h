#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Sends the heights between two levels through a curve; what lies beyond them is held at the ends.
struct HeightCurve {
    float low = 0, high = 8;
    Profile profile = Profile::Shape::ogee;

    static constexpr std::string_view
        id = "curve",
        name = "Curve", group = "shape depth",
        help = "Sends heights through a curve, or just holds them between two levels";
    static constexpr Channels reads = channel::height, gives = channel::height;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        number<&HeightCurve::low>("low", "From height", Unit::px, {-60, 60},
                                  "Where the curve begins; lower heights are held here"),
        number<&HeightCurve::high>("high", "To height", Unit::px, {-60, 60},
                                   "Where the curve ends; higher heights are held here"),
        bathylux::profile<&HeightCurve::profile>("profile", "Curve",
                                                 "Height in across, height out up; chamfer is straight")
            .ranked(Rank::first),
    };

    /// low + (high − low) curve((h − low) ÷ (high − low)), the argument held in 0…1. Levels count from the
    /// element's own ground and grow with a group.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const { return said(low) + " to " + said(high) + " px"; }
};

} // namespace bathylux
