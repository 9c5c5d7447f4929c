#pragma once
#include <array>

namespace bathylux {

// The vector loops of seen_below(). Rows may be read and written up to the next multiple of 16.

/// A row of the element that is looked through.
struct PaneRow {
    const float *nx, *ny, *nz; // its normal
    const float *alpha, *ior, *height, *thickness;
};
/// Where each px of it looks, device px from itself, right and down; what its surface lets in, (1 − F) ÷
/// alpha; and the way through it in canvas px (may be null).
struct WaysRow {
    float *x, *y, *in, *way;
};
/// How far a row looks each way.
struct Ends {
    float x0 = 0, x1 = 0, y0 = 0, y1 = 0;
};
Ends refract_row(const PaneRow& pane, float per_px, int width, const WaysRow& to);

/// Places in a picture of four channels side by side: the float at which the px before begins, and how far
/// on from its centre, right and down.
struct Places {
    int* at;
    float *right, *down;
};
/// Where the picture lies on the canvas.
struct Held {
    int x0, y0, columns, rows, stride;
};
/// Places of a row that begins at (left, top) on the canvas and looks `x`, `y` px from there, held in the
/// picture; the same to the bit whatever part of the canvas that is.
void places_row(const float* x, const float* y, int left, int top, const Held& picture, int width,
                const Places& to);
/// Bilinear between four px; rows of the picture are `stride` floats apart. Behind its last column and row
/// there is one more of each.
void look_row(const float* picture, int stride, const Places& places, int width,
              const std::array<float*, 4>& out);

/// color × in × base, and where `way` is not null × attenuation^(way ÷ distance) where the distance is over
/// 0.
struct Tint {
    const float *in, *way, *distance;
    std::array<const float*, 3> base, attenuation;
};
void tint_row(const Tint& tint, int width, const std::array<float*, 3>& color);

} // namespace bathylux
