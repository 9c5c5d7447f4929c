#include "core/relief/chamfer.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/relief/chamfer_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

void FromBefore(const ChamferRows& r, float same) {
    const D d;
    const auto least = hn::Set(d, same);
    constexpr float fifth = 1 / 5.0f;
    for (int x = 0; x < r.width; x += lanes) {
        const auto h = hn::LoadU(d, r.height + x);
        auto best = hn::LoadU(d, r.way + x);
        const auto come = [&](const float* way, const float* height, int by, float weight) {
            const auto level = hn::Lt(hn::Abs(hn::Sub(hn::LoadU(d, height + x + by), h)), least);
            const auto further = hn::Add(hn::LoadU(d, way + x + by), hn::Set(d, weight * fifth));
            best = hn::IfThenElse(level, hn::Min(best, further), best);
        };
        come(r.before, r.height1, 0, 5);
        come(r.before, r.height1, -1, 7);
        come(r.before, r.height1, 1, 7);
        come(r.before, r.height1, -2, 11);
        come(r.before, r.height1, 2, 11);
        come(r.before2, r.height2, -1, 11);
        come(r.before2, r.height2, 1, 11);
        hn::StoreU(best, d, r.way + x);
    }
}

void MarkRungs(const RungRows& r, float gap, float sign, float far) {
    const D d;
    const auto rung = hn::Set(d, gap), way = hn::Set(d, sign), whole = hn::Set(d, 0.999f);
    const auto low = hn::Set(d, 0.5f), high = hn::Set(d, 1.5f);
    for (int x = 0; x < r.width; x += lanes) {
        const auto h = hn::LoadU(d, r.height + x);
        const auto begins = [&](const float* height, const float* there) {
            const auto rise = hn::Div(hn::Mul(way, hn::Sub(hn::LoadU(d, height + x), h)), rung);
            return hn::And(hn::And(hn::Gt(rise, low), hn::Lt(rise, high)),
                           hn::Gt(hn::LoadU(d, there + x), whole));
        };
        const auto any = hn::Or(hn::Or(begins(r.height - 1, r.whole - 1), begins(r.height + 1, r.whole + 1)),
                                hn::Or(begins(r.above, r.whole_above), begins(r.below, r.whole_below)));
        hn::StoreU(hn::IfThenElse(any, hn::Set(d, 0.5f), hn::Set(d, far)), d, r.way + x);
    }
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(FromBefore);
HWY_EXPORT(MarkRungs);
void chamfer_from_before(const ChamferRows& rows, float same) {
    HWY_DYNAMIC_DISPATCH(FromBefore)(rows, same);
}
void mark_rungs(const RungRows& rows, float gap, float sign, float far) {
    HWY_DYNAMIC_DISPATCH(MarkRungs)(rows, gap, sign, far);
}
} // namespace bathylux
#endif
