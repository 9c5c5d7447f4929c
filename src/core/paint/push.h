#pragma once
#include "core/paint/brush.h"

namespace bathylux {

/// A press of a brush that pushes, swells, thins, turns, smooths out or settles a drift: a painting that
/// keeps how far things were moved to the right (as its height) and down (as what it hides), in px of the
/// element. What is seen at p lies at φ(p) = p − d(p). A press with the small shift δ gives d'(p) = δ(p) +
/// d(p − δ(p)), φ after δ, so that it takes along what was pushed before. `by`: how the hand went since the
/// last press, painting px; push alone goes by it. Returns the px it may have changed.
///
/// No press folds: where one would, the determinant of the Jacobian of φ (at the corners of every cell of the
/// bilinear map) stays above a twentieth, because the press is weakened until it does.
Region push_dab(Painting& painting, const Brush& brush, Vec2 at, float strength, Vec2 by);

/// The least determinant of that Jacobian over a region.
double least_jacobian(const Painting& painting, Region region);

} // namespace bathylux
