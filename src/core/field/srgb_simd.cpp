#include "core/field/srgb_simd.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/field/srgb_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/field/srgb.h"
#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

/// The curve for 0…1: a polynomial in the fourth root, in which it is nearly straight (Chebyshev's, fitted
/// for this; 5e-7).
HWY_INLINE V EncodeUnit(D d, V x) {
    const auto root = hn::Sqrt(hn::Sqrt(x));
    const auto curve = Polynomial(d, root,
                                  {0.0648733228f, -0.306036979f, 0.638769448f, -0.838965356f, 1.36022556f,
                                   0.140776783f, -0.0596417487f});
    return hn::IfThenElse(hn::Le(x, hn::Set(d, 0.0031308f)), hn::Mul(x, hn::Set(d, 12.92f)), curve);
}
HWY_INLINE V DecodeUnit(D d, V y) {
    const auto curve = Polynomial(d, y,
                                  {0.0560430922f, -0.25523743f, 0.511841297f, -0.639369667f, 0.795216024f,
                                   0.496140212f, 0.0344924778f, 0.000875111495f});
    return hn::IfThenElse(hn::Le(y, hn::Set(d, 0.04045f)), hn::Mul(y, hn::Set(d, 1 / 12.92f)), curve);
}

/// Odd-symmetric, and beyond 1, where the polynomials do not reach, number by number.
template <class Unit> HWY_INLINE V Extended(D d, V v, const Unit& unit, float (*exact)(float)) {
    const auto one = hn::Set(d, 1.0f), size = hn::Abs(v);
    auto out = hn::CopySign(unit(hn::Min(size, one)), v);
    if (!hn::AllFalse(d, hn::Gt(size, one))) {
        alignas(64) std::array<float, 16> in, made;
        hn::Store(v, d, in.data()), hn::Store(out, d, made.data());
        for (std::size_t i = 0; i < hn::Lanes(d); ++i)
            if (std::abs(in[i]) > 1) made[i] = exact(in[i]);
        out = hn::Load(d, made.data());
    }
    return out;
}

void EncodeRow(const std::array<const float*, 3>& from, const std::array<float*, 3>& to, const float* alpha,
               int width) {
    const D d;
    // Next to nothing is nothing: its inverse would be past all numbers.
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f), least = hn::Set(d, 1e-30f);
    const auto unit = [d](V x) { return EncodeUnit(d, x); };
    for (int x = 0; x < width; x += lanes) {
        auto k = one;
        if (alpha) {
            const auto a = hn::LoadU(d, alpha + x);
            k = hn::IfThenElse(hn::Gt(a, least), hn::Div(one, a), zero);
        }
        for (std::size_t c = 0; c < 3; ++c) {
            auto v = hn::LoadU(d, from[c] + x);
            if (alpha) v = hn::Mul(v, k);
            hn::StoreU(Extended(d, v, unit, srgb_encode), d, to[c] + x);
        }
    }
}

void DecodeRow(const std::array<float*, 3>& rgb, const float* alpha, int width, bool held) {
    const D d;
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f);
    const auto unit = [d](V x) { return DecodeUnit(d, x); };
    for (int x = 0; x < width; x += lanes) {
        for (float* row : rgb) {
            auto v = hn::LoadU(d, row + x);
            v = held ? DecodeUnit(d, hn::Min(one, hn::Max(zero, v))) : Extended(d, v, unit, srgb_decode);
            if (alpha) v = hn::Mul(v, hn::LoadU(d, alpha + x));
            hn::StoreU(v, d, row + x);
        }
    }
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(EncodeRow);
HWY_EXPORT(DecodeRow);
void encode_row(const std::array<const float*, 3>& from, const std::array<float*, 3>& to, const float* alpha,
                int width) {
    HWY_DYNAMIC_DISPATCH(EncodeRow)(from, to, alpha, width);
}
void decode_row(const std::array<float*, 3>& rgb, const float* alpha, int width, bool held) {
    HWY_DYNAMIC_DISPATCH(DecodeRow)(rgb, alpha, width, held);
}
} // namespace bathylux
#endif
