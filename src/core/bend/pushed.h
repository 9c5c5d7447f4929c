#pragma once
#include <array>

#include "core/field/edge_names.h"
#include "core/step/step_kind.h"

namespace bathylux {

/// What the hand pushed: the strokes lie where the element lies, and stay when it changes.
struct Pushed {
    std::string file;
    float density = 1;
    Edge edge = Edge::none;

    static constexpr std::string_view id = "pushed", name = "Pushed", group = "bend",
                                      help = "What the push brushes did to this element";
    static constexpr bool by_hand = true, drifts = true;
    static constexpr bool spreads = false, looks = true, drops_outline = true;
    static constexpr std::array parameters{
        bathylux::file<&Pushed::file>("file", "File",
                                      "Where the strokes are kept: red is px to the right, green px down")
            .ranked(Rank::hidden),
        number<&Pushed::density>("density", "Fineness", Unit::ratio, {0.25, 4, 0.001, 1000},
                                 "Painted px per px of the element")
            .ranked(Rank::hidden),
        choice<&Pushed::edge, edge_names>("edge", "Past its edge", "What lies past the element's box")
            .reads(edge_words),
    };

    /// out(p) = in(p − d(p)), d as painted, in px of the element's own.
    Looks looks_at(const Context& context) const;
    Bundle apply(const Bundle& nothing, const Context& context) const;
    float reach() const { return 0; }
    Region lands(Region below, const Context& context) const;
    std::string says() const { return file.empty() ? "nothing pushed yet" : "by hand"; }
};

} // namespace bathylux
