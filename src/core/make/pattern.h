#pragma once
#include "core/make/noise.h"
#include "core/make/source_kind.h"

namespace bathylux {

enum class Motif {
    scales,
    basket_weave,
    rivets,
    ring_mesh,
    hammered,
    knurl,
    planks,
    setts,
    tread_plate,
    corduroy,
    stipple,
    honeycomb,
    cross_hatch,
    brick
};
inline constexpr std::array<std::string_view, 14> motif_names{
    "scales", "basket_weave", "rivets",   "ring_mesh", "hammered",  "knurl",       "planks",
    "setts",  "tread_plate",  "corduroy", "stipple",   "honeycomb", "cross_hatch", "brick"};

/// A relief that repeats, over the whole canvas; a float source in 0…1.
struct PatternSource {
    Motif motif = Motif::scales;
    float size = 60, stretch = 1, gap = 0.1f, round = 0.5f, vary = 0.2f, seed = 1;
    bool tile = false;

    static constexpr std::string_view id = "pattern", name = "Pattern", help = "A relief that repeats";
    static constexpr bool fills = true, tonal = true;
    static constexpr Channels gives = channel::color | channel::tone;
    static constexpr std::array parameters{
        choice<&PatternSource::motif, motif_names>("motif", "Motif", "What repeats"),
        number<&PatternSource::size>("size", "Size", Unit::px, {8, 300, 1, 100000},
                                     "One piece of it, across"),
        number<&PatternSource::stretch>("stretch", "Stretch", Unit::ratio, {0.25, 4, 0.01, 100},
                                        "How much longer than wide")
            .ranked(Rank::folded),
        number<&PatternSource::gap>("gap", "Gap", Unit::ratio, {0, 0.5, 0, 0.9},
                                    "Between the pieces, in sizes")
            .ranked(Rank::folded),
        number<&PatternSource::round>("round", "Roundness", Unit::ratio, {0, 1, 0, 1}, "0 flat tops, 1 domed")
            .ranked(Rank::folded),
        number<&PatternSource::vary>("vary", "Variation", Unit::ratio, {0, 1, 0, 1},
                                     "How much the pieces differ from one another")
            .ranked(Rank::folded),
        whole<&PatternSource::seed>("seed", "Seed", {0, 99, 0, 1000000}, "Another number, other variations")
            .ranked(Rank::folded),
        toggle<&PatternSource::tile>("tile", "Tiles", "Rounds the size so that the canvas's edges meet")
            .ranked(Rank::folded),
    };

    Bundle give(const SourceContext& context) const;
    std::string says() const;
};

/// A relief that repeats, 0…1, as the motif's closed form says at every place. On a grid coarser than the
/// source it is averaged over the pixel, so that a preview looks like the whole.
Plane pattern(const PatternSource& source, const Grid& grid);

/// The relief at one place of the source, px (for brushes).
float pattern_at(const PatternSource& source, Vec2 at);

} // namespace bathylux
