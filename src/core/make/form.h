#pragma once
#include "core/field/geometry.h"
#include "core/piece/sources.h"

namespace bathylux {

/// Height of a form at a place in its own px, about its centre; 0 outside.
///
/// With ρ² = (2x ÷ width)² + (2y ÷ height)²: dome rise √(1 − ρ²), cone rise (1 − ρ), dish rise ρ², a coin's
/// rim a half-round bead along the edge; ramp rises from left to right, ridge from both long sides to the
/// middle line.
float form_height(const FormSource& form, Vec2 at);
/// Whether its outline is an ellipse (otherwise a rectangle).
bool is_round(FormShape shape);

} // namespace bathylux
