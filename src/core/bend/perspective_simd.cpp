#include "core/bend/perspective_simd.h"

#include <algorithm>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/bend/perspective_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

void PlacesInPerspective(const std::array<double, 9>& back, double x, double y, int n, float* to_x,
                         float* to_y) {
    const hn::CappedTag<double, 8> d;
    const hn::Rebind<float, decltype(d)> df;
    const auto set = [d](double v) HWY_ATTR { return hn::Set(d, v); };
    constexpr double nowhere = 1e9;
    // Of the place itself, not of the row's first, so that it is the same whatever part is asked for.
    const auto u = [&](std::size_t row) HWY_ATTR { return set(back[row + 1] * y + back[row + 2]); };
    const auto u0 = u(0), v0 = u(3), w0 = u(6);
    const auto held = [&](auto seen, auto v) HWY_ATTR {
        const auto within = hn::Min(set(nowhere), hn::Max(set(-nowhere), v));
        return hn::DemoteTo(df, hn::IfThenElse(seen, within, set(nowhere)));
    };
    const int at_once = static_cast<int>(hn::Lanes(d));
    for (int i = 0; i < n; i += at_once) {
        const auto k = CountedFrom(d, x + i);
        const auto along = [&](std::size_t row, auto from)
                               HWY_ATTR { return hn::Add(hn::Mul(k, set(back[row])), from); };
        const auto w = along(6, w0), by = hn::Div(set(1), w);
        const auto seen = hn::Gt(w, set(1e-9));
        const auto px = held(seen, hn::Mul(along(0, u0), by)), py = held(seen, hn::Mul(along(3, v0), by));
        if (i + at_once <= n) {
            hn::StoreU(px, df, to_x + i), hn::StoreU(py, df, to_y + i);
        } else {
            alignas(32) std::array<float, 8> last_x, last_y;
            hn::Store(px, df, last_x.data()), hn::Store(py, df, last_y.data());
            std::copy_n(last_x.data(), n - i, to_x + i), std::copy_n(last_y.data(), n - i, to_y + i);
        }
    }
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(PlacesInPerspective);
void places_in_perspective(const std::array<double, 9>& back, double x, double y, int n, float* to_x,
                           float* to_y) {
    HWY_DYNAMIC_DISPATCH(PlacesInPerspective)(back, x, y, n, to_x, to_y);
}
} // namespace bathylux
#endif
