#include "core/field/gaussian_simd.h"

#include <algorithm>
#include <array>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/field/gaussian_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

// Products are fused into their sums, on every instruction set alike. Sums along a row keep sixteen
// partial sums whatever the vector length, for the same reason.

void CombineRows(const float* const* middle, std::span<const float> half, int width, float* out) {
    const D d;
    const int n = static_cast<int>(hn::Lanes(d));
    for (int x = 0; x < width; x += 2 * n) {
        auto a = hn::Mul(hn::LoadU(d, middle[0] + x), hn::Set(d, half[0]));
        const bool two = x + n < width;
        auto b = two ? hn::Mul(hn::LoadU(d, middle[0] + x + n), hn::Set(d, half[0])) : a;
        for (int i = 1; i < static_cast<int>(half.size()); ++i) {
            const auto k = hn::Set(d, half[i]);
            a = Fused(d, k, hn::Add(hn::LoadU(d, middle[-i] + x), hn::LoadU(d, middle[i] + x)), a);
            if (two)
                b = Fused(d, k, hn::Add(hn::LoadU(d, middle[-i] + x + n), hn::LoadU(d, middle[i] + x + n)),
                          b);
        }
        hn::StoreU(a, d, out + x);
        if (two) hn::StoreU(b, d, out + x + n);
    }
}

void WeighRows(std::span<const float* const> rows, std::span<const float> weights, int width, float* out) {
    const D d;
    for (int x = 0; x < width; x += lanes) {
        auto a = hn::Mul(hn::LoadU(d, rows[0] + x), hn::Set(d, weights[0]));
        for (std::size_t m = 1; m < rows.size(); ++m)
            a = Fused(d, hn::LoadU(d, rows[m] + x), hn::Set(d, weights[m]), a);
        hn::StoreU(a, d, out + x);
    }
}

void ConvolveRow(const float* in, std::span<const float> half, int width, float* out) {
    const D d;
    for (int x = 0; x < width; x += lanes) {
        auto a = hn::Mul(hn::LoadU(d, in + x), hn::Set(d, half[0]));
        for (int i = 1; i < static_cast<int>(half.size()); ++i)
            a = Fused(d, hn::Set(d, half[i]), hn::Add(hn::LoadU(d, in + x - i), hn::LoadU(d, in + x + i)), a);
        hn::StoreU(a, d, out + x);
    }
}

/// `many` places at a time, so that none waits for its own sum.
template <std::size_t many>
HWY_INLINE void ReadPlaces(D d, const float* in, int k, std::span<const float> kernel, float* out) {
    constexpr std::size_t vectors = 16 / lanes;
    V sums[many][vectors];
    for (auto& place : sums)
        for (V& sum : place) sum = hn::Zero(d);
    for (std::size_t i = 0; i < kernel.size(); i += 16)
        for (std::size_t v = 0; v < vectors; ++v) {
            const auto weights = hn::LoadU(d, kernel.data() + i + v * lanes);
            for (std::size_t j = 0; j < many; ++j)
                sums[j][v] = Fused(d, hn::LoadU(d, in + j * static_cast<std::size_t>(k) + i + v * lanes),
                                   weights, sums[j][v]);
        }
    for (std::size_t j = 0; j < many; ++j) {
        alignas(64) std::array<float, 16> folded;
        for (std::size_t v = 0; v < vectors; ++v) hn::Store(sums[j][v], d, &folded[v * lanes]);
        for (std::size_t half = 8; half > 2; half /= 2)
            for (std::size_t r = 0; r < half; ++r) folded[r] += folded[r + half];
        out[j] = (folded[0] + folded[2]) + (folded[1] + folded[3]);
    }
}

void ReadEvery(const float* in, int k, std::span<const float> kernel, int count, float* out) {
    const D d;
    int j = 0;
    for (; j + 4 <= count; j += 4)
        ReadPlaces<4>(d, in + static_cast<std::ptrdiff_t>(j) * k, k, kernel, out + j);
    for (; j < count; ++j) ReadPlaces<1>(d, in + static_cast<std::ptrdiff_t>(j) * k, k, kernel, out + j);
}

/// Between `many` coarse samples and the next, weights shared.
template <std::size_t many, class Tag>
HWY_INLINE void InterpolateBlocks(Tag d, const float* in, int k, int taps, std::span<const float> weights,
                                  float* out) {
    for (int phase = 0; phase < k; phase += static_cast<int>(hn::Lanes(d))) {
        hn::Vec<Tag> a[many];
        for (std::size_t j = 0; j < many; ++j)
            a[j] = hn::Mul(hn::Set(d, in[j]), hn::LoadU(d, &weights[phase]));
        for (int m = 1; m < taps; ++m) {
            const auto weight = hn::LoadU(d, &weights[static_cast<std::size_t>(m) * k + phase]);
            for (std::size_t j = 0; j < many; ++j) a[j] = Fused(d, hn::Set(d, in[j + m]), weight, a[j]);
        }
        for (std::size_t j = 0; j < many; ++j)
            hn::StoreU(a[j], d, out + j * static_cast<std::size_t>(k) + phase);
    }
}
template <class Tag>
void InterpolateMany(Tag d, const float* in, int k, int taps, std::span<const float> weights, int blocks,
                     float* out) {
    int j = 0;
    for (; j + 4 <= blocks; j += 4)
        InterpolateBlocks<4>(d, in + j, k, taps, weights, out + static_cast<std::ptrdiff_t>(j) * k);
    for (; j < blocks; ++j)
        InterpolateBlocks<1>(d, in + j, k, taps, weights, out + static_cast<std::ptrdiff_t>(j) * k);
}

void InterpolateRow(const float* in, int k, int taps, std::span<const float> weights, int blocks,
                    float* out) {
    if (k >= 16) return InterpolateMany(D(), in, k, taps, weights, blocks, out);
    if (k >= 8) return InterpolateMany(hn::CappedTag<float, 8>(), in, k, taps, weights, blocks, out);
    // Few phases: vectors run along the coarse samples, and the phases are interleaved when stored.
    const D d;
    const int n = static_cast<int>(hn::Lanes(d));
    const auto phase_of = [&](int j, int phase) {
        auto a = hn::Mul(hn::LoadU(d, in + j), hn::Set(d, weights[phase]));
        for (int m = 1; m < taps; ++m)
            a = Fused(d, hn::LoadU(d, in + j + m), hn::Set(d, weights[m * k + phase]), a);
        return a;
    };
    alignas(64) float last[64];
    for (int j = 0; j < blocks; j += n) {
        float* to = j + n <= blocks ? out + j * k : last;
        if (k == 2)
            hn::StoreInterleaved2(phase_of(j, 0), phase_of(j, 1), d, to);
        else
            hn::StoreInterleaved4(phase_of(j, 0), phase_of(j, 1), phase_of(j, 2), phase_of(j, 3), d, to);
        if (to == last) std::copy_n(last, (blocks - j) * k, out + j * k);
    }
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(CombineRows);
HWY_EXPORT(WeighRows);
HWY_EXPORT(ConvolveRow);
HWY_EXPORT(ReadEvery);
HWY_EXPORT(InterpolateRow);
void combine_rows(const float* const* middle, std::span<const float> half, int width, float* out) {
    HWY_DYNAMIC_DISPATCH(CombineRows)(middle, half, width, out);
}
void weigh_rows(std::span<const float* const> rows, std::span<const float> weights, int width, float* out) {
    HWY_DYNAMIC_DISPATCH(WeighRows)(rows, weights, width, out);
}
void convolve_row(const float* in, std::span<const float> half, int width, float* out) {
    HWY_DYNAMIC_DISPATCH(ConvolveRow)(in, half, width, out);
}
void read_every(const float* in, int k, std::span<const float> kernel, int count, float* out) {
    HWY_DYNAMIC_DISPATCH(ReadEvery)(in, k, kernel, count, out);
}
void interpolate_row(const float* in, int k, int taps, std::span<const float> weights, int blocks,
                     float* out) {
    HWY_DYNAMIC_DISPATCH(InterpolateRow)(in, k, taps, weights, blocks, out);
}
} // namespace bathylux
#endif
