#include "core/bend/extrude_simd.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/bend/extrude_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

void PlacesAlong(const Along& along, std::span<int> px, std::span<float> past) {
    const hn::CappedTag<double, 8> d;
    const hn::Rebind<float, decltype(d)> df;
    const hn::Rebind<std::int32_t, decltype(d)> di;
    for (std::size_t i = 0; i < px.size(); i += hn::Lanes(d)) {
        const auto place = hn::Iota(d, along.first + static_cast<double>(i) + 0.5);
        const auto at = hn::Add(hn::Mul(hn::Set(d, along.by), place), hn::Set(d, along.off)),
                   whole = hn::Floor(at);
        hn::StoreU(hn::DemoteTo(df, hn::Sub(at, whole)), df, &past[i]);
        const auto there = hn::Sub(whole, hn::Set(d, along.start));
        hn::StoreU(hn::DemoteTo(di, hn::Min(hn::Set(d, along.size), hn::Max(hn::Set(d, -2), there))), di,
                   &px[i]);
    }
}

/// What lies before and after each px's place along a row, which is itself between two rows.
struct Pair {
    V before, after;
};
HWY_INLINE Pair PairAt(D d, const float* upper, const float* lower, V under, const int* column) {
    const auto between = [d, under](V a, V b) HWY_ATTR { return Fused(d, under, hn::Sub(b, a), a); };
#if HWY_TARGET != HWY_SCALAR
    constexpr int lanes = static_cast<int>(hn::MaxLanes(D()));
    const int first = column[0];
    if (column[lanes - 1] + 2 - first <= 2 * lanes) {
        // Close together: all of them stand in two vectors.
        const hn::RebindToSigned<D> di;
        const auto low = between(hn::LoadU(d, upper + first), hn::LoadU(d, lower + first)),
                   high = between(hn::LoadU(d, upper + first + lanes), hn::LoadU(d, lower + first + lanes));
        const auto last = hn::Set(di, lanes - 1);
        const auto of_either = [&](hn::Vec<decltype(di)> at) HWY_ATTR {
            const auto lane = hn::IndicesFromVec(d, hn::And(at, last));
            return hn::IfThenElse(hn::RebindMask(d, hn::Gt(at, last)), hn::TableLookupLanes(high, lane),
                                  hn::TableLookupLanes(low, lane));
        };
        const auto at = hn::Sub(hn::Load(di, column), hn::Set(di, first));
        return {of_either(at), of_either(hn::Add(at, hn::Set(di, 1)))};
    }
#endif
    alignas(64) std::array<float, 2 * hn::MaxLanes(D())> above, below;
    for (std::size_t x = 0; x < hn::MaxLanes(d); ++x)
        for (std::size_t c = 0; c < 2; ++c) {
            above[2 * x + c] = upper[column[x] + static_cast<int>(c)];
            below[2 * x + c] = lower[column[x] + static_cast<int>(c)];
        }
    V a0, a1, b0, b1;
    hn::LoadInterleaved2(d, above.data(), a0, a1), hn::LoadInterleaved2(d, below.data(), b0, b1);
    return {between(a0, b0), between(a1, b1)};
}

void SweepStep(SweepBlock& block, const SweepPlaces& places, int stride, int k, int steps) {
    const D d;
    const auto one = hn::Set(d, 1.0f), zero = hn::Zero(d), half = hn::Set(d, 0.5f),
               here = hn::Set(d, static_cast<float>(k) / static_cast<float>(steps)),
               before_here = hn::Set(d, static_cast<float>(k - 1)),
               a_step = hn::Set(d, 1 / static_cast<float>(steps)), all = hn::Set(d, 0.999f),
               tiny = hn::Set(d, 1e-20f);
    for (std::size_t y = 0; y < SweepBlock::height; ++y) {
        if (!block.rows[y]) continue;
        bool looks = false;
        const auto under = hn::Set(d, places.down[y]);
        for (std::size_t x = 0; x < SweepBlock::width; x += hn::Lanes(d)) {
            const std::size_t i = y * SweepBlock::width + x;
            const auto open = hn::Gt(hn::Load(d, &block.open[i]), half);
            if (hn::AllFalse(d, open)) continue;
            const Pair pair = PairAt(d, places.row[y], places.row[y] + stride, under, &places.column[x]);
            const auto a =
                Fused(d, hn::Load(d, &places.right[x]), hn::Sub(pair.after, pair.before), pair.before);
            auto met = hn::Gt(hn::Load(d, &block.met[i]), half);
            auto cover = hn::Load(d, &block.cover[i]), s = hn::Load(d, &block.s[i]);
            const auto before = hn::Load(d, &block.before[i]);
            // Where half is met between two steps.
            const auto now = hn::AndNot(met, hn::And(open, hn::Ge(a, half)));
            const auto rise = hn::Sub(a, before),
                       part = hn::IfThenElse(
                           hn::Gt(rise, zero),
                           hn::Min(one, hn::Max(zero, hn::Div(hn::Sub(half, before), hn::Max(rise, tiny)))),
                           one);
            s = hn::IfThenElse(now, hn::Max(zero, hn::Mul(hn::Add(before_here, part), a_step)), s);
            met = hn::Or(met, now);
            const auto past = hn::And(met, hn::Lt(a, cover));
            const auto more = hn::And(open, hn::AndNot(past, hn::Gt(a, cover)));
            cover = hn::IfThenElse(more, a, cover);
            s = hn::IfThenElse(hn::AndNot(met, more), here, s);
            const auto goes_on = hn::And(open, hn::AndNot(past, hn::Le(cover, all)));
            hn::Store(cover, d, &block.cover[i]), hn::Store(s, d, &block.s[i]),
                hn::Store(a, d, &block.before[i]);
            hn::Store(hn::IfThenElseZero(met, one), d, &block.met[i]);
            hn::Store(hn::IfThenElseZero(goes_on, one), d, &block.open[i]);
            looks = looks || !hn::AllFalse(d, goes_on);
        }
        block.rows[y] = looks;
    }
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(PlacesAlong);
HWY_EXPORT(SweepStep);
void places_along(const Along& along, std::span<int> px, std::span<float> past) {
    HWY_DYNAMIC_DISPATCH(PlacesAlong)(along, px, past);
}
void sweep_step(SweepBlock& block, const SweepPlaces& places, int stride, int k, int steps) {
    HWY_DYNAMIC_DISPATCH(SweepStep)(block, places, stride, k, steps);
}
} // namespace bathylux
#endif
