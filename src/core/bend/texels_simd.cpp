#include "core/bend/texels_simd.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/bend/texels_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {
namespace {

namespace hn = hwy::HWY_NAMESPACE;

constexpr std::size_t most_floats = 24;

/// One level, read by px; `Floats` a px.
template <int Floats> class LevelReader {
  public:
    LevelReader(const Texels& t, int level)
        : px_(t.levels[level].px), w_(t.levels[level].width), h_(t.levels[level].height), edge_(t.edge) {
        scale_x_ = static_cast<float>(w_) / static_cast<float>(t.region.width());
        scale_y_ = static_cast<float>(h_) / static_cast<float>(t.region.height());
        if (t.edge == Edge::none) {
            // Counted from the canvas's corner, so that it is the same whatever part is held.
            scale_x_ = scale_y_ = 1.0f / static_cast<float>(1 << level);
            i0_ = floor_div(t.region.x0, 1 << level), j0_ = floor_div(t.region.y0, 1 << level);
        } else
            x0_ = static_cast<float>(t.region.x0), y0_ = static_cast<float>(t.region.y0);
    }

    /// Four by four px about a place: by a spline, held between the nearest four.
    HWY_INLINE void Cubic(float x, float y, float* HWY_RESTRICT out) const {
        const float u = (x - x0_) * scale_x_ - 0.5f, v = (y - y0_) * scale_y_ - 0.5f;
        const float fu = std::floor(u), fv = std::floor(v), s = u - fu, t = v - fv;
        if (!(std::abs(fu) < 1e7f && std::abs(fv) < 1e7f)) return Nothing(out);
        const int i = static_cast<int>(fu) - i0_, j = static_cast<int>(fv) - j0_;
        const bool within = i >= 1 && i + 2 < w_ && j >= 1 && j + 2 < h_;
        if (!within && edge_ == Edge::none && (i < -1 || i >= w_ || j < -1 || j >= h_)) return Nothing(out);
        const float wx[4] = {s * (-0.5f + s * (1 - 0.5f * s)), 1 + s * s * (-2.5f + 1.5f * s),
                             s * (0.5f + s * (2 - 1.5f * s)), s * s * (-0.5f + 0.5f * s)},
                    wy[4] = {t * (-0.5f + t * (1 - 0.5f * t)), 1 + t * t * (-2.5f + 1.5f * t),
                             t * (0.5f + t * (2 - 1.5f * t)), t * t * (-0.5f + 0.5f * t)};
        const hn::CappedTag<float, (Floats < 8 ? Floats : 8)> d;
        for (std::size_t l = 0; l < Floats; l += hn::Lanes(d)) {
            auto sum = hn::Zero(d), low = hn::Set(d, 1e30f), high = hn::Set(d, -1e30f);
            for (int r = 0; r < 4; ++r) {
                auto row = hn::Zero(d);
                for (int c = 0; c < 4; ++c) {
                    const float* p = within ? Inside(i + c - 1, j + r - 1) : Anywhere(i + c - 1, j + r - 1);
                    const auto px = p ? hn::LoadU(d, p + l) : hn::Zero(d);
                    row = hn::MulAdd(hn::Set(d, wx[c]), px, row);
                    if ((r == 1 || r == 2) && (c == 1 || c == 2))
                        low = hn::Min(low, px), high = hn::Max(high, px);
                }
                sum = hn::MulAdd(hn::Set(d, wy[r]), row, sum);
            }
            hn::StoreU(hn::Min(hn::Max(sum, low), high), d, out + l);
        }
    }

    /// Adds weight × what lies between the nearest four px.
    HWY_INLINE void AddLinear(float x, float y, float weight, float* HWY_RESTRICT out) const {
        const float u = (x - x0_) * scale_x_ - 0.5f, v = (y - y0_) * scale_y_ - 0.5f;
        const float fu = std::floor(u), fv = std::floor(v), s = u - fu, t = v - fv;
        if (!(std::abs(fu) < 1e7f && std::abs(fv) < 1e7f)) return;
        const int i = static_cast<int>(fu) - i0_, j = static_cast<int>(fv) - j0_;
        const bool within = i >= 0 && i + 1 < w_ && j >= 0 && j + 1 < h_;
        if (!within && edge_ == Edge::none && (i < -1 || i >= w_ || j < -1 || j >= h_)) return;
        const float k[4] = {weight * (1 - s) * (1 - t), weight * s * (1 - t), weight * (1 - s) * t,
                            weight * s * t};
        const hn::CappedTag<float, (Floats < 8 ? Floats : 8)> d;
        for (int n = 0; n < 4; ++n) {
            const float* p = within ? Inside(i + (n & 1), j + (n >> 1)) : Anywhere(i + (n & 1), j + (n >> 1));
            if (!p) continue;
            for (std::size_t l = 0; l < Floats; l += hn::Lanes(d))
                hn::StoreU(hn::MulAdd(hn::Set(d, k[n]), hn::LoadU(d, p + l), hn::LoadU(d, out + l)), d,
                           out + l);
        }
    }

  private:
    static void Nothing(float* out) { std::fill_n(out, Floats, 0.0f); }
    HWY_INLINE const float* Inside(int i, int j) const {
        return px_.row(j) + static_cast<std::ptrdiff_t>(Floats) * i;
    }
    const float* Anywhere(int i, int j) const {
        if (edge_ == Edge::none && (i < 0 || i >= w_ || j < 0 || j >= h_)) return nullptr;
        return Inside(wrapped(i, w_, edge_), wrapped(j, h_, edge_));
    }
    const Plane& px_;
    int w_, h_;
    Edge edge_;
    float scale_x_, scale_y_, x0_ = 0, y0_ = 0;
    int i0_ = 0, j0_ = 0;
};

/// One group of so many floats a px, of texels that have `Floats`.
template <int Floats>
void Row(const Texels& texels, const Looks& looks, int y, const std::vector<float*>& to) {
    std::vector<LevelReader<Floats>> levels;
    for (std::size_t i = 0; i < texels.levels.size(); ++i) levels.emplace_back(texels, static_cast<int>(i));
    const int last = static_cast<int>(levels.size()) - 1;
    const float *px = looks.x.row(y + 1) + 1, *py = looks.y.row(y + 1) + 1;
    const int w = looks.region.width();
    alignas(64) float out[most_floats];
    for (int x = 0; x < w; ++x) {
        Footprint f = footprint(looks, x, y);
        float la = std::sqrt(f.ax * f.ax + f.ay * f.ay), lb = std::sqrt(f.bx * f.bx + f.by * f.by);
        // A sample sees one px by itself: the others lie about it as far as more is seen.
        const float ka = la > 1 ? std::sqrt(1 - 1 / (la * la)) : 0,
                    kb = lb > 1 ? std::sqrt(1 - 1 / (lb * lb)) : 0;
        const float sa = ka * la, sb = kb * lb;
        if (!(sa > 0.35f || sb > 0.35f)) {
            levels[0].Cubic(px[x], py[x], out);
        } else {
            f.ax *= ka, f.ay *= ka, f.bx *= kb, f.by *= kb;
            const float least = std::max(1.0f, std::min(la, lb));
            int level = std::clamp(static_cast<int>(std::floor(std::log2(least))) - 1, 0, last), na = 1,
                nb = 1;
            const auto count = [&](float s) {
                return std::max(1, static_cast<int>(std::ceil(2 * s / static_cast<float>(1 << level))));
            };
            for (na = count(sa), nb = count(sb); na * nb > 64 && level < last; na = count(sa), nb = count(sb))
                ++level;
            na = std::min(na, 64), nb = std::min(nb, 64);
            std::fill_n(out, Floats, 0.0f);
            float total = 0;
            for (int b = 0; b < nb; ++b)
                for (int a = 0; a < na; ++a) {
                    const float u = (2 * static_cast<float>(a) + 1) / static_cast<float>(na) - 1,
                                v = (2 * static_cast<float>(b) + 1) / static_cast<float>(nb) - 1,
                                k = (1 - std::abs(u)) * (1 - std::abs(v));
                    levels[level].AddLinear(px[x] + u * f.ax + v * f.bx, py[x] + u * f.ay + v * f.by, k, out);
                    total += k;
                }
            for (int c = 0; c < Floats; ++c) out[c] /= total;
        }
        // What is next to nothing is nothing: nobody divides by it.
        for (std::size_t c = 0; c < to.size(); ++c) to[c][x] = std::abs(out[c]) < 1e-12f ? 0.0f : out[c];
    }
}

void ReadRow(const Texels& texels, const Looks& looks, int y, const std::vector<float*>& to) {
    switch (texels.floats_a_px) {
    case 4: return Row<4>(texels, looks, y, to);
    case 8: return Row<8>(texels, looks, y, to);
    case 16: return Row<16>(texels, looks, y, to);
    default: return Row<24>(texels, looks, y, to);
    }
}

} // namespace
} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(ReadRow);
void read_row(const Texels& texels, const Looks& looks, int y, const std::vector<float*>& to) {
    HWY_DYNAMIC_DISPATCH(ReadRow)(texels, looks, y, to);
}
} // namespace bathylux
#endif
