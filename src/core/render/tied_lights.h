#pragma once
#include <vector>

#include "core/field/geometry.h"
#include "core/piece/piece.h"

namespace bathylux {

// A light may go with an element: its places are then px about the element's centre, before the element's own
// scale and turn, and its angles are turned with it. Heights above the art stay as they are.

/// A light's own coordinates → canvas px; identity where it is tied to nothing (or to nothing there is).
Affine frame_of(const Piece& piece, const Light& light);

/// The light as it lies on the canvas.
Light on_canvas(const Piece& piece, const Light& light);
/// All of them.
std::vector<Light> lights_on_canvas(const Piece& piece);
/// Gives a light what `what`, told on the canvas, comes to in its own coordinates. Where the element is
/// scaled to nothing, nothing happens.
void put_on_canvas(const Piece& piece, Light& light, const Described& what);
/// Ties a light to an element, or with "" to the canvas; it stays where it is.
void tie_to(const Piece& piece, Light& light, const std::string& element);

/// Lets go, where they are, of all lights that go with one of these elements or what they hold: before those
/// are removed.
void let_go_of(Piece& piece, const std::vector<std::string>& elements);

} // namespace bathylux
