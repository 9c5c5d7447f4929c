// What a px sees of what it looks at (see vector_math-inl.h for how such files are read).
#if defined(BATHYLUX_BEND_FOOTPRINT_INL_H_) == defined(HWY_TARGET_TOGGLE)
#ifdef BATHYLUX_BEND_FOOTPRINT_INL_H_
#undef BATHYLUX_BEND_FOOTPRINT_INL_H_
#else
#define BATHYLUX_BEND_FOOTPRINT_INL_H_
#endif
#include <algorithm>
#include <array>

#include "core/field/vector_math-inl.h"
#include "core/step/looks.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {
namespace {

// Up to so much of what lies along an axis is seen by one sample of four px a side, which grows softer.
constexpr float by_one = 1.9f;
// Of more, so many samples a px of its length, and so many at most while there is a halving.
constexpr float per_px = 1.5f;
constexpr int most_samples = 64;
// What sees so much, squared, along either axis is read from a halving, if there is one (see Samples).
constexpr float reads_halvings = 16;

/// What a px sees: how the place looked at moves along a row, and down a column. Of the two differences on
/// either side the smaller, so that nothing is smeared across a tear.
struct Footprint {
    V ax, ay, bx, by;
};
/// Places looked at from a row of px, from the rows above and below it.
struct LooksRow {
    const float *x, *y, *above_x, *above_y, *below_x, *below_y;
};
LooksRow row_of(const Looks& looks, int x, int y) {
    return {looks.x.row(y + 1) + 1 + x, looks.y.row(y + 1) + 1 + x, looks.x.row(y) + 1 + x,
            looks.y.row(y) + 1 + x,     looks.x.row(y + 2) + 1 + x, looks.y.row(y + 2) + 1 + x};
}
HWY_INLINE V Square(D d, V x, V y) { return Fused(d, x, x, hn::Mul(y, y)); }
HWY_INLINE Footprint FootprintAt(D d, const LooksRow& l, int x) {
    const auto px = hn::LoadU(d, l.x + x), py = hn::LoadU(d, l.y + x);
    const auto a0 = hn::Sub(hn::LoadU(d, l.x + x + 1), px), a1 = hn::Sub(hn::LoadU(d, l.y + x + 1), py),
               b0 = hn::Sub(px, hn::LoadU(d, l.x + x - 1)), b1 = hn::Sub(py, hn::LoadU(d, l.y + x - 1)),
               c0 = hn::Sub(hn::LoadU(d, l.below_x + x), px), c1 = hn::Sub(hn::LoadU(d, l.below_y + x), py),
               e0 = hn::Sub(px, hn::LoadU(d, l.above_x + x)), e1 = hn::Sub(py, hn::LoadU(d, l.above_y + x));
    const auto right = hn::Le(Square(d, a0, a1), Square(d, b0, b1)),
               lower = hn::Le(Square(d, c0, c1), Square(d, e0, e1));
    return {hn::IfThenElse(right, a0, b0), hn::IfThenElse(right, a1, b1), hn::IfThenElse(lower, c0, e0),
            hn::IfThenElse(lower, c1, e1)};
}

/// Calls `what(row, x)` for vectors of a row; the last ones begin earlier, so that none reads past the row's
/// own margin.
template <class What> HWY_INLINE void EachVector(const LooksRow& row, int width, const What& what) {
    if (width < lanes) {
        // Too short for one vector: looked at in a copy.
        alignas(64) std::array<std::array<float, 48>, 6> held{};
        const float* const from[6] = {row.x, row.y, row.above_x, row.above_y, row.below_x, row.below_y};
        for (std::size_t i = 0; i < 6; ++i) std::copy_n(from[i] - 1, width + 2, held[i].data() + 15);
        return what(LooksRow{held[0].data() + 16, held[1].data() + 16, held[2].data() + 16,
                             held[3].data() + 16, held[4].data() + 16, held[5].data() + 16},
                    0);
    }
    for (int x = 0; x + lanes <= width; x += lanes) what(row, x);
    if (width % lanes) what(row, width - lanes);
}

} // namespace
} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
