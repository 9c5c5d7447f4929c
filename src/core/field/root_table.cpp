#include "core/field/root_table.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/field/root_table.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

constexpr int kRootTableSize = 4096;

/// True where some value lies outside 0…1 and has to be looked at again.
bool RootTableRow(const float* values, const float* steps, const float* from, const float* alpha, float* to,
                  int width) {
    const D d;
    const DI di;
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f), size = hn::Set(d, float{kRootTableSize});
    bool outside = false;
    for (int x = 0; x < width; x += lanes) {
        const auto given = hn::LoadU(d, from + x);
        auto v = given, a = one;
        if (alpha) {
            a = hn::LoadU(d, alpha + x);
            v = hn::Div(given, hn::Max(a, hn::Set(d, 1e-30f)));
        }
        const auto covered = hn::Gt(a, zero);
        const auto held = hn::Min(one, hn::Max(zero, v));
        const auto beyond = hn::And(covered, hn::Ne(held, v));
        const auto u = hn::Mul(hn::Sqrt(held), size);
        // Behind the row's end there may be anything, and no number too.
        const auto i = hn::Min(hn::Set(di, kRootTableSize), hn::Max(hn::Zero(di), hn::ConvertTo(di, u)));
        const auto f = hn::Sub(u, hn::ConvertTo(d, i));
        auto out = Fused(d, f, hn::GatherIndex(d, steps, i), hn::GatherIndex(d, values, i));
        if (alpha) out = hn::Mul(out, a);
        hn::StoreU(hn::IfThenElse(covered, out, given), d, to + x);
        if (!hn::AllFalse(d, beyond)) outside = true;
    }
    return outside;
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(RootTableRow);

RootTable::RootTable(const std::function<float(float)>& function) {
    constexpr int size = 4096;
    values_.resize(size + 1), steps_.resize(size + 1, 0.0f);
    for (int i = 0; i <= size; ++i) {
        const float s = static_cast<float>(i) / size;
        values_[static_cast<std::size_t>(i)] = function(s * s);
    }
    for (std::size_t i = 0; i < size; ++i) steps_[i] = values_[i + 1] - values_[i];
}

void RootTable::row(const float* from, const float* alpha, float* to, int width,
                    const std::function<float(float)>& function) const {
    if (!HWY_DYNAMIC_DISPATCH(RootTableRow)(values_.data(), steps_.data(), from, alpha, to, width)) return;
    for (int x = 0; x < width; ++x) {
        const float a = alpha ? alpha[x] : 1;
        if (!(a > 0)) continue;
        if (const float v = from[x] / a; !(v >= 0 && v <= 1)) to[x] = a * function(v);
    }
}

} // namespace bathylux
#endif
