// Functions of vectors for kernels, compiled once per instruction set (see Highway's *-inl.h). What is fused
// is fused everywhere, and nothing of the processor's own approximations is used: every instruction set gives
// the same values.
#if defined(BATHYLUX_VECTOR_MATH_INL_H_) == defined(HWY_TARGET_TOGGLE)
#ifdef BATHYLUX_VECTOR_MATH_INL_H_
#undef BATHYLUX_VECTOR_MATH_INL_H_
#else
#define BATHYLUX_VECTOR_MATH_INL_H_
#endif
#include <hwy/highway.h>

#include <array>
#include <cmath>

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;
using D = hn::CappedTag<float, 16>;
using V = hn::Vec<D>;
using DI = hn::RebindToSigned<D>;
constexpr int lanes = static_cast<int>(hn::MaxLanes(D()));

#if (HWY_ARCH_X86 && HWY_TARGET <= HWY_AVX2) || (HWY_ARCH_ARM_A64 && HWY_TARGET <= HWY_NEON)
template <class Tag, class Vector> HWY_INLINE Vector Fused(Tag, Vector a, Vector b, Vector c) {
    return hn::MulAdd(a, b, c);
}
template <class Tag, class Vector> HWY_INLINE Vector Less(Tag, Vector a, Vector b, Vector c) {
    return hn::NegMulAdd(a, b, c);
}
#else
/// a b + c, rounded once. A processor that fuses nothing does it number by number: slow, but the same bits.
/// Called, not inlined: kernels that are slow in any case would be most of what is compiled.
template <class Tag, class Vector> HWY_NOINLINE Vector Fused(Tag d, Vector a, Vector b, Vector c) {
    alignas(64) std::array<float, 16> p, q, r;
    hn::Store(a, d, p.data()), hn::Store(b, d, q.data()), hn::Store(c, d, r.data());
    for (std::size_t i = 0; i < hn::Lanes(d); ++i) r[i] = std::fma(p[i], q[i], r[i]);
    return hn::Load(d, r.data());
}
/// c − a b, rounded once.
template <class Tag, class Vector> HWY_NOINLINE Vector Less(Tag d, Vector a, Vector b, Vector c) {
    return Fused(d, hn::Neg(a), b, c);
}
#endif

/// first, first + 1, first + 2 …: Highway's Iota of what is not a constant writes number by number, and then
/// waits for all of them to be in memory.
template <class Tag> HWY_INLINE hn::Vec<Tag> CountedFrom(Tag d, hn::TFromD<Tag> first) {
    return hn::Add(hn::Set(d, first), hn::Iota(d, 0));
}

template <std::size_t N> HWY_INLINE V Polynomial(D d, V x, const float (&c)[N]) {
    auto p = hn::Set(d, c[0]);
    for (std::size_t i = 1; i < N; ++i) p = Fused(d, p, x, hn::Set(d, c[i]));
    return p;
}

/// 1 ÷ √x for x > 0 from the integer estimate (constant by Lomont 2003) and two steps of Newton's method:
/// within 5e-6. A third of what an exact root and a division cost.
HWY_INLINE V InverseSqrt(D d, V x) {
    const hn::RebindToUnsigned<D> du;
    auto y = hn::BitCast(d, hn::Sub(hn::Set(du, 0x5f375a86u), hn::ShiftRight<1>(hn::BitCast(du, x))));
    const auto half = hn::Mul(hn::Set(d, 0.5f), x), three_halves = hn::Set(d, 1.5f);
    y = hn::Mul(y, Less(d, half, hn::Mul(y, y), three_halves));
    return hn::Mul(y, Less(d, half, hn::Mul(y, y), three_halves));
}

/// atan for x in −1…1 within 1e-5 (Hastings 1955).
HWY_INLINE V ArctangentOfUnit(D d, V x) {
    return hn::Mul(
        x, Polynomial(d, hn::Mul(x, x), {0.0208351f, -0.0851330f, 0.1801410f, -0.3302995f, 0.9998660f}));
}

/// atan within 1e-5: the complement beyond 1.
HWY_INLINE V Arctangent(D d, V x) {
    const auto one = hn::Set(d, 1.0f), a = hn::Abs(x);
    const auto beyond = hn::Gt(a, one);
    const auto t = hn::IfThenElse(beyond, hn::Div(one, a), a);
    const auto p = ArctangentOfUnit(d, t);
    return hn::CopySign(hn::IfThenElse(beyond, hn::Sub(hn::Set(d, 1.57079633f), p), p), x);
}

/// sin x for |x| ≤ π ÷ 2, within 4e-6: Taylor to the ninth order.
HWY_INLINE V Sine(D d, V x) {
    return hn::Mul(
        x, Polynomial(d, hn::Mul(x, x), {2.7557319e-6f, -1.9841270e-4f, 8.3333333e-3f, -0.16666667f, 1.0f}));
}

/// tan x for |x| < π ÷ 2.
HWY_INLINE V Tangent(D d, V x) {
    const auto cosine = Sine(d, hn::Sub(hn::Set(d, 1.57079633f), hn::Abs(x)));
    return hn::Div(Sine(d, x), hn::Max(cosine, hn::Set(d, 1e-6f)));
}

/// log₂ x for x > 0: the exponent, and the mantissa's logarithm as a series in (m − 1) ÷ (m + 1); within
/// 2e-6.
HWY_INLINE V Log2(D d, V x) {
    const hn::RebindToSigned<D> di;
    const auto bits = hn::BitCast(di, x);
    // Mantissa in √½ … √2.
    const auto shifted = hn::Sub(bits, hn::Set(di, 0x3f3504f3));
    const auto exponent = hn::ShiftRight<23>(shifted);
    const auto m = hn::BitCast(d, hn::Sub(bits, hn::ShiftLeft<23>(exponent)));
    const auto one = hn::Set(d, 1.0f), t = hn::Div(hn::Sub(m, one), hn::Add(m, one));
    const auto series =
        hn::Mul(t, Polynomial(d, hn::Mul(t, t), {0.41219858f, 0.57707802f, 0.96179669f, 2.88539008f}));
    return hn::Add(hn::ConvertTo(d, exponent), series);
}

/// 2^x for x in −126 … 126: Taylor of the fraction about 0, |f| ≤ ½; within 4e-7 of the value.
HWY_INLINE V Exp2(D d, V x) {
    const hn::RebindToSigned<D> di;
    const auto held = hn::Min(hn::Set(d, 126.0f), hn::Max(hn::Set(d, -126.0f), x));
    const auto whole = hn::Round(held), f = hn::Sub(held, whole);
    const auto p = Polynomial(
        d, f, {1.5403530e-4f, 1.3333558e-3f, 9.6181291e-3f, 5.5504109e-2f, 0.24022651f, 0.69314718f, 1.0f});
    return hn::Mul(p, hn::BitCast(d, hn::ShiftLeft<23>(hn::Add(hn::ConvertTo(di, whole), hn::Set(di, 127)))));
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
