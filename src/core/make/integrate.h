#pragma once

#include "core/field/plane.h"
#include "core/step/picture.h"

namespace bathylux {

/// Slopes of a height field at pixel centres, height px per px: ∂h/∂x and ∂h/∂y, y down.
struct Slopes {
    Plane x, y;
};

/// The height whose central differences come nearest to the slopes (least squares), with mean 0.
///
/// Poisson's equation (Frankot & Chellappa 1988; Simchony, Chellappa & Shao 1990): rows by cosine transform
/// where the edges are free, by Fourier transform where they repeat (`periodic`); columns tridiagonal, in
/// double. The slope between two pixels is interpolated from six, by weights that undo what central
/// differences lose.
Plane integrated(const Slopes& slopes, bool periodic);

/// Slopes of a normal map: x right, y up where `green_up`. Where a vector is missing (fully transparent, or
/// zero) the ground is level; vectors that lean past 87° are held there.
Slopes slopes_of_normals(const Picture& map, bool green_up, float strength = 1);

} // namespace bathylux
