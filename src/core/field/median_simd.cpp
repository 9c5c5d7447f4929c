#include "core/field/median_simd.h"

#include <array>
#include <cstring>
#include <limits>
#include <type_traits>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/field/median_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>
#if defined(__x86_64__)
#include <immintrin.h>
#endif

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

// Whole numbers only: results do not depend on how many lanes there are, so all there are are taken.

/// How many of `side` entering ranks lie below `rank`, less how many of those that leave.
template <class Rank> HWY_INLINE int Exchanged(const Rank* enters, const Rank* leaves, int side, int rank) {
    const hn::ScalableTag<Rank> d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    const auto least = hn::Set(d, static_cast<Rank>(rank));
    int more = 0;
    for (int i = 0; i < side; i += lanes) {
        const auto counted = hn::FirstN(d, static_cast<std::size_t>(side - i));
        const auto in = hn::And(counted, hn::Lt(hn::LoadU(d, enters + i), least)),
                   out = hn::And(counted, hn::Lt(hn::LoadU(d, leaves + i), least));
        more += static_cast<int>(hn::CountTrue(d, in)) - static_cast<int>(hn::CountTrue(d, out));
    }
    return more;
}

/// Place of the n-th (from 0) set bit.
HWY_INLINE int NthBit(std::uint64_t bits, int n) {
#if HWY_ARCH_X86_64 && HWY_TARGET <= HWY_AVX2
    return __builtin_ctzll(_pdep_u64(std::uint64_t{1} << n, bits));
#else
    while (n-- > 0) bits &= bits - 1;
    return __builtin_ctzll(bits);
#endif
}

/// Which of sixty-four places lie within a square window, a bit each.
template <class Place>
HWY_INLINE std::uint64_t Within(const Place* x, const Place* y, int x0, int y0, int side) {
    const hn::ScalableTag<Place> d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    const auto left = hn::Set(d, static_cast<Place>(x0)), top = hn::Set(d, static_cast<Place>(y0)),
               last = hn::Set(d, static_cast<Place>(side - 1));
    std::uint64_t bits = 0;
    for (int k = 0; k < 64; k += lanes) {
        // Unsigned, what lies before the window is far behind it.
        const auto dx = hn::Sub(hn::LoadU(d, x + k), left), dy = hn::Sub(hn::LoadU(d, y + k), top);
        const auto in = hn::Eq(hn::Min(hn::Max(dx, dy), last), hn::Max(dx, dy));
        std::uint8_t bytes[8] = {};
        hn::StoreMaskBits(d, in, bytes);
        std::uint64_t part = 0;
        std::memcpy(&part, bytes, 8);
        bits |= part << k;
    }
    return bits;
}

/// A rank and how many of a window's places lie below it: on its way from window to window.
struct Walker {
    int rank; // from 0 on
    int below;
};

/// Goes on from sixty-four ranks among which the place was not.
template <class Tile> HWY_NOINLINE int Seek(const Tile& t, int x0, int y0, int from, int to_go, bool up) {
    for (;; from += up ? 64 : -64) {
        const std::uint64_t bits = Within(t.x + from, t.y + from, x0, y0, t.side);
        const int found = __builtin_popcountll(bits);
        if (to_go < found) return from + NthBit(bits, up ? to_go : found - 1 - to_go);
        to_go -= found;
    }
}

/// Walks to the window's place below which `half` others lie: seldom further than 128 ranks, upwards or
/// downwards, which are looked at without a branch.
template <class Tile> HWY_INLINE void Settle(const Tile& t, int x0, int y0, int half, Walker& at) {
    const int short_of = half - at.below, down = short_of >> 31; // all bits where it goes down
    const int from = at.rank - (down & 128);
    const std::uint64_t one = Within(t.x + from, t.y + from, x0, y0, t.side),
                        two = Within(t.x + from + 64, t.y + from + 64, x0, y0, t.side);
    const int in_one = __builtin_popcountll(one), found = in_one + __builtin_popcountll(two),
              n = short_of + (down & found);
    at.below = half;
    if (static_cast<unsigned>(n) >= static_cast<unsigned>(found)) {
        at.rank = Seek(t, x0, y0, down ? at.rank - 64 : at.rank, down ? -short_of - 1 : short_of, !down);
        return;
    }
    const int second = (in_one - 1 - n) >> 31; // all bits where it is among the latter 64
    const std::uint64_t bits =
        one ^ ((one ^ two) & static_cast<std::uint64_t>(static_cast<std::int64_t>(second)));
    at.rank = from + (second & 64) + NthBit(bits, n - (second & in_one));
}

template <class Rank, class Place>
HWY_INLINE void Rows(const MedianTile<Rank, Place>& t, float* HWY_RESTRICT out, int stride) {
    const int side = t.side, wide = t.width - side + 1, high = t.height - side + 1;
    const int half = side * side / 2; // so many lie below the median
    constexpr int least = std::numeric_limits<Rank>::min();
    const auto row = [&](int x, int y) { return t.by_row + static_cast<std::ptrdiff_t>(y) * t.width + x; };
    const auto column = [&](int x, int y) {
        return t.by_column + static_cast<std::ptrdiff_t>(x) * t.height + y;
    };
    Walker first{0, 0}; // nothing lies below rank 0
    const auto go_down = [&](int y) {
        if (y > 0) first.below += Exchanged(row(0, y + side - 1), row(0, y - 1), side, least + first.rank);
        Settle(t, 0, y, half, first);
        return first;
    };
    // Rows side by side: while one waits for what it has looked up, the others go on.
    const auto together = [&]<int kRows>(int y, std::integral_constant<int, kRows>) {
        std::array<Walker, kRows> at;
        for (int i = 0; i < kRows; ++i) {
            at[i] = go_down(y + i);
            out[static_cast<std::ptrdiff_t>(y + i) * stride] = t.values[at[i].rank];
        }
        for (int x = 1; x < wide; ++x)
            for (int i = 0; i < kRows; ++i) {
                at[i].below +=
                    Exchanged(column(x + side - 1, y + i), column(x - 1, y + i), side, least + at[i].rank);
                Settle(t, x, y + i, half, at[i]);
                out[static_cast<std::ptrdiff_t>(y + i) * stride + x] = t.values[at[i].rank];
            }
    };
    constexpr int rows = 2;
    int y = 0;
    for (; y + rows <= high; y += rows) together(y, std::integral_constant<int, rows>());
    for (; y < high; ++y) together(y, std::integral_constant<int, 1>());
}

void SmallRows(const MedianTile<std::int16_t, std::uint8_t>& t, float* out, int stride) {
    Rows(t, out, stride);
}
void LargeRows(const MedianTile<std::int32_t, std::uint16_t>& t, float* out, int stride) {
    Rows(t, out, stride);
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(SmallRows);
HWY_EXPORT(LargeRows);
void median_rows(const MedianTile<std::int16_t, std::uint8_t>& t, float* out, int stride) {
    HWY_DYNAMIC_DISPATCH(SmallRows)(t, out, stride);
}
void median_rows(const MedianTile<std::int32_t, std::uint16_t>& t, float* out, int stride) {
    HWY_DYNAMIC_DISPATCH(LargeRows)(t, out, stride);
}
} // namespace bathylux
#endif
