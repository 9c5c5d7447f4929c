#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

/// Cuts off the element's box.
struct Trim {
    float left = 0, top = 0, right = 0, bottom = 0;

    static constexpr std::string_view id = "trim", name = "Trim", group = "bend",
                                      help = "Cuts px off the sides of the element's box";
    static constexpr bool spreads = false, drops_outline = true;
    static constexpr Range most{0, 400, -20000, 20000};
    static constexpr std::array parameters{
        number<&Trim::left>("left", "Left", Unit::px, most, "Off its left side"),
        number<&Trim::top>("top", "Top", Unit::px, most, "Off its top"),
        number<&Trim::right>("right", "Right", Unit::px, most, "Off its right side"),
        number<&Trim::bottom>("bottom", "Bottom", Unit::px, most, "Off its bottom"),
    };

    /// Nothing of it lies outside the box that is left; sides are cut to parts of a px.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    Box boxed(const Context& context) const;
    std::string says() const;
};

/// The box that is left of a box of source px that lies by `to_device`; `length`: device px per px.
Box trimmed(const Trim& trim, const Box& box, const Affine& to_device, double length);

} // namespace bathylux
