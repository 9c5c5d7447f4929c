#include "core/field/median_simd.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/field/median_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

void ExchangeInColumn(std::uint16_t* HWY_RESTRICT column, int enters, int leaves) {
    // Classes outside [low, high) gain as much as they lose.
    const int low = enters < leaves ? enters : leaves, high = enters < leaves ? leaves : enters;
    const auto by = static_cast<std::uint16_t>(enters < leaves ? 1 : -1);
    const hn::CappedTag<std::uint16_t, 16> d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    int b = low;
    const auto add = hn::Set(d, by);
    for (; b + lanes <= high; b += lanes) hn::StoreU(hn::Add(hn::LoadU(d, column + b), add), d, column + b);
    for (; b < high; ++b) column[b] = static_cast<std::uint16_t>(column[b] + by);
}

void SlideWindow(std::uint32_t* HWY_RESTRICT sum, const std::uint16_t* HWY_RESTRICT add,
                 const std::uint16_t* HWY_RESTRICT subtract) {
    const hn::CappedTag<std::uint32_t, 8> d;
    const hn::Rebind<std::uint16_t, decltype(d)> half;
    for (int b = 0; b < median_classes; b += static_cast<int>(hn::Lanes(d))) {
        const auto more = hn::PromoteTo(d, hn::LoadU(half, add + b)),
                   less = hn::PromoteTo(d, hn::LoadU(half, subtract + b));
        hn::StoreU(hn::Add(hn::LoadU(d, sum + b), hn::Sub(more, less)), d, sum + b);
    }
}

int NthInWindow(const std::int16_t* HWY_RESTRICT x, const std::int16_t* HWY_RESTRICT y, int count, int x0,
                int x1, int y0, int y1, int n) {
    const hn::CappedTag<std::int16_t, 16> d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    const auto lx = hn::Set(d, static_cast<std::int16_t>(x0)), hx = hn::Set(d, static_cast<std::int16_t>(x1)),
               ly = hn::Set(d, static_cast<std::int16_t>(y0)), hy = hn::Set(d, static_cast<std::int16_t>(y1));
    // Arrays may be read up to the next multiple of 16.
    for (int i = 0; i < count; i += lanes) {
        const auto vx = hn::LoadU(d, x + i), vy = hn::LoadU(d, y + i);
        const auto in =
            hn::Not(hn::Or(hn::Or(hn::Gt(lx, vx), hn::Gt(vx, hx)), hn::Or(hn::Gt(ly, vy), hn::Gt(vy, hy))));
        std::uint8_t bytes[8] = {};
        hn::StoreMaskBits(d, in, bytes);
        unsigned bits = bytes[0] | bytes[1] << 8;
        if (i + lanes > count) bits &= (1u << (count - i)) - 1;
        const int found = __builtin_popcount(bits);
        if (n >= found) {
            n -= found;
            continue;
        }
        while (n-- > 0) bits &= bits - 1;
        return i + __builtin_ctz(bits);
    }
    return count - 1;
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(ExchangeInColumn);
HWY_EXPORT(SlideWindow);
HWY_EXPORT(NthInWindow);
void exchange_in_column(std::uint16_t* column, int enters, int leaves) {
    HWY_DYNAMIC_DISPATCH(ExchangeInColumn)(column, enters, leaves);
}
void slide_window(std::uint32_t* sum, const std::uint16_t* add, const std::uint16_t* subtract) {
    HWY_DYNAMIC_DISPATCH(SlideWindow)(sum, add, subtract);
}
int nth_in_window(const std::int16_t* x, const std::int16_t* y, int count, int x0, int x1, int y0, int y1,
                  int n) {
    return HWY_DYNAMIC_DISPATCH(NthInWindow)(x, y, count, x0, x1, y0, y1, n);
}
} // namespace bathylux
#endif
