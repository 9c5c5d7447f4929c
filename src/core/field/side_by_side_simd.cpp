#include "core/field/side_by_side_simd.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/field/side_by_side_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

void LaySideBySide(const std::array<const float*, 4>& from, int width, float* to) {
    const D d;
    const auto n = static_cast<std::size_t>(width);
    std::size_t x = 0;
    for (; x + hn::Lanes(d) <= n; x += hn::Lanes(d))
        hn::StoreInterleaved4(hn::LoadU(d, from[0] + x), hn::LoadU(d, from[1] + x), hn::LoadU(d, from[2] + x),
                              hn::LoadU(d, from[3] + x), d, to + 4 * x);
    for (; x < n; ++x)
        for (std::size_t c = 0; c < 4; ++c) to[4 * x + c] = from[c][x];
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(LaySideBySide);
void lay_side_by_side(const std::array<const float*, 4>& from, int width, float* to) {
    HWY_DYNAMIC_DISPATCH(LaySideBySide)(from, width, to);
}
} // namespace bathylux
#endif
