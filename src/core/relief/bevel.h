#pragma once
#include <array>

#include "core/piece/step_kind.h"

namespace bathylux {

/// Moulded edge, measured inwards from the outline by exact distance.
struct Bevel {
    float width = 24;
    float rise = 8;
    Profile profile = Profile::Shape::round;

    static constexpr std::string_view id = "bevel", name = "Bevel", group = "give depth",
                                      help = "Moulds the edge: rises inwards from the outline";
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        number<&Bevel::width>("width", "Width", Unit::px, {0, 120, 0}, "How far the edge reaches in"),
        number<&Bevel::rise>("rise", "Rise", Unit::px, {-60, 60},
                             "Height gained from foot to top; negative sinks"),
        bathylux::profile<&Bevel::profile>("profile", "Profile", "Cross-section of the edge"),
    };

    /// 0 at the outline, `rise` from `width` px inwards, by the profile in between; adds to the height.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return width + 1; }
    std::string says() const;
};

} // namespace bathylux
