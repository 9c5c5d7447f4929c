#pragma once
#include <array>

#include "core/field/edge_names.h"
#include "core/step/step_kind.h"

namespace bathylux {

/// The map of a plane onto another that keeps lines straight: p → (h0 x + h1 y + h2, h3 x + h4 y + h5) ÷
/// (h6 x + h7 y + 1).
struct Homography {
    std::array<double, 9> h{1, 0, 0, 0, 1, 0, 0, 0, 1};
    /// The map that takes four points, no three of them in a line, to four others (Heckbert 1989).
    static Homography between(const std::array<Vec2, 4>& from, const std::array<Vec2, 4>& to);
    /// The place, and the divisor: positive on this side of the horizon.
    std::pair<Vec2, double> operator()(Vec2 p) const {
        const double w = h[6] * p.x + h[7] * p.y + h[8], by = 1 / w;
        return {{(h[0] * p.x + h[1] * p.y + h[2]) * by, (h[3] * p.x + h[4] * p.y + h[5]) * by}, w};
    }
};

/// Moves the corners of the element's box; in between it is seen in perspective.
struct Perspective {
    float tl_x = 0, tl_y = 0, tr_x = 0, tr_y = 0, br_x = 0, br_y = 0, bl_x = 0, bl_y = 0;
    Edge edge = Edge::none;

    static constexpr std::string_view id = "perspective", name = "Perspective", group = "bend",
                                      help = "Moves the corners of the element's box, seen in perspective";
    static constexpr bool spreads = false, looks = true, drops_outline = true;
    static constexpr Range far{-400, 400, -20000, 20000};
    static constexpr std::array parameters{
        number<&Perspective::tl_x>("tl_x", "Top left across", Unit::px, far, "How far that corner moves"),
        number<&Perspective::tl_y>("tl_y", "Top left down", Unit::px, far, "How far that corner moves"),
        number<&Perspective::tr_x>("tr_x", "Top right across", Unit::px, far, "How far that corner moves"),
        number<&Perspective::tr_y>("tr_y", "Top right down", Unit::px, far, "How far that corner moves"),
        number<&Perspective::br_x>("br_x", "Bottom right across", Unit::px, far, "How far that corner moves"),
        number<&Perspective::br_y>("br_y", "Bottom right down", Unit::px, far, "How far that corner moves"),
        number<&Perspective::bl_x>("bl_x", "Bottom left across", Unit::px, far, "How far that corner moves"),
        number<&Perspective::bl_y>("bl_y", "Bottom left down", Unit::px, far, "How far that corner moves"),
        choice<&Perspective::edge, edge_names>("edge", "Past its edge", "What lies past the element's box")
            .reads(edge_words),
    };

    /// The corners of the box, top left first and round to the right, where they were and where they go;
    /// device px.
    std::array<Vec2, 4> corners(const Context& context, bool moved) const;
    /// Whether the moved corners still make a frame that can be seen from the front.
    bool stands(const Context& context) const;

    Looks looks_at(const Context& context) const;
    Bundle apply(const Bundle& nothing, const Context& context) const;
    float reach() const { return 0; }
    /// Throws Error where the corners fold.
    Region lands(Region below, const Context& context) const;
    std::string says() const;
};

} // namespace bathylux
