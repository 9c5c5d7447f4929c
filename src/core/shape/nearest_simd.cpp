#include "core/shape/nearest_simd.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/shape/nearest_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

void Nearest(std::span<const ChordLine> chords, float x, float y, std::span<float> distance,
             std::span<std::int32_t> nearest) {
    const hn::CappedTag<float, 16> d;
    const hn::RebindToSigned<decltype(d)> di;
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f);
    for (std::size_t i = 0; i < distance.size(); i += hn::Lanes(d)) {
        const auto px = hn::Add(hn::Set(d, x + static_cast<float>(i)), hn::Iota(d, 0.0f));
        const auto py = hn::Set(d, y);
        auto best = hn::Set(d, 3.4e38f);
        auto index = hn::Zero(di);
        for (std::size_t k = 0; k < chords.size(); ++k) {
            const ChordLine& c = chords[k];
            const auto qx = hn::Sub(px, hn::Set(d, c.ax)), qy = hn::Sub(py, hn::Set(d, c.ay));
            const auto dx = hn::Set(d, c.dx), dy = hn::Set(d, c.dy);
            auto t = hn::Mul(hn::Add(hn::Mul(qx, dx), hn::Mul(qy, dy)), hn::Set(d, c.inverse_length2));
            t = hn::Min(hn::Max(t, zero), one);
            const auto rx = hn::Sub(qx, hn::Mul(t, dx)), ry = hn::Sub(qy, hn::Mul(t, dy));
            const auto d2 = hn::Add(hn::Mul(rx, rx), hn::Mul(ry, ry));
            const auto closer = hn::Lt(d2, best);
            best = hn::IfThenElse(closer, d2, best);
            index =
                hn::IfThenElse(hn::RebindMask(di, closer), hn::Set(di, static_cast<std::int32_t>(k)), index);
        }
        hn::StoreU(hn::Sqrt(best), d, distance.data() + i);
        hn::StoreU(index, di, nearest.data() + i);
    }
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(Nearest);
void nearest_chords(std::span<const ChordLine> chords, float x, float y, std::span<float> distance,
                    std::span<std::int32_t> nearest) {
    HWY_DYNAMIC_DISPATCH(Nearest)(chords, x, y, distance, nearest);
}
} // namespace bathylux
#endif
