#include <cmath>

#include "core/light/normals.h"
#include "core/light/shade.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/light/shade_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;
using D = hn::CappedTag<float, 16>;
using V = hn::Vec<D>;

// Nothing is fused and no approximation of the processor's own is used: every instruction set gives the
// same pixels. Roots and divisions have a unit of their own beside the multipliers; two roots and a division
// a light keep both about equally busy, a third root goes by Newton's method.

/// 1 ÷ √x for x > 0 from the integer estimate (constant by Lomont 2003) and two steps of Newton's method:
/// within 5e-6. A third of what an exact root and a division cost.
HWY_INLINE V InverseSqrt(D d, V x) {
    const hn::RebindToUnsigned<D> du;
    auto y = hn::BitCast(d, hn::Sub(hn::Set(du, 0x5f375a86u), hn::ShiftRight<1>(hn::BitCast(du, x))));
    const auto half = hn::Mul(hn::Set(d, 0.5f), x), three_halves = hn::Set(d, 1.5f);
    y = hn::Mul(y, hn::Sub(three_halves, hn::Mul(half, hn::Mul(y, y))));
    return hn::Mul(y, hn::Sub(three_halves, hn::Mul(half, hn::Mul(y, y))));
}

void NormalsRow(const float* above, const float* row, const float* below, int width, float per_px, float* nx,
                float* ny, float* nz) {
    const D d;
    const auto half = hn::Set(d, 0.5f * per_px), one = hn::Set(d, 1.0f);
    for (int x = 0; x < width; x += static_cast<int>(hn::Lanes(d))) {
        const auto gx = hn::Mul(half, hn::Sub(hn::LoadU(d, row + x - 1), hn::LoadU(d, row + x + 1)));
        const auto gy = hn::Mul(half, hn::Sub(hn::LoadU(d, below + x), hn::LoadU(d, above + x)));
        // One more step: normals are delivered, not only looked at.
        const auto x2 = hn::Add(hn::Add(hn::Mul(gx, gx), hn::Mul(gy, gy)), one);
        auto k = InverseSqrt(d, x2);
        k = hn::Mul(k, hn::Sub(hn::Set(d, 1.5f), hn::Mul(hn::Mul(hn::Set(d, 0.5f), x2), hn::Mul(k, k))));
        hn::StoreU(hn::Mul(gx, k), d, nx + x);
        hn::StoreU(hn::Mul(gy, k), d, ny + x);
        hn::StoreU(k, d, nz + x);
    }
}

/// What a surface with normal n sends to the viewer out of one light: f × max(0, n·l), without the
/// light's power. Symbols as in glTF 2.0, Appendix B; H = l + v is left unnormalised.
struct Material {
    V a2, one_minus_a2; // α², 1 − α²
    V f0[3], one_minus_f0[3];
    V diffuse[3]; // (1 − metallic) base ÷ π
};
struct Facing {
    V nx, ny, nz;
    V visible_v; // √(n·v² (1 − α²) + α²)
};

HWY_INLINE void AddLight(D d, const Material& m, const Facing& n, V lx, V ly, V lz, V power_scale,
                         const float* power, V* sum) {
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f);
    const auto ndl = hn::Max(zero, hn::Add(hn::Add(hn::Mul(n.nx, lx), hn::Mul(n.ny, ly)), hn::Mul(n.nz, lz)));
    const auto hz = hn::Add(lz, one);
    const auto h2 = hn::Max(hn::Add(hz, hz), hn::Set(d, 1e-12f)); // |l + v|² = 2 + 2 lz
    const auto vdh = hn::Mul(hn::Set(d, 0.5f), hn::Sqrt(h2));
    // n·h² (α² − 1) + 1 = (α² (n·H)² + |n × H|²) ÷ |H|², without the cancellation of the left side.
    const auto ndh = hn::Add(ndl, n.nz);
    const auto cx = hn::Sub(hn::Mul(n.ny, hz), hn::Mul(n.nz, ly));
    const auto cy = hn::Sub(hn::Mul(n.nz, lx), hn::Mul(n.nx, hz));
    const auto cz = hn::Sub(hn::Mul(n.nx, ly), hn::Mul(n.ny, lx));
    const auto cross2 = hn::Add(hn::Add(hn::Mul(cx, cx), hn::Mul(cy, cy)), hn::Mul(cz, cz));
    const auto t = hn::Max(hn::Add(hn::Mul(m.a2, hn::Mul(ndh, ndh)), cross2), hn::Set(d, 1e-9f));
    const auto visible_l2 = hn::Add(hn::Mul(hn::Mul(ndl, ndl), m.one_minus_a2), m.a2);
    const auto visible_l = hn::Sqrt(visible_l2);
    const auto smith =
        hn::Max(hn::Add(hn::Mul(ndl, n.visible_v), hn::Mul(n.nz, visible_l)), hn::Set(d, 1e-9f));
    // D V n·l = α² |H|⁴ ÷ (π t²) × 0.5 ÷ smith × n·l: one division.
    constexpr float half_over_pi = 0.15915494309f;
    const auto dv = hn::Div(hn::Mul(hn::Mul(hn::Mul(m.a2, hn::Set(d, half_over_pi)), hn::Mul(h2, h2)), ndl),
                            hn::Mul(hn::Mul(t, t), smith));
    const auto w = hn::Sub(one, hn::Min(vdh, one));
    const auto w2 = hn::Mul(w, w), w5 = hn::Mul(hn::Mul(w2, w2), w);
    for (int c = 0; c < 3; ++c) {
        // (1 − F) diffuse n·l + F D V n·l, with one product less.
        const auto diffuse = hn::Mul(m.diffuse[c], ndl);
        const auto f = hn::Add(m.f0[c], hn::Mul(m.one_minus_f0[c], w5));
        const auto out = hn::Add(diffuse, hn::Mul(f, hn::Sub(dv, diffuse)));
        sum[c] = hn::Add(sum[c], hn::Mul(hn::Mul(hn::Set(d, power[c]), power_scale), out));
    }
}

void ShadeRowKernel(const ShadeRow& row, const Lighting& lighting) {
    const D d;
    const int lanes = static_cast<int>(hn::Lanes(d));
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f);
    constexpr float inverse_pi = 0.31830988618f;
    for (int x = 0; x < row.width; x += lanes) {
        Facing n{hn::LoadU(d, row.nx + x), hn::LoadU(d, row.ny + x), hn::LoadU(d, row.nz + x), zero};
        const auto rough = hn::LoadU(d, row.roughness + x), metal = hn::LoadU(d, row.metallic + x);
        const auto height = hn::LoadU(d, row.height + x);
        const auto alpha = hn::Max(hn::Mul(rough, rough), hn::Set(d, least_alpha));
        Material m;
        m.a2 = hn::Mul(alpha, alpha);
        m.one_minus_a2 = hn::Sub(one, m.a2);
        n.visible_v = hn::Sqrt(hn::Add(hn::Mul(hn::Mul(n.nz, n.nz), m.one_minus_a2), m.a2));
        V base[3];
        const auto not_metal = hn::Sub(one, metal), plain = hn::Mul(hn::Set(d, 0.04f), not_metal);
        for (int c = 0; c < 3; ++c) {
            base[c] = hn::LoadU(d, row.base[c] + x);
            m.f0[c] = hn::Add(plain, hn::Mul(base[c], metal));
            m.one_minus_f0[c] = hn::Sub(one, m.f0[c]);
            m.diffuse[c] = hn::Mul(hn::Mul(base[c], not_metal), hn::Set(d, inverse_pi));
        }
        const auto px =
            hn::Add(hn::Set(d, row.x), hn::Mul(hn::Iota(d, static_cast<float>(x)), hn::Set(d, row.step)));
        const auto py = hn::Set(d, row.y);
        V sum[3] = {zero, zero, zero}, flat[3] = {zero, zero, zero};
        const Facing level{zero, zero, one, one}; // √(1 (1 − α²) + α²) = 1
        for (std::size_t l = 0; l < lighting.lamps.size(); ++l) {
            const Lamp& lamp = lighting.lamps[l];
            V lx, ly, lz, scale = one;
            if (lamp.directional) {
                lx = hn::Set(d, lamp.x), ly = hn::Set(d, lamp.y), lz = hn::Set(d, lamp.z);
            } else {
                const auto dx = hn::Sub(hn::Set(d, lamp.x), px), dy = hn::Sub(py, hn::Set(d, lamp.y));
                const auto dz = hn::Sub(hn::Set(d, lamp.z), height);
                const auto d2 = hn::Max(hn::Add(hn::Add(hn::Mul(dx, dx), hn::Mul(dy, dy)), hn::Mul(dz, dz)),
                                        hn::Set(d, 1e-12f));
                const auto inverse = InverseSqrt(d, d2);
                lx = hn::Mul(dx, inverse), ly = hn::Mul(dy, inverse), lz = hn::Mul(dz, inverse);
                if (lamp.falloff != Falloff::none) {
                    const auto k = hn::Mul(hn::Set(d, lamp.distance), inverse);
                    scale = lamp.falloff == Falloff::square ? hn::Mul(k, k) : k;
                }
                if (lamp.cone) {
                    // l points to the lamp, its axis away from it.
                    const auto cosine = hn::Neg(hn::Add(
                        hn::Add(hn::Mul(lx, hn::Set(d, lamp.axis[0])), hn::Mul(ly, hn::Set(d, lamp.axis[1]))),
                        hn::Mul(lz, hn::Set(d, lamp.axis[2]))));
                    const auto share =
                        hn::Min(one, hn::Max(zero, hn::Add(hn::Mul(cosine, hn::Set(d, lamp.cone_scale)),
                                                           hn::Set(d, lamp.cone_offset))));
                    scale = hn::Mul(scale, hn::Mul(share, share));
                }
            }
            const float* seen = l < row.seen.size() ? row.seen[l] : nullptr;
            AddLight(d, m, n, lx, ly, lz, seen ? hn::Mul(scale, hn::LoadU(d, seen + x)) : scale,
                     lamp.power.data(), sum);
            if (lighting.keep_flat_color) AddLight(d, m, level, lx, ly, lz, scale, lamp.power.data(), flat);
        }
        const auto sky = row.sky ? hn::LoadU(d, row.sky + x) : one;
        for (int c = 0; c < 3; ++c) {
            V out;
            if (lighting.keep_flat_color) {
                const auto enough = hn::Ge(flat[c], hn::Set(d, 1e-4f));
                const auto ratio = hn::Div(sum[c], hn::IfThenElse(enough, flat[c], one));
                out = hn::Mul(base[c], hn::IfThenElse(enough, ratio, one));
            } else {
                out = hn::Add(hn::Mul(sum[c], hn::Set(d, lighting.exposure)),
                              hn::Mul(hn::Mul(base[c], hn::Set(d, lighting.ambient[c])), sky));
            }
            hn::StoreU(out, d, row.out[c] + x);
        }
    }
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(NormalsRow);
HWY_EXPORT(ShadeRowKernel);
void normals_row(const float* above, const float* row, const float* below, int width, float per_px, float* nx,
                 float* ny, float* nz) {
    HWY_DYNAMIC_DISPATCH(NormalsRow)(above, row, below, width, per_px, nx, ny, nz);
}
void shade_row(const ShadeRow& row, const Lighting& lighting) {
    HWY_DYNAMIC_DISPATCH(ShadeRowKernel)(row, lighting);
}
} // namespace bathylux
#endif
