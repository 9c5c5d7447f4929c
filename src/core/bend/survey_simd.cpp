#include "core/bend/survey_simd.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/bend/survey_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/bend/footprint-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

RowsSurvey SurveyRows(const Looks& looks, int y0, int y1, Region most) {
    const D d;
    const int width = looks.region.width();
    const auto set = [d](float v) HWY_ATTR { return hn::Set(d, v); };
    const auto least_of = [d](V v) HWY_ATTR { return hn::GetLane(hn::MinOfLanes(d, v)); };
    const auto most_of = [d](V v) HWY_ATTR { return hn::GetLane(hn::MaxOfLanes(d, v)); };
    const auto x0 = set(static_cast<float>(most.x0)), x1 = set(static_cast<float>(most.x1)),
               y0_most = set(static_cast<float>(most.y0)), y1_most = set(static_cast<float>(most.y1));
    auto longest = hn::Zero(d), shortest = longest, samples = longest;
    RowsSurvey out;
    for (int first = 0; first < width; first += read_columns_at_once) {
        const int n = std::min(read_columns_at_once, width - first);
        const auto there = hn::FirstN(d, static_cast<std::size_t>(n));
        const auto none = set(1e30f), least = set(-1e30f);
        auto left = none, right = least, top = none, bottom = least;
        for (int y = y0; y < y1; ++y)
            EachVector(row_of(looks, first, y), n, [&](const LooksRow& l, int x) HWY_ATTR {
                const Footprint f = FootprintAt(d, l, x);
                const auto a = hn::IfThenElseZero(there, Square(d, f.ax, f.ay)),
                           b = hn::IfThenElseZero(there, Square(d, f.bx, f.by));
                longest = hn::Max(longest, hn::Max(a, b)), shortest = hn::Max(shortest, hn::Min(a, b));
                const auto count = [&](V squared)
                                       HWY_ATTR { return Fused(d, set(per_px), hn::Sqrt(squared), set(1)); };
                samples = hn::Max(samples, hn::Mul(count(a), count(b)));
                // A footprint, and about it what a sample of a halving sees, which is less than so much of
                // it.
                const auto across = hn::Add(hn::Abs(f.ax), hn::Abs(f.bx)),
                           down = hn::Add(hn::Abs(f.ay), hn::Abs(f.by));
                const auto about = hn::Min(set(1e7f), Fused(d, set(0.4f), hn::Add(across, down), set(2.5f))),
                           ex = hn::Add(hn::Min(across, set(1e7f)), about),
                           ey = hn::Add(hn::Min(down, set(1e7f)), about);
                const auto px = hn::LoadU(d, l.x + x), py = hn::LoadU(d, l.y + x);
                const auto low_x = hn::Sub(px, ex), high_x = hn::Add(px, ex), low_y = hn::Sub(py, ey),
                           high_y = hn::Add(py, ey);
                const auto near =
                    hn::And(there, hn::And(hn::And(hn::Gt(high_x, x0), hn::Lt(low_x, x1)),
                                           hn::And(hn::Gt(high_y, y0_most), hn::Lt(low_y, y1_most))));
                left = hn::Min(left, hn::IfThenElse(near, low_x, none));
                right = hn::Max(right, hn::IfThenElse(near, high_x, least));
                top = hn::Min(top, hn::IfThenElse(near, low_y, none));
                bottom = hn::Max(bottom, hn::IfThenElse(near, high_y, least));
            });
        out.blocks.push_back({least_of(left), most_of(right), least_of(top), most_of(bottom)});
    }
    out.longest = most_of(longest);
    // With a little to spare for rounding.
    out.halvings = most_of(shortest) > 15.99f || most_of(samples) > 0.99f * most_samples;
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
