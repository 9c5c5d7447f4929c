#include "core/bend/survey_simd.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/bend/survey_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/bend/footprint-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

namespace {

/// Where a vector of places after the other lies.
class Extent {
  public:
    Extent() { // by itself: a constructor that is not written out is compiled for no instruction set
        x0_ = y0_ = None(), x1_ = y1_ = hn::Neg(None());
    }
    HWY_INLINE void add(hn::Mask<D> which, V x0, V x1, V y0, V y1) {
        x0_ = hn::Min(x0_, hn::IfThenElse(which, x0, None())),
        y0_ = hn::Min(y0_, hn::IfThenElse(which, y0, None()));
        x1_ = hn::Max(x1_, hn::IfThenElse(which, x1, hn::Neg(None())));
        y1_ = hn::Max(y1_, hn::IfThenElse(which, y1, hn::Neg(None())));
    }
    Span span() const {
        const D d;
        const auto least = [d](V v) HWY_ATTR { return hn::GetLane(hn::MinOfLanes(d, v)); };
        const auto most = [d](V v) HWY_ATTR { return hn::GetLane(hn::MaxOfLanes(d, v)); };
        return {least(x0_), most(x1_), least(y0_), most(y1_)};
    }

  private:
    static HWY_INLINE V None() { return hn::Set(D(), 1e30f); }
    V x0_, x1_, y0_, y1_;
};

} // namespace

RowsSurvey SurveyRows(const Looks& looks, int y0, int y1, Region most) {
    const D d;
    const int width = looks.region.width();
    const auto set = [d](float v) HWY_ATTR { return hn::Set(d, v); };
    const auto most_of = [d](V v) HWY_ATTR { return hn::GetLane(hn::MaxOfLanes(d, v)); };
    const auto left = set(static_cast<float>(most.x0)), right = set(static_cast<float>(most.x1)),
               top = set(static_cast<float>(most.y0)), bottom = set(static_cast<float>(most.y1));
    auto longest = hn::Zero(d), shortest = longest, samples = longest;
    Extent all;
    RowsSurvey out;
    for (int first = 0; first < width; first += read_columns_at_once) {
        const int n = std::min(read_columns_at_once, width - first);
        const auto there = hn::FirstN(d, static_cast<std::size_t>(n));
        Extent block;
        for (int y = y0; y < y1; ++y)
            EachVector(row_of(looks, first, y), n, [&](const LooksRow& l, int x) HWY_ATTR {
                const Footprint f = FootprintAt(d, l, x);
                const auto a = hn::IfThenElseZero(there, Square(d, f.ax, f.ay)),
                           b = hn::IfThenElseZero(there, Square(d, f.bx, f.by)), larger = hn::Max(a, b),
                           smaller = hn::Min(a, b);
                longest = hn::Max(longest, larger), shortest = hn::Max(shortest, smaller);
                if (!hn::AllTrue(d, hn::Le(larger, set(16)))) { // else there are no more than 7 × 7
                    const auto count = [&](V squared) HWY_ATTR {
                        return Fused(d, set(per_px), hn::Sqrt(squared), set(1));
                    };
                    samples = hn::Max(samples, hn::Mul(count(a), count(b)));
                }
                // A footprint, and about it what a sample of a halving sees, which is less than so much of
                // it.
                const auto across = hn::Add(hn::Abs(f.ax), hn::Abs(f.bx)),
                           down = hn::Add(hn::Abs(f.ay), hn::Abs(f.by)), far = set(1e7f);
                const auto about = hn::Min(far, Fused(d, set(0.4f), hn::Add(across, down), set(2.5f))),
                           ex = hn::Add(hn::Min(across, far), about), ey = hn::Add(hn::Min(down, far), about);
                const auto px = hn::LoadU(d, l.x + x), py = hn::LoadU(d, l.y + x);
                const auto x0 = hn::Sub(px, ex), x1 = hn::Add(px, ex), v0 = hn::Sub(py, ey),
                           v1 = hn::Add(py, ey);
                const auto near = hn::And(there, hn::And(hn::And(hn::Gt(x1, left), hn::Lt(x0, right)),
                                                         hn::And(hn::Gt(v1, top), hn::Lt(v0, bottom))));
                const auto small = hn::Lt(smaller, set(reads_halvings + 0.1f));
                block.add(hn::And(near, small), x0, x1, v0, v1);
                if (!hn::AllTrue(d, small)) all.add(near, x0, x1, v0, v1);
            });
        out.blocks.push_back(block.span());
        out.span.add(out.blocks.back());
    }
    out.span.add(all.span());
    out.longest = most_of(longest);
    // With a little to spare for rounding.
    out.halvings = most_of(shortest) > reads_halvings - 0.01f || most_of(samples) > 0.99f * most_samples;
    return out;
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(SurveyRows);
RowsSurvey survey_rows(const Looks& looks, int y0, int y1, Region most) {
    return HWY_DYNAMIC_DISPATCH(SurveyRows)(looks, y0, y1, most);
}
} // namespace bathylux
#endif
