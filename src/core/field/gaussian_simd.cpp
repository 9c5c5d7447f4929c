#include "core/field/gaussian_simd.h"

#include <algorithm>

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
    for (int x = 0; x < width; x += static_cast<int>(hn::Lanes(d))) {
        auto a = hn::Mul(hn::LoadU(d, rows[0] + x), hn::Set(d, weights[0]));
        for (std::size_t m = 1; m < rows.size(); ++m)
            a = Fused(d, hn::LoadU(d, rows[m] + x), hn::Set(d, weights[m]), a);
        hn::StoreU(a, d, out + x);
    }
}

void ConvolveRow(const float* in, std::span<const float> half, int width, float* out) {
    const D d;
    for (int x = 0; x < width; x += static_cast<int>(hn::Lanes(d))) {
        auto a = hn::Mul(hn::LoadU(d, in + x), hn::Set(d, half[0]));
        for (int i = 1; i < static_cast<int>(half.size()); ++i)
            a = Fused(d, hn::Set(d, half[i]), hn::Add(hn::LoadU(d, in + x - i), hn::LoadU(d, in + x + i)), a);
        hn::StoreU(a, d, out + x);
    }
}

void ReadEvery(const float* in, int k, std::span<const float> kernel, int count, float* out) {
    const D d;
    const int n = static_cast<int>(hn::Lanes(d)), taps = static_cast<int>(kernel.size());
    alignas(64) float sums[16];
    for (int j = 0; j < count; ++j) {
        const float* p = in + static_cast<std::ptrdiff_t>(j) * k;
        int i = 0;
        for (int part = 0; part < 16; part += n) hn::Store(hn::Zero(d), d, sums + part);
        for (; i + 16 <= taps; i += 16)
            for (int part = 0; part < 16; part += n)
                hn::Store(Fused(d, hn::LoadU(d, p + i + part), hn::LoadU(d, kernel.data() + i + part),
                                hn::Load(d, sums + part)),
                          d, sums + part);
        for (int r = 0; i < taps; ++i, ++r) sums[r] += p[i] * kernel[i];
        for (int half = 8; half > 0; half /= 2)
            for (int r = 0; r < half; ++r) sums[r] += sums[r + half];
        out[j] = sums[0];
    }
}

void InterpolateRow(const float* in, int k, int taps, std::span<const float> weights, int blocks,
                    float* out) {
    if (k >= 8) {
        const hn::CappedTag<float, 8> d;
        for (int j = 0; j < blocks; ++j)
            for (int phase = 0; phase < k; phase += static_cast<int>(hn::Lanes(d))) {
                auto a = hn::Mul(hn::Set(d, in[j]), hn::LoadU(d, &weights[phase]));
                for (int m = 1; m < taps; ++m)
                    a = Fused(d, hn::Set(d, in[j + m]),
                              hn::LoadU(d, &weights[static_cast<std::size_t>(m) * k + phase]), a);
                hn::StoreU(a, d, out + static_cast<std::ptrdiff_t>(j) * k + phase);
            }
        return;
    }
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
