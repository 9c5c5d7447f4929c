#pragma once
#include "core/piece/edit.h"

namespace bathylux {

// What takes several elements and steps to set up, made at once out of ordinary parts that can be opened and
// changed. `box`: where an element lies, canvas px. Each returns the id of what one goes on with, and throws
// Error where there is no such element.

/// The element mirrored in a floor it stands on: a twin upside down, lit by itself, blurred and darker the
/// farther it lies, fading out.
std::string reflect_on_floor(Piece& piece, std::string_view element, const Box& box);
/// The same in moving water: the twin drawn out downwards, bent by ripples that lie in perspective, darker; a
/// dark line where the water begins.
std::string mirror_in_water(Piece& piece, std::string_view element, const Box& box);

struct Roughening {
    float rise = 4; // px that the noise adds at most; where multiplied, how much of the height it takes
    bool multiplied = false; // takes from the height in proportion, instead of adding
    float edges = 0;         // px from the edge that it works within; 0: all over
    float size = 24;
};
/// Noise of several octaves, an element of its own out of sight, added to the relief of an element by a step,
/// or taken from it in proportion.
std::string roughen(Piece& piece, std::string_view element, const Roughening& how);

// A shape's parts as elements of their own, which follow it.
std::string outline_of(Piece& piece, std::string_view element, float width);
std::string inner_edge_of(Piece& piece, std::string_view element, float width);
/// A soft dark band behind it, towards the lower right.
std::string shadow_band_of(Piece& piece, std::string_view element, float width);

} // namespace bathylux
