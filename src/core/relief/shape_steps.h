#pragma once
#include <array>

#include "core/shape/offset.h"
#include "core/step/step_kind.h"

namespace bathylux {

inline constexpr std::array<std::string_view, 2> join_names{"miter", "round"};
inline constexpr std::array<std::string_view, 2> join_words{"sharp", "round"};

/// Moves the edge of the element in or out.
struct Inset {
    float amount = 12;
    Join join = Join::round;

    static constexpr std::string_view id = "inset", name = "Inset", group = "shape",
                                      help = "Moves the edge inwards, or outwards where negative";
    static constexpr bool spreads = true, whole_without_outline = true;
    static constexpr std::array parameters{
        number<&Inset::amount>("amount", "In by", Unit::px, {-60, 60, -4000, 4000},
                               "Negative moves the edge outwards"),
        choice<&Inset::join, join_names>("join", "Corners", "Mitred corners stay sharp, round ones do not")
            .reads(join_words),
    };

    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return amount < 0 ? -4 * amount + 2 : 2; }
    std::string says() const {
        return (amount < 0 ? "out " : "in ") + said(std::abs(amount)) + " px, " +
               (join == Join::miter ? "sharp" : "round");
    }
};

enum class BorderSide { inside, both, outside };
inline constexpr std::array<std::string_view, 3> border_side_names{"inside", "both", "outside"};

/// Leaves only a band along the edge.
struct Border {
    float width = 12;
    BorderSide side = BorderSide::inside;
    Join join = Join::round;

    static constexpr std::string_view id = "border", name = "Border", group = "shape",
                                      help = "Leaves only a band along the edge";
    static constexpr bool spreads = true, whole_without_outline = true;
    static constexpr std::array parameters{
        number<&Border::width>("width", "Width", Unit::px, {0, 80, 0, 4000}, "Of the band"),
        choice<&Border::side, border_side_names>("side", "Lies", "Within the edge, astride it or outside"),
        choice<&Border::join, join_names>("join", "Corners", "Mitred corners stay sharp, round ones do not")
            .reads(join_words),
    };

    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return side == BorderSide::inside ? 2 : 4 * width + 2; }
    std::string says() const {
        return said(width) + " px " + std::string(border_side_names[static_cast<std::size_t>(side)]);
    }
};

/// Rounds the corners of the element's edge.
struct RoundCorners {
    float radius = 16, inner = 0;

    static constexpr std::string_view id = "round_corners", name = "Round corners", group = "shape",
                                      help = "Rounds the corners of the edge";
    static constexpr bool spreads = true, whole_without_outline = true;
    static constexpr std::array parameters{
        number<&RoundCorners::radius>("radius", "Outer corners", Unit::px, {0, 80, 0, 4000},
                                      "Radius of corners that stick out"),
        number<&RoundCorners::inner>("inner", "Inner corners", Unit::px, {0, 80, 0, 4000},
                                     "Radius of corners that go in"),
    };

    /// Opening by a disc, then closing by another (Matheron 1975): exact arcs where edges meet.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 4 * inner + 2; }
    std::string says() const {
        return said(radius) + " px" + (inner > 0 ? ", inner " + said(inner) + " px" : "");
    }
};

} // namespace bathylux
