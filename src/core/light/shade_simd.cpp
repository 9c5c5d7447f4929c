#include <cmath>

#include "core/light/normals.h"
#include "core/light/shade.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/light/shade_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

// No approximation of the processor's own is used: every instruction set gives the same pixels. Roots and
// divisions have a unit of their own beside the multipliers; two roots and a division a light keep both about
// equally busy, a third root goes by Newton's method.

void NormalsRow(const float* above, const float* row, const float* below, int width, float per_px, float* nx,
                float* ny, float* nz) {
    const D d;
    const auto half = hn::Set(d, 0.5f * per_px), one = hn::Set(d, 1.0f);
    for (int x = 0; x < width; x += lanes) {
        const auto gx = hn::Mul(half, hn::Sub(hn::LoadU(d, row + x - 1), hn::LoadU(d, row + x + 1)));
        const auto gy = hn::Mul(half, hn::Sub(hn::LoadU(d, below + x), hn::LoadU(d, above + x)));
        // One more step: normals are exported, not only looked at.
        const auto x2 = hn::Add(Fused(d, gy, gy, hn::Mul(gx, gx)), one);
        auto k = InverseSqrt(d, x2);
        k = hn::Mul(k, Less(d, hn::Mul(hn::Set(d, 0.5f), x2), hn::Mul(k, k), hn::Set(d, 1.5f)));
        hn::StoreU(hn::Mul(gx, k), d, nx + x);
        hn::StoreU(hn::Mul(gy, k), d, ny + x);
        hn::StoreU(k, d, nz + x);
    }
}

/// What a surface with normal n sends to the viewer out of one light: f × max(0, n·l), without the
/// light's power. Symbols as in glTF 2.0, Appendix B; H = l + v is left unnormalised.
struct Lobe {
    V a2, one_minus_a2; // α², 1 − α²
    V visible_v;        // √(n·v² (1 − α²) + α²)
};
struct Material {
    Lobe lobe;
    V f0[3], rise[3]; // F0, F90 − F0
    V diffuse[3];     // (1 − metallic) base ÷ π
    V shine;          // 1, or 0 where highlights do not count
    bool whole;       // all light counts
    // KHR_materials_clearcoat: its weight here, and its lobe. KHR_materials_sheen: colour, what it leaves to
    // the base, 1 ÷ α.
    V coat, under_coat;
    Lobe coat_lobe;
    V sheen[3], under_sheen, sheen_power;
};
struct Facing {
    V nx, ny, nz;
};

HWY_INLINE Lobe MakeLobe(D d, V a2, V nz) {
    Lobe out;
    out.a2 = a2;
    out.one_minus_a2 = hn::Sub(hn::Set(d, 1.0f), a2);
    out.visible_v = hn::Sqrt(Fused(d, hn::Mul(nz, nz), out.one_minus_a2, a2));
    return out;
}

/// The lobe of a light that covers a disc of angular radius δ: the half vector moves by δ ÷ 2, and a disc's
/// spread is somewhat less than its radius.
HWY_INLINE Lobe Widened(D d, const Lobe& lobe, V nz, V delta2) {
    return MakeLobe(d, hn::Min(hn::Set(d, 1.0f), Fused(d, hn::Set(d, 0.2f), delta2, lobe.a2)), nz);
}

/// What all lobes want to know of a direction to a light.
struct Toward {
    V ndl, h2, cross2, ndh, w5;
};
HWY_INLINE Toward Look(D d, const Facing& n, V lx, V ly, V lz) {
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f);
    Toward t;
    t.ndl = hn::Max(zero, Fused(d, n.nz, lz, Fused(d, n.ny, ly, hn::Mul(n.nx, lx))));
    const auto hz = hn::Add(lz, one);
    t.h2 = hn::Max(hn::Add(hz, hz), hn::Set(d, 1e-12f)); // |l + v|² = 2 + 2 lz
    const auto vdh = hn::Mul(hn::Set(d, 0.5f), hn::Sqrt(t.h2));
    t.ndh = hn::Add(t.ndl, n.nz);
    const auto cx = Less(d, n.nz, ly, hn::Mul(n.ny, hz));
    const auto cy = Less(d, n.nx, hz, hn::Mul(n.nz, lx));
    const auto cz = Less(d, n.ny, lx, hn::Mul(n.nx, ly));
    t.cross2 = Fused(d, cz, cz, Fused(d, cy, cy, hn::Mul(cx, cx)));
    const auto w = hn::Sub(one, hn::Min(vdh, one));
    const auto w2 = hn::Mul(w, w);
    t.w5 = hn::Mul(hn::Mul(w2, w2), w);
    return t;
}

/// D V n·l.
HWY_INLINE V Shine(D d, const Lobe& lobe, const Toward& l, V nz) {
    // n·h² (α² − 1) + 1 = (α² (n·H)² + |n × H|²) ÷ |H|², without the cancellation of the left side.
    const auto t = hn::Max(Fused(d, lobe.a2, hn::Mul(l.ndh, l.ndh), l.cross2), hn::Set(d, 1e-9f));
    const auto visible_l2 = Fused(d, hn::Mul(l.ndl, l.ndl), lobe.one_minus_a2, lobe.a2);
    const auto visible_l = hn::Sqrt(visible_l2);
    const auto smith = hn::Max(Fused(d, nz, visible_l, hn::Mul(l.ndl, lobe.visible_v)), hn::Set(d, 1e-9f));
    // α² |H|⁴ ÷ (π t²) × 0.5 ÷ smith × n·l: one division.
    constexpr float half_over_pi = 0.15915494309f;
    return hn::Div(hn::Mul(hn::Mul(hn::Mul(lobe.a2, hn::Set(d, half_over_pi)), hn::Mul(l.h2, l.h2)), l.ndl),
                   hn::Mul(hn::Mul(t, t), smith));
}

/// D V n·l of the sheen (Estevez & Kulla 2017; visibility by Neubelt & Pettineo 2013).
HWY_INLINE V Soft(D d, const Material& m, const Toward& l, V nz) {
    const auto one = hn::Set(d, 1.0f);
    // sin² of n to h = |n × H|² ÷ |H|².
    const auto sin2 = hn::Max(hn::Set(d, 1e-12f), hn::Min(one, hn::Div(l.cross2, l.h2)));
    const auto power = Exp2(d, hn::Mul(hn::Mul(hn::Set(d, 0.5f), m.sheen_power), Log2(d, sin2)));
    constexpr float one_over_two_pi = 0.15915494309f;
    const auto lobe =
        hn::Mul(hn::Mul(hn::Add(hn::Set(d, 2.0f), m.sheen_power), hn::Set(d, one_over_two_pi)), power);
    const auto seen = hn::Mul(hn::Set(d, 4.0f), Less(d, l.ndl, nz, hn::Add(l.ndl, nz)));
    return hn::Div(hn::Mul(lobe, l.ndl), hn::Max(seen, hn::Set(d, 1e-6f)));
}

/// Adds what comes of one direction: `scale` is what arrives, times the light's power; `dv` and `coat` the
/// lobes.
template <bool kRich, bool kMatte>
HWY_INLINE void AddLobes(D d, const Material& m, const Facing& n, const Toward& l, V dv, V coat, V scale,
                         const float* power, V* sum) {
    const auto soft = kRich ? Soft(d, m, l, n.nz) : dv;
    for (int c = 0; c < 3; ++c) {
        const auto f = Fused(d, m.rise[c], l.w5, m.f0[c]);
        auto out = hn::Mul(f, dv);
        if (kMatte) {
            // (1 − F) diffuse n·l + F D V n·l, with one product less.
            const auto diffuse = hn::Mul(m.diffuse[c], l.ndl);
            out = Fused(d, f, hn::Sub(dv, diffuse), diffuse);
        }
        if (kRich) {
            out = Fused(d, hn::Mul(m.sheen[c], soft), m.shine, hn::Mul(out, m.under_sheen));
            out = Fused(d, m.coat, coat, hn::Mul(out, m.under_coat));
        }
        sum[c] = Fused(d, hn::Mul(hn::Set(d, power[c]), scale), out, sum[c]);
    }
}

template <bool kRich>
HWY_INLINE void AddLight(D d, const Material& m, const Facing& n, V lx, V ly, V lz, V scale,
                         const float* power, bool wide, V delta2, V* sum) {
    const auto l = Look(d, n, lx, ly, lz);
    auto shine = Shine(d, wide ? Widened(d, m.lobe, n.nz, delta2) : m.lobe, l, n.nz);
    if (!m.whole) shine = hn::Mul(m.shine, shine);
    auto coat = shine;
    if (kRich)
        coat =
            hn::Mul(m.shine, Shine(d, wide ? Widened(d, m.coat_lobe, n.nz, delta2) : m.coat_lobe, l, n.nz));
    AddLobes<kRich, true>(d, m, n, l, shine, coat, scale, power, sum);
}

/// Nodes and weights of Gauss–Legendre quadrature on −1…1.
constexpr float nodes4[4] = {-0.8611363116f, -0.3399810436f, 0.3399810436f, 0.8611363116f};
constexpr float weights4[4] = {0.3478548451f, 0.6521451549f, 0.6521451549f, 0.3478548451f};
constexpr float nodes8[8] = {-0.9602898565f, -0.7966664774f, -0.5255324099f, -0.1834346425f,
                             0.1834346425f,  0.5255324099f,  0.7966664774f,  0.9602898565f};
constexpr float weights8[8] = {0.1012285363f, 0.2223810345f, 0.3137066459f, 0.3626837834f,
                               0.3626837834f, 0.3137066459f, 0.2223810345f, 0.1012285363f};

/// A strip as seen from a place.
struct Bar {
    const Lamp& lamp;
    V x, y, z;    // from the place to the middle, y up
    V ux, uy, uz; // unit vector along it
};

/// Adds an integral over the strip, gathered about `at` with the width `width` (px along it): s = at + width
/// tan θ.
template <bool kRich, int kCount, bool kMatte>
HWY_INLINE void AddAlong(D d, const Material& m, const Facing& n, const Bar& bar, V at, V width, V seen,
                         const float (&nodes)[kCount], const float (&weights)[kCount], V* sum) {
    const Lamp& lamp = bar.lamp;
    const auto half = hn::Set(d, lamp.half_length), zero = hn::Zero(d), one = hn::Set(d, 1.0f);
    const auto inverse_width = hn::Div(one, width);
    const auto from = Arctangent(d, hn::Mul(hn::Sub(hn::Neg(half), at), inverse_width));
    const auto to = Arctangent(d, hn::Mul(hn::Sub(half, at), inverse_width));
    const auto middle = hn::Mul(hn::Set(d, 0.5f), hn::Add(from, to)),
               reach = hn::Mul(hn::Set(d, 0.5f), hn::Sub(to, from));
    for (int i = 0; i < kCount; ++i) {
        const auto tangent = Tangent(d, Fused(d, hn::Set(d, nodes[i]), reach, middle));
        const auto s = Fused(d, width, tangent, at);
        // ds = width (1 + tan²) dθ, ÷ the length.
        auto share = hn::Mul(hn::Mul(width, Fused(d, tangent, tangent, one)),
                             hn::Mul(reach, hn::Set(d, weights[i] * 0.5f / lamp.half_length)));
        const auto dx = Fused(d, s, bar.ux, bar.x), dy = Fused(d, s, bar.uy, bar.y),
                   dz = Fused(d, s, bar.uz, bar.z);
        const auto d2 = hn::Max(Fused(d, dz, dz, Fused(d, dy, dy, hn::Mul(dx, dx))), hn::Set(d, 1e-12f));
        const auto inverse = InverseSqrt(d, d2);
        if (lamp.falloff != Falloff::none) {
            const auto k = hn::Mul(hn::Set(d, lamp.distance), inverse);
            share = hn::Mul(share, lamp.falloff == Falloff::square ? hn::Mul(k, k) : k);
        }
        const auto l = Look(d, n, hn::Mul(dx, inverse), hn::Mul(dy, inverse), hn::Mul(dz, inverse));
        const auto scale = hn::Mul(seen, share);
        if (kMatte) {
            Material dull = m;
            dull.shine = zero;
            AddLobes<kRich, true>(d, dull, n, l, zero, zero, scale, lamp.power.data(), sum);
            continue;
        }
        const auto delta = hn::Mul(hn::Set(d, 0.5f * lamp.size), inverse), delta2 = hn::Mul(delta, delta);
        const auto shine = hn::Mul(m.shine, Shine(d, Widened(d, m.lobe, n.nz, delta2), l, n.nz));
        const auto coat =
            kRich ? hn::Mul(m.shine, Shine(d, Widened(d, m.coat_lobe, n.nz, delta2), l, n.nz)) : zero;
        AddLobes<kRich, false>(d, m, n, l, shine, coat, scale, lamp.power.data(), sum);
    }
}

template <bool kRich>
HWY_INLINE void AddStrip(D d, const Material& m, const Facing& n, const Bar& bar, V seen, V* sum) {
    const Lamp& lamp = bar.lamp;
    const auto one = hn::Set(d, 1.0f);
    const V x = bar.x, y = bar.y, z = bar.z, ux = bar.ux, uy = bar.uy, uz = bar.uz;
    const auto r2 = Fused(d, z, z, Fused(d, y, y, hn::Mul(x, x)));
    const auto along = Fused(d, z, uz, Fused(d, y, uy, hn::Mul(x, ux)));
    // Diffuse light: about the foot, as wide as the strip is away.
    const auto foot = hn::Neg(along);
    const auto away = hn::Sqrt(hn::Max(Less(d, along, along, r2), hn::Set(d, 1.0f)));
    AddAlong<kRich, 4, true>(d, m, n, bar, foot, away, seen, nodes4, weights4, sum);
    // Highlights: about the place nearest to the mirrored view r = 2 (n·v) n − v (Karis 2013), as wide as the
    // lobe.
    const auto rx = hn::Mul(hn::Add(n.nz, n.nz), n.nx), ry = hn::Mul(hn::Add(n.nz, n.nz), n.ny),
               rz = hn::Sub(hn::Mul(hn::Add(n.nz, n.nz), n.nz), one);
    const auto ru = Fused(d, rz, uz, Fused(d, ry, uy, hn::Mul(rx, ux)));
    const auto rc = Fused(d, rz, z, Fused(d, ry, y, hn::Mul(rx, x)));
    const auto across = hn::Max(Less(d, ru, ru, one), hn::Set(d, 1e-3f));
    const auto half = hn::Set(d, lamp.half_length);
    const auto mirror =
        hn::Min(half, hn::Max(hn::Neg(half), hn::Div(hn::Sub(hn::Mul(rc, ru), along), across)));
    const auto px = Fused(d, mirror, ux, x), py = Fused(d, mirror, uy, y), pz = Fused(d, mirror, uz, z);
    const auto p2 = Fused(d, pz, pz, Fused(d, py, py, hn::Mul(px, px)));
    const auto distance = hn::Sqrt(hn::Max(p2, hn::Set(d, 1.0f)));
    const auto radius = hn::Set(d, 0.5f * lamp.size);
    auto a2 = m.lobe.a2;
    if (kRich) a2 = hn::IfThenElse(hn::Gt(m.coat, hn::Zero(d)), hn::Min(a2, m.coat_lobe.a2), a2);
    const auto lobe = Fused(d, hn::Set(d, 2.0f), hn::Mul(hn::Sqrt(a2), distance), radius);
    const auto off2 = Less(d, rc, rc, r2); // how far the mirrored view passes by
    const auto beside = hn::Sqrt(hn::Max(hn::Min(off2, p2), hn::Zero(d)));
    const auto width =
        hn::Max(Fused(d, hn::Set(d, 0.25f), hn::Min(beside, distance), lobe), hn::Set(d, 0.5f));
    AddAlong<kRich, 8, false>(d, m, n, bar, mirror, width, seen, nodes8, weights8, sum);
}

template <bool kRich>
HWY_INLINE Material MakeMaterial(D d, const MaterialRow& row, int x, V nz, const V* base,
                                 const Counted& counted) {
    const auto one = hn::Set(d, 1.0f), zero = hn::Zero(d);
    constexpr float inverse_pi = 0.31830988618f;
    const auto rough = hn::LoadU(d, row.roughness + x), metal = hn::LoadU(d, row.metallic + x);
    const auto alpha = hn::Max(hn::Mul(rough, rough), hn::Set(d, least_alpha));
    Material m;
    m.lobe = MakeLobe(d, hn::Mul(alpha, alpha), nz);
    const auto not_metal = hn::Sub(one, metal);
    const auto specular = row.specular ? hn::LoadU(d, row.specular + x) : one;
    const auto plain = hn::Mul(hn::Mul(hn::Set(d, 0.04f), not_metal), specular);
    const auto f90 = Fused(d, not_metal, specular, metal);
    const auto matte = hn::Set(d, counted.diffuse ? inverse_pi : 0.0f);
    m.shine = counted.highlights ? one : zero;
    m.whole = counted.highlights;
    for (int c = 0; c < 3; ++c) {
        m.f0[c] = Fused(d, base[c], metal, plain);
        m.rise[c] = hn::Sub(f90, m.f0[c]);
        m.diffuse[c] = hn::Mul(hn::Mul(base[c], not_metal), matte);
    }
    if (!kRich) return m;
    // The coat's Fresnel is that of the view: 0.04 + 0.96 (1 − n·v)⁵.
    const auto w = hn::Sub(one, nz), w2 = hn::Mul(w, w), w5 = hn::Mul(hn::Mul(w2, w2), w);
    m.coat = row.coat
                 ? hn::Mul(hn::LoadU(d, row.coat + x), Fused(d, hn::Set(d, 0.96f), w5, hn::Set(d, 0.04f)))
                 : zero;
    m.under_coat = hn::Sub(one, m.coat);
    const auto coat_rough = row.coat_roughness ? hn::LoadU(d, row.coat_roughness + x) : zero;
    const auto coat_alpha = hn::Max(hn::Mul(coat_rough, coat_rough), hn::Set(d, least_alpha));
    m.coat_lobe = MakeLobe(d, hn::Mul(coat_alpha, coat_alpha), nz);
    const auto sheen = row.sheen ? hn::LoadU(d, row.sheen + x) : zero;
    const auto tint = row.sheen_tint ? hn::LoadU(d, row.sheen_tint + x) : zero;
    auto most = zero;
    for (int c = 0; c < 3; ++c) {
        m.sheen[c] = hn::Mul(sheen, Fused(d, tint, hn::Sub(base[c], one), one));
        most = hn::Max(most, m.sheen[c]);
    }
    const auto sheen_rough = row.sheen_roughness ? hn::LoadU(d, row.sheen_roughness + x) : hn::Set(d, 0.5f);
    m.sheen_power = hn::Div(one, hn::Max(hn::Mul(sheen_rough, sheen_rough), hn::Set(d, 1e-3f)));
    // What the sheen takes is gone for the base: from a table, place by place.
    alignas(64) std::array<float, 16> facing{}, roughness{}, strength{}, share{};
    hn::StoreU(nz, d, facing.data()), hn::StoreU(sheen_rough, d, roughness.data()),
        hn::StoreU(most, d, strength.data());
    for (std::size_t i = 0; i < hn::Lanes(d); ++i)
        share[i] = strength[i] > 0 ? 1 - strength[i] * sheen_share(facing[i], roughness[i]) : 1;
    m.under_sheen = hn::LoadU(d, share.data());
    return m;
}

/// A direction in space as it lies to the view of every px.
HWY_INLINE Facing Turned(D d, const ShadeRow::Space& space, int x, V dx, V dy, V dz) {
    const auto along = [&](const std::array<const float*, 3>& axis) {
        return Fused(d, dz, hn::LoadU(d, axis[2] + x),
                     Fused(d, dy, hn::LoadU(d, axis[1] + x), hn::Mul(dx, hn::LoadU(d, axis[0] + x))));
    };
    return {along(space.right), along(space.up), along(space.towards)};
}

/// `kInSpace`: places lie anywhere, and are seen from anywhere (ShadeRow::space).
template <bool kRich, bool kInSpace>
HWY_INLINE void ShadeRowOf(const ShadeRow& row, const Lighting& lighting) {
    const D d;
    const auto zero = hn::Zero(d), one = hn::Set(d, 1.0f);
    const Counted& counted = lighting.counted;
    for (int x = 0; x < row.width; x += lanes) {
        const Facing n{hn::LoadU(d, row.nx + x), hn::LoadU(d, row.ny + x), hn::LoadU(d, row.nz + x)};
        const auto height = hn::LoadU(d, row.height + x);
        const auto turned = [&](V dx, V dy, V dz) {
            if constexpr (kInSpace) return Turned(d, *row.space, x, dx, dy, dz);
            return Facing{dx, dy, dz};
        };
        V base[3];
        for (int c = 0; c < 3; ++c) base[c] = hn::LoadU(d, row.material.base[c] + x);
        const Material m = MakeMaterial<kRich>(d, row.material, x, n.nz, base, counted);
        // Flat ground is lit by all there is, whatever is counted.
        Material whole = m;
        Facing level{zero, zero, one};
        V px, py;
        if constexpr (kInSpace) {
            px = hn::LoadU(d, row.space->x + x), py = hn::LoadU(d, row.space->y + x);
            level = {hn::LoadU(d, row.space->level[0] + x), hn::LoadU(d, row.space->level[1] + x),
                     hn::LoadU(d, row.space->level[2] + x)};
        } else {
            // Where a px lies does not hang on where the row begins.
            px = hn::Mul(hn::Add(CountedFrom(d, static_cast<float>(x)), hn::Set(d, row.x)),
                         hn::Set(d, row.step));
            py = hn::Set(d, row.y);
        }
        if (lighting.keep_flat_color)
            whole = MakeMaterial<kRich>(d, row.material, x, level.nz, base, Counted{});
        V sum[3] = {zero, zero, zero}, flat[3] = {zero, zero, zero};
        for (std::size_t i = 0; i < lighting.lamps.size(); ++i) {
            const Lamp& lamp = lighting.lamps[i];
            const float* seen_row = i < row.seen.size() ? row.seen[i] : nullptr;
            const auto seen = seen_row ? hn::LoadU(d, seen_row + x) : one;
            V lx, ly, lz, scale = one, delta2 = zero;
            if (lamp.directional) {
                lx = hn::Set(d, lamp.x), ly = hn::Set(d, lamp.y), lz = hn::Set(d, lamp.z);
                const float delta = 0.5f * lamp.size * 0.017453293f;
                delta2 = hn::Set(d, delta * delta);
            } else {
                const auto dx = hn::Sub(hn::Set(d, lamp.x), px), dy = hn::Sub(py, hn::Set(d, lamp.y));
                const auto dz = hn::Sub(hn::Set(d, lamp.z), height);
                if (lamp.half_length > 0) {
                    const auto to = turned(dx, dy, dz);
                    const auto u = turned(hn::Set(d, lamp.along[0]), hn::Set(d, lamp.along[1]),
                                          hn::Set(d, lamp.along[2]));
                    const Bar bar{lamp, to.nx, to.ny, to.nz, u.nx, u.ny, u.nz};
                    if (counted.lamps) AddStrip<kRich>(d, m, n, bar, seen, sum);
                    if (lighting.keep_flat_color) AddStrip<kRich>(d, whole, level, bar, one, flat);
                    continue;
                }
                const auto d2 =
                    hn::Max(Fused(d, dz, dz, Fused(d, dy, dy, hn::Mul(dx, dx))), hn::Set(d, 1e-12f));
                const auto inverse = InverseSqrt(d, d2);
                lx = hn::Mul(dx, inverse), ly = hn::Mul(dy, inverse), lz = hn::Mul(dz, inverse);
                if (lamp.size > 0) {
                    const auto delta = hn::Mul(hn::Set(d, 0.5f * lamp.size), inverse);
                    delta2 = hn::Mul(delta, delta);
                }
                if (lamp.falloff != Falloff::none) {
                    const auto k = hn::Mul(hn::Set(d, lamp.distance), inverse);
                    scale = lamp.falloff == Falloff::square ? hn::Mul(k, k) : k;
                }
                if (lamp.cone) {
                    // l points to the lamp, its axis away from it.
                    const auto cosine = hn::Neg(
                        Fused(d, lz, hn::Set(d, lamp.axis[2]),
                              Fused(d, ly, hn::Set(d, lamp.axis[1]), hn::Mul(lx, hn::Set(d, lamp.axis[0])))));
                    const auto share =
                        hn::Min(one, hn::Max(zero, Fused(d, cosine, hn::Set(d, lamp.cone_scale),
                                                         hn::Set(d, lamp.cone_offset))));
                    scale = hn::Mul(scale, hn::Mul(share, share));
                }
            }
            if constexpr (kInSpace) {
                const auto l = turned(lx, ly, lz);
                lx = l.nx, ly = l.ny, lz = l.nz;
            }
            const bool wide = lamp.size > 0;
            if (counted.lamps)
                AddLight<kRich>(d, m, n, lx, ly, lz, hn::Mul(scale, seen), lamp.power.data(), wide, delta2,
                                sum);
            if (lighting.keep_flat_color)
                AddLight<kRich>(d, whole, level, lx, ly, lz, scale, lamp.power.data(), wide, delta2, flat);
        }
        const auto sky = row.sky ? hn::LoadU(d, row.sky + x) : one;
        for (int c = 0; c < 3; ++c) {
            if (row.from_skies[c]) sum[c] = hn::Add(sum[c], hn::LoadU(d, row.from_skies[c] + x));
            if (row.from_skies_flat[c]) flat[c] = hn::Add(flat[c], hn::LoadU(d, row.from_skies_flat[c] + x));
            V out;
            if (lighting.keep_flat_color) {
                const auto enough = hn::Ge(flat[c], hn::Set(d, 1e-4f));
                const auto ratio = hn::Div(sum[c], hn::IfThenElse(enough, flat[c], one));
                out = hn::Mul(base[c], hn::IfThenElse(enough, ratio, counted.ambient ? one : zero));
            } else {
                out = hn::Mul(sum[c], hn::Set(d, lighting.exposure));
                if (counted.ambient)
                    out = Fused(d, hn::Mul(base[c], hn::Set(d, lighting.ambient[c])), sky, out);
            }
            hn::StoreU(out, d, row.out[c] + x);
        }
    }
}

void ShadeRowKernel(const ShadeRow& row, const Lighting& lighting) {
    const bool rich = row.material.coat || row.material.sheen;
    if (row.space)
        rich ? ShadeRowOf<true, true>(row, lighting) : ShadeRowOf<false, true>(row, lighting);
    else
        rich ? ShadeRowOf<true, false>(row, lighting) : ShadeRowOf<false, false>(row, lighting);
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
