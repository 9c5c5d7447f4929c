#include "core/bend/texels_simd.h"

#include <bit>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/bend/texels_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {
namespace {

namespace hn = hwy::HWY_NAMESPACE;

constexpr std::size_t most_floats = 24;
alignas(64) constexpr float zeros[most_floats] = {};
// Up to so much of what lies along an axis is seen by one sample of four px a side, which grows softer.
constexpr float by_one = 1.9f;

/// Weights of four px in a row for a place a share s past the second: Catmull–Rom's, and the more is seen,
/// the more those of a B-spline (both of the family of Mitchell & Netravali 1988).
HWY_INLINE void Weights(float s, float soft, float* HWY_RESTRICT w) {
    const float r = 1 - s, s2 = s * s, s3 = s2 * s;
    const float sharp[4] = {s * (-0.5f + s * (1 - 0.5f * s)), 1 + s2 * (-2.5f + 1.5f * s),
                            s * (0.5f + s * (2 - 1.5f * s)), s2 * (-0.5f + 0.5f * s)},
                even[4] = {r * r * r * (1.0f / 6), (4 - 6 * s2 + 3 * s3) * (1.0f / 6),
                           (1 + 3 * s + 3 * s2 - 3 * s3) * (1.0f / 6), s3 * (1.0f / 6)};
    for (int i = 0; i < 4; ++i) w[i] = sharp[i] + soft * (even[i] - sharp[i]);
}

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
    HWY_INLINE void Cubic(float x, float y, float soft_x, float soft_y, float* HWY_RESTRICT out) const {
        const float u = (x - x0_) * scale_x_ - 0.5f, v = (y - y0_) * scale_y_ - 0.5f;
        const float fu = std::floor(u), fv = std::floor(v), s = u - fu, t = v - fv;
        if (!(std::abs(fu) < 1e7f && std::abs(fv) < 1e7f)) return Nothing(out);
        const int i = static_cast<int>(fu) - i0_, j = static_cast<int>(fv) - j0_;
        const bool within = i >= 1 && i + 2 < w_ && j >= 1 && j + 2 < h_;
        if (!within && edge_ == Edge::none && (i < -1 || i >= w_ || j < -1 || j >= h_)) return Nothing(out);
        float wx[4], wy[4];
        Weights(s, soft_x, wx), Weights(t, soft_y, wy);
        const hn::CappedTag<float, (Floats < 8 ? Floats : 8)> d;
        const float* first = within ? Inside(i - 1, j - 1) : nullptr;
        const std::ptrdiff_t down = px_.stride();
        for (std::size_t l = 0; l < Floats; l += hn::Lanes(d)) {
            auto sum = hn::Zero(d), low = hn::Set(d, 1e30f), high = hn::Set(d, -1e30f);
            const auto add_row = [&](int r, const auto& at) HWY_ATTR {
                const auto p0 = at(0), p1 = at(1), p2 = at(2), p3 = at(3);
                const auto row =
                    hn::MulAdd(hn::Set(d, wx[3]), p3,
                               hn::MulAdd(hn::Set(d, wx[2]), p2,
                                          hn::MulAdd(hn::Set(d, wx[1]), p1, hn::Mul(hn::Set(d, wx[0]), p0))));
                sum = hn::MulAdd(hn::Set(d, wy[r]), row, sum);
                if (r == 1 || r == 2) {
                    low = hn::Min(low, hn::Min(p1, p2));
                    high = hn::Max(high, hn::Max(p1, p2));
                }
            };
            if (within) {
                const float* p = first + l;
                const auto row_at = [&](int c) HWY_ATTR {
                    return hn::LoadU(d, p + static_cast<std::ptrdiff_t>(c) * Floats);
                };
                add_row(0, row_at), p += down;
                add_row(1, row_at), p += down;
                add_row(2, row_at), p += down;
                add_row(3, row_at);
            } else
                for (int r = 0; r < 4; ++r)
                    add_row(r, [&](int c) HWY_ATTR {
                        const float* p = Anywhere(i + c - 1, j + r - 1);
                        return hn::LoadU(d, (p ? p : zeros) + l);
                    });
            hn::StoreU(hn::Min(hn::Max(sum, low), high), d, out + l);
        }
    }

    /// One sample of many: the nearest four px and what they weigh. None where there is nothing.
    struct Sample {
        const float* px[4];
        float weight[4];
    };
    HWY_INLINE bool Find(float x, float y, float weight, Sample& to) const {
        const float u = (x - x0_) * scale_x_ - 0.5f, v = (y - y0_) * scale_y_ - 0.5f;
        const float fu = std::floor(u), fv = std::floor(v), s = u - fu, t = v - fv;
        if (!(std::abs(fu) < 1e7f && std::abs(fv) < 1e7f)) return false;
        const int i = static_cast<int>(fu) - i0_, j = static_cast<int>(fv) - j0_;
        const bool within = i >= 0 && i + 1 < w_ && j >= 0 && j + 1 < h_;
        if (!within && edge_ == Edge::none && (i < -1 || i >= w_ || j < -1 || j >= h_)) return false;
        to.weight[0] = weight * (1 - s) * (1 - t), to.weight[1] = weight * s * (1 - t);
        to.weight[2] = weight * (1 - s) * t, to.weight[3] = weight * s * t;
        for (int n = 0; n < 4; ++n) {
            const float* p = within ? Inside(i + (n & 1), j + (n >> 1)) : Anywhere(i + (n & 1), j + (n >> 1));
            to.px[n] = p ? p : zeros;
        }
        return true;
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
    const hn::CappedTag<float, (Floats < 8 ? Floats : 8)> d;
    // How much a px sees along either axis of what it reads.
    std::vector<float> seen(2 * static_cast<std::size_t>(w));
    float *seen_x = seen.data(), *seen_y = seen_x + w;
    {
        const float *ux = looks.x.row(y) + 1, *uy = looks.y.row(y) + 1, *lx = looks.x.row(y + 2) + 1,
                    *ly = looks.y.row(y + 2) + 1;
        for (int x = 0; x < w; ++x) {
            const float a0 = px[x + 1] - px[x], a1 = py[x + 1] - py[x], b0 = px[x] - px[x - 1],
                        b1 = py[x] - py[x - 1], c0 = lx[x] - px[x], c1 = ly[x] - py[x], e0 = px[x] - ux[x],
                        e1 = py[x] - uy[x];
            const bool first = a0 * a0 + a1 * a1 <= b0 * b0 + b1 * b1,
                       upper = c0 * c0 + c1 * c1 <= e0 * e0 + e1 * e1;
            const float ax = first ? a0 : b0, ay = first ? a1 : b1, bx = upper ? c0 : e0,
                        by = upper ? c1 : e1;
            seen_x[x] = std::sqrt(ax * ax + bx * bx), seen_y[x] = std::sqrt(ay * ay + by * by);
        }
    }
    const auto softness = [](float s) { return std::clamp((s - 1.1f) * (1 / 0.7f), 0.0f, 1.0f); };
    for (int x = 0; x < w; ++x) {
        if (!(seen_x[x] > by_one || seen_y[x] > by_one)) {
            levels[0].Cubic(px[x], py[x], softness(seen_x[x]), softness(seen_y[x]), out);
        } else {
            Footprint f = footprint(looks, x, y);
            const float aa = f.ax * f.ax + f.ay * f.ay, bb = f.bx * f.bx + f.by * f.by;
            const float la = std::sqrt(aa), lb = std::sqrt(bb);
            // A sample sees one px by itself: the others lie about it as far as more is seen.
            const float ka = la > 1 ? std::sqrt(1 - 1 / (la * la)) : 0,
                        kb = lb > 1 ? std::sqrt(1 - 1 / (lb * lb)) : 0;
            const float sa = ka * la, sb = kb * lb;
            f.ax *= ka, f.ay *= ka, f.bx *= kb, f.by *= kb;
            const float least = std::max(1.0f, std::min(la, lb));
            int level = std::clamp((static_cast<int>(std::bit_cast<std::uint32_t>(least) >> 23) - 127) - 1, 0,
                                   last),
                na = 1, nb = 1;
            const auto count = [&](float s) {
                return std::max(1, static_cast<int>(std::ceil(1.5f * s / static_cast<float>(1 << level))));
            };
            for (na = count(sa), nb = count(sb); na * nb > 64 && level < last; na = count(sa), nb = count(sb))
                ++level;
            na = std::min(na, 64), nb = std::min(nb, 64);
            for (std::size_t l = 0; l < Floats; l += hn::Lanes(d)) {
                auto sum = hn::Zero(d);
                float total = 0;
                typename LevelReader<Floats>::Sample sample;
                for (int b = 0; b < nb; ++b)
                    for (int a = 0; a < na; ++a) {
                        const float u = (2 * static_cast<float>(a) + 1) / static_cast<float>(na) - 1,
                                    v = (2 * static_cast<float>(b) + 1) / static_cast<float>(nb) - 1,
                                    k = (1 - std::abs(u)) * (1 - std::abs(v));
                        total += k;
                        if (!levels[level].Find(px[x] + u * f.ax + v * f.bx, py[x] + u * f.ay + v * f.by, k,
                                                sample))
                            continue;
                        for (int n = 0; n < 4; ++n)
                            sum =
                                hn::MulAdd(hn::Set(d, sample.weight[n]), hn::LoadU(d, sample.px[n] + l), sum);
                    }
                hn::StoreU(hn::Mul(sum, hn::Set(d, 1 / total)), d, out + l);
            }
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
