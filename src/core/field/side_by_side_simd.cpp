#include "core/field/side_by_side_simd.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/field/side_by_side_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

void LaySideBySide(const std::array<const float*, 4>& from, const std::array<const float*, 4>& times,
                   int width, float* to) {
    const D d;
    const auto n = static_cast<std::size_t>(width);
    const auto all = [&](const auto& row) HWY_ATTR {
        std::size_t x = 0;
        for (; x + hn::Lanes(d) <= n; x += hn::Lanes(d))
            hn::StoreInterleaved4(row(0, x), row(1, x), row(2, x), row(3, x), d, to + 4 * x);
        for (; x < n; ++x)
            for (std::size_t c = 0; c < 4; ++c)
                to[4 * x + c] = times[c] ? from[c][x] * times[c][x] : from[c][x];
    };
    if (times == std::array<const float*, 4>{})
        all([&](std::size_t c, std::size_t x) HWY_ATTR { return hn::LoadU(d, from[c] + x); });
    else
        all([&](std::size_t c, std::size_t x) HWY_ATTR {
            const auto v = hn::LoadU(d, from[c] + x);
            return times[c] ? hn::Mul(v, hn::LoadU(d, times[c] + x)) : v;
        });
}

void LayProduct(const float* from, const float* times, int width, float* to) {
    const D d;
    int x = 0;
    for (; x + lanes <= width; x += lanes)
        hn::StoreU(hn::Mul(hn::LoadU(d, from + x), hn::LoadU(d, times + x)), d, to + x);
    for (; x < width; ++x) to[x] = from[x] * times[x];
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(LaySideBySide);
HWY_EXPORT(LayProduct);
void lay_side_by_side(const std::array<const float*, 4>& from, const std::array<const float*, 4>& times,
                      int width, float* to) {
    HWY_DYNAMIC_DISPATCH(LaySideBySide)(from, times, width, to);
}
void lay_product(const float* from, const float* times, int width, float* to) {
    HWY_DYNAMIC_DISPATCH(LayProduct)(from, times, width, to);
}
} // namespace bathylux
#endif
