#pragma once
#include <array>
#include <functional>

#include "core/field/plane.h"

namespace bathylux {

/// Unit normals (x right, y up, z towards the viewer) of a height field: n ∝ (−∂h/∂x, +∂h/∂y_down, 1), by
/// central differences. `height` is in canvas px and covers `have`; neighbours past its edge are what
/// `edge` says (`none` holds the nearest). `per_px`: samples per canvas px (the scale).
std::array<Plane, 3> normals(const Field& height, Region have, Region wanted, float per_px, Edge edge);

/// Takes the normals of a row at height y of the canvas, readable up to the next multiple of 16.
using TakeNormals = std::function<void(int y, const float* nx, const float* ny, const float* nz)>;
/// The same a row at a time, from several threads, in no order.
void normal_rows(const Field& height, Region have, Region wanted, float per_px, Edge edge,
                 const TakeNormals& take);

/// One row of the same. `row` and its neighbours may be read from −1 to width; outputs are written up to
/// the next multiple of 16.
void normals_row(const float* above, const float* row, const float* below, int width, float per_px, float* nx,
                 float* ny, float* nz);

} // namespace bathylux
