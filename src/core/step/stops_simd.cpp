#include "core/step/stops_simd.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/step/stops_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

/// v(t) = v₀ + Σ (change of slope at knot k) × max(0, t − that knot's place).
void SumHinges(const MixedStops::Knots& knots, bool opaque, const float* places, int width,
               const std::array<float*, 4>& out) {
    const D d;
    const std::size_t n = knots.value[0].size();
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f), first = hn::Set(d, knots.at[1]),
               last = hn::Set(d, knots.at[n - 1]);
    std::array<std::array<float, 4>, 16> bends; // there are at most 12 knots
    for (std::size_t k = 1; k + 1 < n; ++k)
        for (std::size_t c = 0; c < 4; ++c) bends[k][c] = knots.rise[c][k] - knots.rise[c][k - 1];
    for (int x = 0; x < width; x += lanes) {
        const auto t = hn::Min(last, hn::Max(first, hn::LoadU(d, places + x)));
        auto r = hn::Set(d, knots.value[0][1]), g = hn::Set(d, knots.value[1][1]),
             b = hn::Set(d, knots.value[2][1]), a = hn::Set(d, knots.value[3][1]);
        for (std::size_t k = 1; k + 1 < n; ++k) {
            const auto past = hn::Max(zero, hn::Sub(t, hn::Set(d, knots.at[k])));
            const auto bend = [&](std::size_t c) { return hn::Set(d, bends[k][c]); };
            r = Fused(d, past, bend(0), r), g = Fused(d, past, bend(1), g), b = Fused(d, past, bend(2), b);
            if (!opaque) a = Fused(d, past, bend(3), a);
        }
        if (opaque)
            a = one;
        else {
            const auto by =
                hn::IfThenElse(hn::Gt(a, zero), hn::Div(one, hn::Max(a, hn::Set(d, 1e-30f))), zero);
            r = hn::Mul(by, r), g = hn::Mul(by, g), b = hn::Mul(by, b);
        }
        hn::StoreU(r, d, out[0] + x), hn::StoreU(g, d, out[1] + x), hn::StoreU(b, d, out[2] + x);
        hn::StoreU(a, d, out[3] + x);
    }
}

void ReadStops(const MixedStops::Knots& knots, bool opaque, const float* places, int width,
               const std::array<float*, 4>& out) {
    if (knots.few) return SumHinges(knots, opaque, places, width, out);
    const D d;
    const DI di;
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f), stretches = hn::Set(d, float{stop_stretches});
    const auto next = hn::Set(di, 1);
    for (int x = 0; x < width; x += lanes) {
        const auto t = hn::LoadU(d, places + x);
        const auto held = hn::Min(one, hn::Max(zero, t));
        // Behind the row's end there may be anything, and no number too.
        const auto stretch = hn::Min(hn::Set(di, stop_stretches),
                                     hn::Max(hn::Zero(di), hn::ConvertTo(di, hn::Mul(held, stretches))));
        auto k = hn::GatherIndex(di, knots.first.data(), stretch);
        for (int i = 0; i < knots.steps; ++i) {
            const auto past = hn::Le(hn::GatherIndex(d, knots.at.data() + 1, k), t);
            k = hn::IfThenElse(hn::RebindMask(di, past), hn::Add(k, next), k);
        }
        const auto way = hn::Sub(t, hn::GatherIndex(d, knots.at.data(), k));
        const auto value = [&](std::size_t c) {
            return Fused(d, way, hn::GatherIndex(d, knots.rise[c].data(), k),
                         hn::GatherIndex(d, knots.value[c].data(), k));
        };
        if (opaque) {
            for (std::size_t c = 0; c < 3; ++c) hn::StoreU(value(c), d, out[c] + x);
            hn::StoreU(one, d, out[3] + x);
            continue;
        }
        const auto a = value(3);
        const auto by = hn::IfThenElse(hn::Gt(a, zero), hn::Div(one, hn::Max(a, hn::Set(d, 1e-30f))), zero);
        for (std::size_t c = 0; c < 3; ++c) hn::StoreU(hn::Mul(by, value(c)), d, out[c] + x);
        hn::StoreU(a, d, out[3] + x);
    }
}

void RepeatRow(const float* values, float* t, int width, float from, float per, float repeats,
               bool mirrored) {
    const D d;
    const DI di;
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f), low = hn::Set(d, from), k = hn::Set(d, per),
               n = hn::Set(d, repeats);
    for (int x = 0; x < width; x += lanes) {
        auto v = hn::Min(one, hn::Max(zero, hn::Mul(hn::Sub(hn::LoadU(d, values + x), low), k)));
        if (repeats != 1) {
            const auto times = hn::Mul(n, v);
            const auto whole = hn::ConvertTo(di, times); // none is below 0
            v = hn::Sub(times, hn::ConvertTo(d, whole));
            if (mirrored) {
                const auto back = hn::Ne(hn::And(whole, hn::Set(di, 1)), hn::Zero(di));
                v = hn::IfThenElse(hn::RebindMask(d, back), hn::Sub(one, v), v);
            }
        }
        hn::StoreU(v, d, t + x);
    }
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(ReadStops);
HWY_EXPORT(RepeatRow);
void repeat_row(const float* values, float* t, int width, float from, float per, float repeats,
                bool mirrored) {
    HWY_DYNAMIC_DISPATCH(RepeatRow)(values, t, width, from, per, repeats, mirrored);
}
void read_stops(const MixedStops::Knots& knots, bool opaque, const float* t, int width,
                const std::array<float*, 4>& out) {
    HWY_DYNAMIC_DISPATCH(ReadStops)(knots, opaque, t, width, out);
}
} // namespace bathylux
#endif
