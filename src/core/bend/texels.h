#pragma once
#include <functional>
#include <vector>

#include "core/field/plane.h"
#include "core/step/looks.h"

namespace bathylux {

/// Several planes side by side in groups of four, so that a px of a group is one load, with their halvings
/// (2 × 2 means). What lies past them is told by `edge`: for all but `none` the planes are the whole of what
/// is repeated or held.
struct Texels {
    struct Level {
        int width = 0, height = 0;
        std::vector<Plane> groups; // each 4 × width wide
    };
    Region region; // what level 0 covers, device px
    Edge edge = Edge::none;
    std::vector<Level> levels;
};

/// Packs fields that cover `have` over `region`, nothing beyond `have`; halved as often as `halvings` says.
Texels packed(const std::vector<const Field*>& fields, Region have, Region region, Edge edge, int halvings);

/// What has to be had so that all places looked at can be read.
struct Survey {
    int halvings = 0; // for packed()
    Region region;    // px of the plane, at most `most`
};
Survey surveyed(const Looks& looks, Region most);

/// What may go over a row of what is read, while that is at hand.
using ReadRow = std::function<void(std::vector<Plane>&, int y)>;

/// Reads texels at every place looked at. Where a px sees about one px, by a Catmull–Rom spline (1974), up to
/// two by a softer one of the same family (Mitchell & Netravali 1988), held between the least and the most of
/// the four nearest, so that nothing swings over; where it sees more, the mean of
/// what it sees under a tent along both axes of its footprint, from the halving at which that takes few
/// samples (Heckbert 1989; McCormack et al. 1999). Gives `planes` planes over looks.region, in the order they
/// were packed.
std::vector<Plane> read_at(const Texels& texels, const Looks& looks, int planes, const ReadRow& then = {});

} // namespace bathylux
