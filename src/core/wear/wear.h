#pragma once
#include <array>

#include "core/step/step_kind.h"

namespace bathylux {

enum class WearOf : std::uint8_t { print, relief, both };
inline constexpr std::array<std::string_view, 3> wear_of_names{"print", "relief", "both"};
inline constexpr std::array<std::string_view, 3> wear_of_words{"the print", "the relief", "both"};

/// Takes a share of the element away, as time would.
struct Wear {
    float gone = 0.35f;
    std::optional<MapRef> by{};
    float size = 60, seed = 1, contrast = 1, softness = 0.05f, edges = 0.3f, grooves = 0, depth = 4;
    WearOf of = WearOf::print;

    static constexpr std::string_view id = "wear", name = "Wear", group = "wear",
                                      help = "Takes away a share of the element, as time would";
    static constexpr bool spreads = false, looks = true, drops_outline = true;
    static constexpr Channels gives = channel::all;
    static constexpr std::array parameters{
        number<&Wear::gone>("gone", "Gone", Unit::ratio, {0, 1, 0, 1},
                            "Share of the element's area that is gone")
            .as(Said::percent)
            .ranked(Rank::first),
        choice<&Wear::of, wear_of_names>("of", "Takes", "What goes: colour and edge, height, or both")
            .reads(wear_of_words),
        map<&Wear::by>("by", "Grain", "Bright places go first; none: a noise of its own"),
        number<&Wear::size>("size", "Size", Unit::px, {4, 400, 0.5, 100000},
                            "Of the grain, and how far in edges count"),
        whole<&Wear::seed>("seed", "Seed", {0, 99, 0, 1000000}, "Another number, another grain"),
        number<&Wear::contrast>("contrast", "Contrast", Unit::none, {0, 8, 0, 1000},
                                "How much the grain is stretched before edges and grooves count"),
        number<&Wear::softness>("softness", "Softness", Unit::ratio, {0, 1, 0, 1},
                                "How wide the edge of what is gone is, in shares")
            .as(Said::percent),
        number<&Wear::edges>("edges", "Edges", Unit::none, {-1, 1, -100, 100},
                             "1: edges go first; -1: they go last"),
        number<&Wear::grooves>("grooves", "Grooves", Unit::none, {-1, 1, -100, 100},
                               "1: what lies deep is kept and ridges go first; -1: the other way"),
        number<&Wear::depth>("depth", "Depth", Unit::px, {0, 40, 0, 10000},
                             "How far the relief is lowered, never below what is under it")
            .only_when("of", "relief|both"),
    };

    /// A field g = c + edges × n + grooves × h is made: c the grain, stretched as contrast does; n nearness
    /// to the outline, 1 there and 0 from `size` inwards; h the height from its lowest to its highest place.
    /// What lies in the highest share `gone` of g, weighed by coverage, is gone; how far into it is counted
    /// in shares too, so that softness changes no share. Where g is level, the unstretched grain and a faint
    /// noise decide. `print` takes coverage; `relief` lowers the height by depth, what stands above 0 to 0 at
    /// most. Bundle::worn says what was taken.
    Channels needs() const { return grooves != 0 ? channel::height : Channels{}; }
    Bundle apply(const Bundle& nothing, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const;
};

/// Where, in ranks 0…1 of which the first go first, the middle of an edge of that softness lies so that
/// `gone` of all goes.
double wear_edge(double gone, double softness);

} // namespace bathylux
