#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Fine, medium and broad detail of the height, weighed apart: differences of Gaussians, as in the pyramid
/// of Burt & Adelson (1983), but at full size. At weight 1 the bands add up to the height that came in.
struct Bands {
    float fine = 1, medium = 1, broad = 1;
    float fine_size = 3, medium_size = 20;

    static constexpr std::string_view id = "bands", name = "Bands", group = "shape depth",
                                      help = "Weighs fine, medium and broad detail apart";
    static constexpr Channels reads = channel::height, gives = channel::height;
    static constexpr bool spreads = true;
    static constexpr std::array parameters{
        number<&Bands::fine>("fine", "Fine", Unit::ratio, {0, 4}, "Weight of detail up to the fine size"),
        number<&Bands::medium>("medium", "Medium", Unit::ratio, {0, 4},
                               "Weight of detail between the two sizes"),
        number<&Bands::broad>("broad", "Broad", Unit::ratio, {0, 4}, "Weight of what is larger"),
        number<&Bands::fine_size>("fine_size", "Fine up to", Unit::px, {0.5, 30, 0.1, 2000},
                                  "Standard deviation that parts fine from medium"),
        number<&Bands::medium_size>("medium_size", "Medium up to", Unit::px, {2, 200, 0.1, 4000},
                                    "Standard deviation that parts medium from broad"),
    };

    /// fine (h − G₁h) + medium (G₁h − G₂h) + broad G₂h, within the element. Where the medium size is not
    /// above the fine one there is no medium band.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const;
    std::string says() const {
        return "fine " + said(fine) + ", medium " + said(medium) + ", broad " + said(broad);
    }
};

} // namespace bathylux
