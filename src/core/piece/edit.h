#pragma once
#include <string>
#include <vector>

#include "core/piece/piece.h"

namespace bathylux {

// What a person does to the tree of elements. Lists are back to front; ids name elements.

using Ids = std::vector<std::string>;

/// Puts an element in front of the one named `above` (in its list), or in front of all. Ids of it and its
/// children that are taken get new ones; what reads one another within follows. Returns its id.
std::string add_element(Piece& piece, Element element, std::string_view above = {});
/// The same for several, back to front, which may read one another. Returns their ids.
Ids add_elements(Piece& piece, std::vector<Element> elements, std::string_view above = {});
/// Adds a step behind the others, or behind the one at `after` (at_front: before all); where its id is
/// missing or taken it gets one. Returns its id.
inline constexpr int at_end = -1, at_front = -2;
std::string add_step(Element& element, Step step, int after = at_end);
/// Where such a step belongs unless told otherwise, for add_step: what reshapes an element goes before what
/// moulds it; the rest goes last.
int place_for(const Element& element, const StepKind& kind);
/// Copies of the named elements, each right in front of its original; copies that read one another read the
/// copies. Returns the copies' ids.
Ids duplicate(Piece& piece, const Ids& ids);
void remove(Piece& piece, const Ids& ids);
/// Moves elements, in their order, into a group's list ("" for the canvas) so that the first comes to stand
/// at `index` of what stays there. A group is never moved into itself, nor an element into a group that it
/// reads. False when nothing can move.
bool move(Piece& piece, const Ids& ids, std::string_view group, int index);
/// Gathers elements into a new group where the front-most of them was. Returns its id.
std::string group(Piece& piece, const Ids& ids);
/// Puts a group's elements in its place, where they were seen: placements are composed, lengths and heights
/// of their steps scaled with the group. Throws Error when the group is stretched so that they would shear,
/// when it moves as a whole, or is turned and something moves in it.
Ids ungroup(Piece& piece, std::string_view id);
/// The named elements without those that lie within another named one, in the order of the tree.
Ids outermost(const Piece& piece, const Ids& ids);

/// Cuts or widens the canvas so that `frame` (canvas px) becomes the whole; everything moves along, and so
/// does what has keys, at all of them.
void crop(Piece& piece, Region frame);
/// Scales the whole piece: canvas, placements, lengths, heights, lights; what has keys at all of them.
void resize(Piece& piece, double factor);

/// Lights, and how far ambient light looks, as if the canvas about `from` were laid about `to`, larger by a
/// factor. What goes with an element keeps its place about that.
void lay_lights(Lights& lights, Ambient& ambient, double factor, Vec2 from, Vec2 to);

/// Everything of an element larger by a factor, about its own centre: what it is, and what its steps do.
void scale_element(Element& element, double factor);

} // namespace bathylux
