#include "core/render/see_through_simd.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/render/see_through_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

Ends RefractRow(const PaneRow& pane, float per_px, int width, const WaysRow& to) {
    const D d;
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f), least = hn::Set(d, 1e-6f),
               scale = hn::Set(d, per_px);
    auto x0 = zero, x1 = zero, y0 = zero, y1 = zero;
    for (int x = 0; x < width; x += lanes) {
        const auto load = [&](const float* row) { return hn::LoadU(d, row + x); };
        const auto alpha = load(pane.alpha), cosine = load(pane.nz), index = hn::Max(one, load(pane.ior)),
                   eta = hn::Div(one, index);
        // Snell: the ray turns towards the normal by `bends`.
        const auto sine2 = hn::Mul(hn::Mul(eta, eta), Less(d, cosine, cosine, one)),
                   bends = hn::Sub(hn::Mul(eta, cosine), hn::Sqrt(hn::Max(zero, hn::Sub(one, sine2)))),
                   rz = Less(d, bends, cosine, eta);
        const auto way = hn::Div(hn::Max(zero, hn::Add(load(pane.thickness), load(pane.height))), rz);
        const auto there = hn::Gt(alpha, zero);
        const auto reach = hn::IfThenElseZero(there, hn::Mul(hn::Mul(bends, way), scale)),
                   right = hn::Mul(reach, load(pane.nx)), down = hn::Neg(hn::Mul(reach, load(pane.ny)));
        // Schlick: what is not thrown back.
        const auto root = hn::Div(hn::Sub(index, one), hn::Add(index, one)), side = hn::Sub(one, cosine),
                   side2 = hn::Mul(side, side), side5 = hn::Mul(hn::Mul(side2, side2), side);
        const auto through = hn::Mul(Less(d, root, root, one), hn::Sub(one, side5));
        hn::StoreU(right, d, to.x + x), hn::StoreU(down, d, to.y + x);
        hn::StoreU(hn::IfThenElseZero(there, hn::Div(through, hn::Max(alpha, least))), d, to.in + x);
        if (to.way) hn::StoreU(way, d, to.way + x);
        const auto counts = hn::FirstN(d, static_cast<std::size_t>(width - x));
        const auto r = hn::IfThenElseZero(counts, right), b = hn::IfThenElseZero(counts, down);
        x0 = hn::Min(x0, r), x1 = hn::Max(x1, r), y0 = hn::Min(y0, b), y1 = hn::Max(y1, b);
    }
    const auto least_of = [d](V v) { return hn::GetLane(hn::MinOfLanes(d, v)); };
    const auto most_of = [d](V v) { return hn::GetLane(hn::MaxOfLanes(d, v)); };
    return {least_of(x0), most_of(x1), least_of(y0), most_of(y1)};
}

void PlacesRow(const float* x, const float* y, int left, int top, const Held& picture, int width,
               const Places& to) {
    const D d;
    const DI di;
    const auto set = [d](int v) { return hn::Set(d, static_cast<float>(v)); };
    const auto zero = hn::Zero(d), last_x = set(picture.columns - 1), last_y = set(picture.rows - 1),
               first_x = set(picture.x0), first_y = set(picture.y0), row = set(top);
    for (int i = 0; i < width; i += lanes) {
        // Counted on the canvas first: what rounding that takes is then the same for all.
        const auto column = CountedFrom(d, static_cast<float>(left + i));
        const auto u = hn::Sub(hn::Add(column, hn::LoadU(d, x + i)), first_x),
                   v = hn::Sub(hn::Add(row, hn::LoadU(d, y + i)), first_y);
        const auto held_u = hn::Min(last_x, hn::Max(zero, u)), held_v = hn::Min(last_y, hn::Max(zero, v));
        const auto iu = hn::ConvertTo(di, held_u), iv = hn::ConvertTo(di, held_v);
        hn::StoreU(hn::Add(hn::ShiftLeft<2>(iu), hn::Mul(iv, hn::Set(di, picture.stride))), di, to.at + i);
        hn::StoreU(hn::Sub(held_u, hn::ConvertTo(d, iu)), d, to.right + i);
        hn::StoreU(hn::Sub(held_v, hn::ConvertTo(d, iv)), d, to.down + i);
    }
}

void LookRow(const float* picture, int stride, const Places& places, int width,
             const std::array<float*, 4>& out) {
    const D d;
    const hn::CappedTag<float, 4> d4;
    const int four = static_cast<int>(hn::Lanes(d4));
    // Many at a time, so that none of them is read back while it is still being written.
    constexpr int many = 64;
    alignas(64) std::array<float, 4 * many> seen;
    for (int x = 0; x < width; x += many) {
        const int n = std::min(many, width - x);
        for (int i = 0; i < n; ++i)
            for (int c = 0; c < 4; c += four) {
                const float* p = picture + places.at[x + i] + c;
                const auto right = hn::Set(d4, places.right[x + i]), down = hn::Set(d4, places.down[x + i]);
                const auto between = [&](const float* q) {
                    const auto a = hn::LoadU(d4, q);
                    return Fused(d4, right, hn::Sub(hn::LoadU(d4, q + 4), a), a);
                };
                const auto upper = between(p), lower = between(p + stride);
                hn::Store(Fused(d4, down, hn::Sub(lower, upper), upper), d4,
                          &seen[static_cast<std::size_t>(i) * 4 + static_cast<std::size_t>(c)]);
            }
        for (int i = 0; i < n; i += lanes) {
            V r, g, b, a;
            hn::LoadInterleaved4(d, &seen[static_cast<std::size_t>(i) * 4], r, g, b, a);
            hn::StoreU(r, d, out[0] + x + i), hn::StoreU(g, d, out[1] + x + i);
            hn::StoreU(b, d, out[2] + x + i), hn::StoreU(a, d, out[3] + x + i);
        }
    }
}

void TintRow(const Tint& tint, int width, const std::array<float*, 3>& color) {
    const D d;
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f), least = hn::Set(d, 1e-30f);
    for (int x = 0; x < width; x += lanes) {
        const auto in = hn::LoadU(d, tint.in + x);
        auto times = zero;
        if (tint.way) {
            const auto distance = hn::LoadU(d, tint.distance + x), way = hn::LoadU(d, tint.way + x);
            times = hn::IfThenElseZero(hn::Gt(distance, zero), hn::Div(way, hn::Max(distance, least)));
        }
        for (std::size_t c = 0; c < 3; ++c) {
            auto v = hn::Mul(hn::LoadU(d, color[c] + x), hn::Mul(in, hn::LoadU(d, tint.base[c] + x)));
            if (tint.way) {
                const auto share = hn::LoadU(d, tint.attenuation[c] + x);
                const auto left = hn::IfThenElseZero(hn::Gt(share, zero),
                                                     Exp2(d, hn::Mul(times, Log2(d, hn::Max(share, least)))));
                v = hn::Mul(v, hn::IfThenElse(hn::Gt(times, zero), left, one));
            }
            hn::StoreU(v, d, color[c] + x);
        }
    }
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(RefractRow);
HWY_EXPORT(PlacesRow);
HWY_EXPORT(LookRow);
HWY_EXPORT(TintRow);
Ends refract_row(const PaneRow& pane, float per_px, int width, const WaysRow& to) {
    return HWY_DYNAMIC_DISPATCH(RefractRow)(pane, per_px, width, to);
}
void places_row(const float* x, const float* y, int left, int top, const Held& picture, int width,
                const Places& to) {
    HWY_DYNAMIC_DISPATCH(PlacesRow)(x, y, left, top, picture, width, to);
}
void look_row(const float* picture, int stride, const Places& places, int width,
              const std::array<float*, 4>& out) {
    HWY_DYNAMIC_DISPATCH(LookRow)(picture, stride, places, width, out);
}
void tint_row(const Tint& tint, int width, const std::array<float*, 3>& color) {
    HWY_DYNAMIC_DISPATCH(TintRow)(tint, width, color);
}
} // namespace bathylux
#endif
