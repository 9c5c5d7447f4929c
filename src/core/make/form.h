#pragma once
#include "core/field/geometry.h"
#include "core/make/source_kind.h"

namespace bathylux {

enum class FormShape { dome, cone, ramp, ridge, dish, coin_rim };
inline constexpr std::array<std::string_view, 6> form_shape_names{"dome",  "cone", "ramp",
                                                                  "ridge", "dish", "coin_rim"};

/// A simple form with a height of its own.
struct FormSource {
    FormShape shape = FormShape::dome;
    float width = 400, height = 400, rise = 40, rim = 30;
    Color color = rgb(216, 208, 192);

    static constexpr std::string_view id = "form", name = "Form",
                                      help = "A dome, cone, ramp, ridge, dish or coin rim";
    static constexpr Channels gives = channel::color | channel::height;
    static constexpr std::array parameters{
        choice<&FormSource::shape, form_shape_names>("shape", "Shape", "Which form it is"),
        number<&FormSource::width>("width", "Width", Unit::px, {1, 2000, 0, 100000}, "Across")
            .ranked(Rank::folded),
        number<&FormSource::height>("height", "Height", Unit::px, {1, 2000, 0, 100000}, "Down the canvas")
            .ranked(Rank::folded),
        number<&FormSource::rise>("rise", "Rise", Unit::px, {-120, 120},
                                  "Of its highest place; negative sinks")
            .as(Said::up_down)
            .ranked(Rank::folded),
        number<&FormSource::rim>("rim", "Rim", Unit::px, {0, 200, 0, 50000}, "Width of a coin's rim")
            .only_when("shape", "coin_rim")
            .ranked(Rank::folded),
        bathylux::color<&FormSource::color>("color", "Colour", "Colour of the form").ranked(Rank::folded),
    };

    Box box() const { return box_about(width, height); }
    Bundle give(const SourceContext& context) const;
    std::string says() const;
};

/// Height of a form at a place in its own px, about its centre; 0 outside.
///
/// With ρ² = (2x ÷ width)² + (2y ÷ height)²: dome rise √(1 − ρ²), cone rise (1 − ρ), dish rise ρ², a coin's
/// rim a half-round bead along the edge; ramp rises from left to right, ridge from both long sides to the
/// middle line.
float form_height(const FormSource& form, Vec2 at);
/// Whether its outline is an ellipse (otherwise a rectangle).
bool is_round(FormShape shape);

} // namespace bathylux
