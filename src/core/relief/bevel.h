#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

enum class BevelSide { inside, both };
inline constexpr std::array<std::string_view, 2> bevel_side_names{"inside", "both"};
enum class BevelCorner { free, sharp, round };
inline constexpr std::array<std::string_view, 3> bevel_corner_names{"free", "sharp", "round"};

/// Moulded edge, measured from the outline by exact distance.
struct Bevel {
    float width = 24;
    float rise = 8;
    Profile profile = Profile::Shape::round;
    BevelSide side = BevelSide::inside;
    BevelCorner corner = BevelCorner::free;
    float rounding = 12;

    static constexpr std::string_view id = "bevel", name = "Bevel", group = "give depth",
                                      help = "Moulds the edge: rises inwards from the outline";
    static constexpr Channels reads = channel::height, gives = channel::height;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        number<&Bevel::width>("width", "Width", Unit::px, {0, 120, 0}, "How far the edge reaches in"),
        number<&Bevel::rise>("rise", "Rise", Unit::px, {-60, 60},
                             "Height gained from foot to top; negative sinks")
            .as(Said::up_down),
        bathylux::profile<&Bevel::profile>("profile", "Profile", "Cross-section of the edge")
            .ranked(Rank::first),
        choice<&Bevel::side, bevel_side_names>("side", "Lies",
                                               "Within the outline, or as far outside it as in"),
        choice<&Bevel::corner, bevel_corner_names>(
            "corner", "Corners",
            "free: as the distance has it; sharp: mitred where the outline "
            "goes in, too; round: ridges and corners rounded"),
        number<&Bevel::rounding>("rounding", "Rounding", Unit::px, {0, 60, 0, 4000},
                                 "Of round corners and ridges")
            .only_when("corner", "round"),
    };

    /// 0 at the outline, `rise` from `width` px inwards, by the profile in between; adds to the height. With
    /// both sides the edge begins as far outside. Sharp corners: beside a corner that goes in, the farther of
    /// the distances to the lines of its two sides, so that contours are mitred. Round ones: the distance
    /// field under a dilation by a paraboloid (Boomgaard 1992), which leaves even slopes alone and rounds
    /// every ridge.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return width + (corner == BevelCorner::round ? rounding : 0) + 3; }
    float writes() const { return side == BevelSide::both ? width : 0; }
    std::string says() const;
};

} // namespace bathylux
