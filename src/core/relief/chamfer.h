#pragma once

namespace bathylux {

/// Rows of a chamfer pass (Borgefors 1986), each readable from −2 to its width + 2 and, for whole vectors, up
/// to 16 beyond that. What lies outside the picture is infinitely high, so that no way leads there.
struct ChamferRows {
    const float *before2 = nullptr, *before = nullptr;  // ways known in the two rows gone through before
    const float *height2 = nullptr, *height1 = nullptr; // their heights
    const float* height = nullptr;                      // of the row at hand
    float* way = nullptr;                               // its ways, in and out
    int width = 0;
};

/// Lowers the ways of a row to what comes from the rows before it: 5, 7 or 11 fifths of a px further, between
/// places whose heights differ by less than `same`.
void chamfer_from_before(const ChamferRows& rows, float same);

/// Marks, in a row, places beside which (left, right, above or below) a level one rung up (sign 1) or down
/// (−1) begins within what is whole: half a px away, or `far`. `whole` is 1 where it is.
struct RungRows {
    const float *above = nullptr, *height = nullptr, *below = nullptr;
    const float *whole_above = nullptr, *whole = nullptr, *whole_below = nullptr;
    float* way = nullptr;
    int width = 0;
};
void mark_rungs(const RungRows& rows, float gap, float sign, float far);

} // namespace bathylux
