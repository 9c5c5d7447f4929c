#include "core/make/noise_simd.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/make/noise_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include <algorithm>

#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

using DU = hn::RebindToUnsigned<D>;
using VU = hn::Vec<DU>;

/// So many places are looked at together: what lies between the passes stays in the nearest cache.
constexpr std::size_t at_once = 64;

/// Of places along one way of the lattice: the lines of the cells before, at and after them, wrapped, and how
/// far they are past their own, in cells.
struct Lines {
    alignas(64) std::array<std::array<std::int32_t, at_once>, 3> line; // −1, 0 and 1 from the place's own
    alignas(64) std::array<float, at_once> past;

    Lines(const double* places, std::size_t count, double per, double shift, int period, bool before) {
        const hn::CappedTag<double, 8> d;
        const hn::Rebind<float, decltype(d)> df;
        const hn::Rebind<std::int32_t, decltype(d)> di;
        const auto each = hn::Set(d, period), one = hn::Set(d, 1.0), zero = hn::Zero(d);
        const auto wrapped = [&](auto at) HWY_ATTR {
            if (period <= 0) return at;
            const auto rest = hn::Sub(at, hn::Mul(each, hn::Floor(hn::Div(at, each))));
            // The division may have been rounded over a whole number.
            const auto up = hn::IfThenElse(hn::Lt(rest, zero), hn::Add(rest, each), rest);
            return hn::IfThenElse(hn::Ge(up, each), hn::Sub(up, each), up);
        };
        // Whole vectors of floats, which may be twice as many.
        for (std::size_t i = 0; i < (count + 15) / 16 * 16; i += hn::Lanes(d)) {
            const auto at = hn::Add(hn::Mul(hn::LoadU(d, places + i), hn::Set(d, per)), hn::Set(d, shift)),
                       own = hn::Floor(at);
            hn::Store(hn::DemoteTo(df, hn::Sub(at, own)), df, &past[i]);
            if (before) hn::Store(hn::DemoteTo(di, wrapped(hn::Sub(own, one))), di, &line[0][i]);
            hn::Store(hn::DemoteTo(di, wrapped(own)), di, &line[1][i]);
            hn::Store(hn::DemoteTo(di, wrapped(hn::Add(own, one))), di, &line[2][i]);
        }
    }
};

/// lattice_hash(), of products that are shared between neighbours.
HWY_INLINE VU HashOf(VU across, VU down, VU seed) {
    const DU du;
    VU h = hn::Xor(hn::Xor(across, down), seed);
    h = hn::Mul(hn::Xor(h, hn::ShiftRight<15>(h)), hn::Set(du, 0x2c1b3c6du));
    h = hn::Mul(hn::Xor(h, hn::ShiftRight<12>(h)), hn::Set(du, 0x297a2d39u));
    return hn::Xor(h, hn::ShiftRight<15>(h));
}

struct Products {
    std::uint32_t across = 0x9e3779b1u, down = 0x85ebca77u, seed;
    explicit Products(std::uint32_t of) : seed((of + 0x165667b1u) * 0xc2b2ae3du) {}
};
HWY_INLINE VU Product(const std::int32_t* line, std::uint32_t by) {
    const DU du;
    return hn::Mul(hn::BitCast(du, hn::Load(DI(), line)), hn::Set(du, by));
}

/// The sine of π a, a in −1…1, by a parabola refined once (error 1e-3).
HWY_INLINE V SineOfPi(V a) {
    const D d;
    const V s = hn::Mul(hn::Mul(hn::Set(d, 4.0f), a), hn::Sub(hn::Set(d, 1.0f), hn::Abs(a)));
    return hn::Add(s, hn::Mul(hn::Set(d, 0.225f), hn::Sub(hn::Mul(s, hn::Abs(s)), s)));
}

/// The gradient at a lattice point, dotted with the way from it.
HWY_INLINE V Gradient(VU hash, V x, V y) {
    const D d;
    const V t = hn::Mul(hn::ConvertTo(d, hn::BitCast(DI(), hash)),
                        hn::Set(d, 1.0f / 2147483648.0f)),
            quarter = hn::Add(t, hn::Set(d, 0.5f)),
            c = hn::IfThenElse(hn::Gt(quarter, hn::Set(d, 1.0f)), hn::Sub(quarter, hn::Set(d, 2.0f)),
                               quarter);
    return hn::Add(hn::Mul(SineOfPi(c), x), hn::Mul(SineOfPi(t), y));
}

HWY_INLINE V Fade(V t) {
    const D d;
    const V inner =
        hn::Add(hn::Mul(t, hn::Sub(hn::Mul(t, hn::Set(d, 6.0f)), hn::Set(d, 15.0f))), hn::Set(d, 10.0f));
    return hn::Mul(hn::Mul(hn::Mul(t, t), t), inner);
}

HWY_INLINE V Between(V a, V b, V t) { return hn::Add(a, hn::Mul(t, hn::Sub(b, a))); }

HWY_INLINE V GradientNoiseAt(const Lines& across, const Lines& down, std::size_t i, const Products& by) {
    const D d;
    const V one = hn::Set(d, 1.0f), x = hn::Load(d, &across.past[i]), y = hn::Load(d, &down.past[i]),
            x1 = hn::Sub(x, one), y1 = hn::Sub(y, one);
    const VU left = Product(&across.line[1][i], by.across), right = Product(&across.line[2][i], by.across),
             upper = Product(&down.line[1][i], by.down), lower = Product(&down.line[2][i], by.down),
             seed = hn::Set(DU(), by.seed);
    const V s = Fade(x),
            top = Between(Gradient(HashOf(left, upper, seed), x, y),
                          Gradient(HashOf(right, upper, seed), x1, y), s),
            bottom = Between(Gradient(HashOf(left, lower, seed), x, y1),
                             Gradient(HashOf(right, lower, seed), x1, y1), s);
    // Unit gradients reach √½ in the middle of a cell.
    return hn::Mul(hn::Set(d, 1.4142135f), Between(top, bottom, Fade(y)));
}

HWY_INLINE V CellNoiseAt(const Lines& across, const Lines& down, std::size_t i, const Products& by) {
    const D d;
    const DU du;
    const DI di;
    const V x = hn::Load(d, &across.past[i]), y = hn::Load(d, &down.past[i]),
            share = hn::Set(d, 1.0f / 65536.0f);
    const auto scattered = [&](VU bits)
                               HWY_ATTR { return hn::Mul(hn::ConvertTo(d, hn::BitCast(di, bits)), share); };
    V nearest = hn::Set(d, 4.0f);
    for (std::size_t v = 0; v < 3; ++v)
        for (std::size_t u = 0; u < 3; ++u) {
            const VU h = HashOf(Product(&across.line[u][i], by.across), Product(&down.line[v][i], by.down),
                                hn::Set(du, by.seed));
            const V px = hn::Sub(hn::Add(hn::Set(d, static_cast<float>(u) - 1),
                                         scattered(hn::And(h, hn::Set(du, 0xffffu)))),
                                 x),
                    py = hn::Sub(
                        hn::Add(hn::Set(d, static_cast<float>(v) - 1), scattered(hn::ShiftRight<16>(h))), y);
            nearest = hn::Min(nearest, hn::Add(hn::Mul(px, px), hn::Mul(py, py)));
        }
    return hn::Min(hn::Set(d, 1.0f), hn::Sqrt(nearest));
}

template <bool cells>
HWY_INLINE void NoiseAt(const Lattice& l, std::span<const double> u, std::span<const double> v,
                        std::span<float> out) {
    const D d;
    const Products by(l.seed);
    alignas(64) std::array<double, at_once> last_u{}, last_v{};
    alignas(64) std::array<float, at_once> made;
    for (std::size_t from = 0; from < out.size(); from += at_once) {
        const std::size_t count = std::min(at_once, out.size() - from);
        const double *pu = u.data() + from, *pv = v.data() + from;
        if (count < at_once) {
            std::copy_n(pu, count, last_u.begin()), std::copy_n(pv, count, last_v.begin());
            pu = last_u.data(), pv = last_v.data();
        }
        const Lines across(pu, count, l.per_u, l.shift_u, l.period_u, cells),
            down(pv, count, l.per_v, l.shift_v, l.period_v, cells);
        for (std::size_t i = 0; i < count; i += hn::Lanes(d))
            if constexpr (cells)
                hn::Store(CellNoiseAt(across, down, i, by), d, &made[i]);
            else
                hn::Store(GradientNoiseAt(across, down, i, by), d, &made[i]);
        std::copy_n(made.begin(), count, out.begin() + static_cast<std::ptrdiff_t>(from));
    }
}

void GradientNoise(const Lattice& lattice, std::span<const double> u, std::span<const double> v,
                   std::span<float> out) {
    NoiseAt<false>(lattice, u, v, out);
}
void CellNoise(const Lattice& lattice, std::span<const double> u, std::span<const double> v,
               std::span<float> out) {
    NoiseAt<true>(lattice, u, v, out);
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(GradientNoise);
HWY_EXPORT(CellNoise);
void gradient_noise(const Lattice& lattice, std::span<const double> u, std::span<const double> v,
                    std::span<float> out) {
    HWY_DYNAMIC_DISPATCH(GradientNoise)(lattice, u, v, out);
}
void cell_noise(const Lattice& lattice, std::span<const double> u, std::span<const double> v,
                std::span<float> out) {
    HWY_DYNAMIC_DISPATCH(CellNoise)(lattice, u, v, out);
}
} // namespace bathylux
#endif
