#pragma once
#include <array>

#include "core/field/edge_names.h"
#include "core/step/step_kind.h"

namespace bathylux {

/// Bends by another element: a bright place moves what lies there one way, a dark one the other; or by its
/// slopes, as a lens does.
struct Displace {
    std::optional<MapRef> by{};
    float across = 0, down = 24, soften = 0;
    Edge edge = Edge::none;

    static constexpr std::string_view id = "displace", name = "Displace", group = "bend",
                                      help = "Bends by the brightness or the slopes of another element";
    static constexpr bool spreads = false, looks = true, takes_pairs = true, drops_outline = true;
    static constexpr std::array parameters{
        map<&Displace::by>("by", "By", "What it goes by: white moves one way, black the other"),
        number<&Displace::across>("across", "Across", Unit::px, {-200, 200, -10000, 10000},
                                  "How far white moves to the right, and black to the left"),
        number<&Displace::down>("down", "Down", Unit::px, {-200, 200, -10000, 10000},
                                "How far white moves down, and black up"),
        number<&Displace::soften>("soften", "Soften", Unit::px, {0, 60, 0, 1000}, "Smooths what it goes by"),
        choice<&Displace::edge, edge_names>("edge", "Past its edge", "What lies past the element's box")
            .reads(edge_words),
    };

    /// out(p) = in(p − d(p)), d = (across, down) × (2 m − 1), m read from `by`, one number for both or two
    /// (MapOf::red_green), softened by a Gaussian of σ = soften; ½ where `by` covers nothing. By
    /// MapOf::slopes: out(p) = in(p + (across × ∂h/∂x, down × ∂h/∂y)).
    Looks looks_at(const Context& context) const;
    Bundle apply(const Bundle& nothing, const Context& context) const;
    float reach() const { return 0; }
    Region lands(Region below, const Context& context) const;
    std::string says() const;
};

} // namespace bathylux
