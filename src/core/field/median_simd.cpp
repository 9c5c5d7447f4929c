#include "core/field/median_simd.h"

#include <algorithm>
#include <cstring>
#include <vector>

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

/// column[b] += (b ≥ enters) − (b ≥ leaves), without a branch.
template <class Count> HWY_INLINE void Exchange(Count* HWY_RESTRICT column, int enters, int leaves) {
    const hn::ScalableTag<Count> d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    const auto in = hn::Set(d, static_cast<Count>(enters)), out = hn::Set(d, static_cast<Count>(leaves));
    auto b = hn::Iota(d, 0);
    const auto step = hn::Set(d, static_cast<Count>(lanes));
    for (int i = 0; i < median_classes; i += lanes) {
        // Where max(b, e) is b, b is at least e; a true mask is −1.
        const auto more = hn::VecFromMask(d, hn::Eq(hn::Max(b, in), b)),
                   less = hn::VecFromMask(d, hn::Eq(hn::Max(b, out), b));
        hn::Store(hn::Add(hn::Load(d, column + i), hn::Sub(less, more)), d, column + i);
        b = hn::Add(b, step);
    }
}

/// sum += add − subtract over all classes; both of them may be the same.
template <class Count>
HWY_INLINE void Slide(Count* HWY_RESTRICT sum, const Count* HWY_RESTRICT add,
                      const Count* HWY_RESTRICT subtract) {
    const hn::ScalableTag<Count> d;
    for (int b = 0; b < median_classes; b += static_cast<int>(hn::Lanes(d)))
        hn::Store(hn::Add(hn::Load(d, sum + b), hn::Sub(hn::Load(d, add + b), hn::Load(d, subtract + b))), d,
                  sum + b);
}

/// Place of the n-th (from 0) set bit.
HWY_INLINE int NthBit(std::uint64_t bits, int n) {
#if HWY_ARCH_X86_64 && defined(__BMI2__)
    return __builtin_ctzll(_pdep_u64(std::uint64_t{1} << n, bits));
#else
    while (n-- > 0) bits &= bits - 1;
    return __builtin_ctzll(bits);
#endif
}

/// Index of the n-th (from 0) of `count` members that lies in [x0, x1] × [y0, y1]. Sixty-four are tested at a
/// time, without a branch: a class seldom has more.
template <class Place>
HWY_INLINE int Nth(const Place* HWY_RESTRICT x, const Place* HWY_RESTRICT y, int count, int x0, int x1,
                   int y0, int y1, int n) {
    const hn::ScalableTag<Place> d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    const auto lx = hn::Set(d, static_cast<Place>(x0)), hx = hn::Set(d, static_cast<Place>(x1)),
               ly = hn::Set(d, static_cast<Place>(y0)), hy = hn::Set(d, static_cast<Place>(y1));
    for (int i = 0;; i += 64) {
        std::uint64_t bits = 0;
        for (int k = 0; k < 64; k += lanes) {
            const auto vx = hn::LoadU(d, x + i + k), vy = hn::LoadU(d, y + i + k);
            const auto in =
                hn::And(hn::Eq(hn::Min(hn::Max(vx, lx), hx), vx), hn::Eq(hn::Min(hn::Max(vy, ly), hy), vy));
            std::uint8_t bytes[8] = {};
            hn::StoreMaskBits(d, in, bytes);
            std::uint64_t part;
            std::memcpy(&part, bytes, 8);
            bits |= part << k;
        }
        const int found = __builtin_popcountll(bits);
        if (n < found) return std::min(i + NthBit(bits, n), count - 1);
        n -= found;
        if (i + 64 >= count) return count - 1; // not reached: the class holds so many
    }
}

template <class Count, class Place>
void Rows(const MedianTile<Place>& t, float* HWY_RESTRICT out, int stride) {
    const int side = t.side, wide = t.width - side + 1, high = t.height - side + 1;
    const auto half = static_cast<Count>(side * side / 2); // so many lie below the median
    constexpr std::size_t line = 64 / sizeof(Count);
    std::vector<Count> store(static_cast<std::size_t>(t.width + 1) * median_classes + line, 0);
    Count* columns = store.data();
    while (reinterpret_cast<std::uintptr_t>(columns) % 64) ++columns;
    Count* sum = columns + static_cast<std::size_t>(t.width) * median_classes;
    const auto column = [&](int x) { return columns + static_cast<std::size_t>(x) * median_classes; };
    const auto at = [&](int x, int y) {
        return static_cast<int>(t.classes[static_cast<std::size_t>(y) * t.width + x]);
    };
    for (int x = 0; x < t.width; ++x) {
        for (int y = 0; y < side; ++y) ++column(x)[at(x, y)];
        for (int b = 1; b < median_classes; ++b)
            column(x)[b] = static_cast<Count>(column(x)[b] + column(x)[b - 1]);
    }
    const hn::ScalableTag<Count> d;
    for (int y = 0; y < high; ++y) {
        if (y > 0)
            for (int x = 0; x < t.width; ++x) Exchange(column(x), at(x, y + side - 1), at(x, y - 1));
        for (int b = 0; b < median_classes; b += static_cast<int>(hn::Lanes(d))) {
            auto s = hn::Zero(d);
            for (int x = 0; x < side; ++x) s = hn::Add(s, hn::Load(d, column(x) + b));
            hn::Store(s, d, sum + b);
        }
        int b = 0;
        for (int x = 0; x < wide; ++x) {
            if (x > 0) Slide(sum, column(x + side - 1), column(x - 1));
            // The class in which the count passes one half; seldom far from the last one.
            while (b > 0 && sum[b - 1] > half) --b;
            while (sum[b] <= half) ++b;
            const int below = b > 0 ? static_cast<int>(sum[b - 1]) : 0, from = t.starts[b];
            const int i = from + Nth(t.x + from, t.y + from, t.starts[b + 1] - from, x, x + side - 1, y,
                                     y + side - 1, static_cast<int>(half) - below);
            out[x] = t.values[static_cast<std::size_t>(t.y[i]) * t.width + t.x[i]];
        }
        out += stride;
    }
}

void SmallRows(const MedianTile<std::uint8_t>& t, float* out, int stride) {
    Rows<std::uint16_t>(t, out, stride); // side ≤ 255: its square fits
}
void LargeRows(const MedianTile<std::uint16_t>& t, float* out, int stride) {
    Rows<std::uint32_t>(t, out, stride);
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(SmallRows);
HWY_EXPORT(LargeRows);
void median_rows(const MedianTile<std::uint8_t>& t, float* out, int stride) {
    HWY_DYNAMIC_DISPATCH(SmallRows)(t, out, stride);
}
void median_rows(const MedianTile<std::uint16_t>& t, float* out, int stride) {
    HWY_DYNAMIC_DISPATCH(LargeRows)(t, out, stride);
}
} // namespace bathylux
#endif
