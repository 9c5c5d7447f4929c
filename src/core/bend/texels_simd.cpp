#include "core/bend/texels_simd.h"

#include <algorithm>
#include <memory>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/bend/texels_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/bend/texels_samples-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {
namespace {

// Four px in a row, of four floats each, are sixteen: in one vector, or two, or four, as the processor has
// it.
constexpr std::size_t vectors = 16 / lanes;
struct Sixteen {
    V v[vectors];
};
template <class Of> HWY_INLINE Sixteen Made(const Of& of) {
    Sixteen out;
    for (std::size_t k = 0; k < vectors; ++k) out.v[k] = of(k);
    return out;
}
/// Each of four weights four times over.
HWY_INLINE Sixteen Spread(D d, const float* weights) {
#if HWY_TARGET != HWY_SCALAR
    if constexpr (lanes > 4) {
        const auto four = hn::LoadDup128(d, weights);
        const hn::RebindToSigned<D> di;
        return Made([&](std::size_t k) HWY_ATTR {
            const auto px = hn::ShiftRight<2>(hn::Iota(di, static_cast<int>(k) * lanes));
            return hn::TableLookupLanes(four, hn::IndicesFromVec(d, px));
        });
    }
#endif
    return Made([&](std::size_t k) HWY_ATTR { return hn::Set(d, weights[k * lanes / 4]); });
}

#if HWY_TARGET != HWY_SCALAR
template <class Tag, class Vec> HWY_INLINE auto Folded(Tag d, Vec v) {
    if constexpr (hn::MaxLanes(d) <= 4)
        return v;
    else {
        const hn::Half<Tag> half;
        return Folded(half, hn::Add(hn::LowerHalf(half, v), hn::UpperHalf(half, v)));
    }
}
#endif
/// The four px's sum: (first + third) + (second + fourth).
HWY_INLINE void StoreSum(D d, const Sixteen& s, float* to) {
    constexpr std::size_t quarter = vectors / 4;
    if constexpr (vectors >= 4)
        for (std::size_t c = 0; c < quarter; ++c)
            hn::Store(hn::Add(hn::Add(s.v[c], s.v[2 * quarter + c]),
                              hn::Add(s.v[quarter + c], s.v[3 * quarter + c])),
                      d, to + c * lanes);
#if HWY_TARGET != HWY_SCALAR
    else {
        auto two = s.v[0];
        if (vectors == 2) two = hn::Add(two, s.v[vectors - 1]);
        hn::Store(Folded(d, two), D4(), to);
    }
#endif
}

/// Four by four px by a spline, held between the nearest four. `first` is the first of them, `down` floats to
/// the next row.
HWY_INLINE void Cubic(D d, const float* first, std::ptrdiff_t down, const Sixteen& across,
                      const std::array<float, 4>& weights, float* to) {
    const float* const rows[4] = {first, first + down, first + 2 * down, first + 3 * down};
    Sixteen sum;
    for (std::size_t k = 0; k < vectors; ++k) {
        auto column = hn::Mul(hn::LoadU(d, rows[0] + k * lanes), hn::Set(d, weights[0]));
        for (std::size_t r = 1; r < 4; ++r)
            column = Fused(d, hn::LoadU(d, rows[r] + k * lanes), hn::Set(d, weights[r]), column);
        sum.v[k] = hn::Mul(column, across.v[k]);
    }
    alignas(16) float made[4];
    StoreSum(d, sum, made);
    const D4 d4;
    for (std::size_t c = 0; c < 4; c += hn::Lanes(d4)) {
        const auto nearest = [&](std::size_t r, std::size_t px)
                                 HWY_ATTR { return hn::LoadU(d4, rows[r] + 4 * px + c); };
        const auto a = nearest(1, 1), b = nearest(1, 2), e = nearest(2, 1), f = nearest(2, 2);
        const auto low = hn::Min(hn::Min(a, b), hn::Min(e, f)), high = hn::Max(hn::Max(a, b), hn::Max(e, f));
        hn::Store(hn::Min(hn::Max(hn::Load(d4, made + c), low), high), d4, to + c);
    }
}

/// How px of a field alone have been read: what the four columns give, and the least and the most of the
/// middle rows. Px follow each other before they are summed.
struct Alone {
    static constexpr std::size_t room = 4 * together;
    alignas(64) std::array<float, room> columns, low, high;

    /// Four by four px, as Cubic reads them.
    HWY_INLINE void read(std::size_t k, const float* first, std::ptrdiff_t down, const float* across,
                         const std::array<float, 4>& weights) {
        const D4 d4;
        for (std::size_t c = 0; c < 4; c += hn::Lanes(d4)) {
            const auto row = [&](std::ptrdiff_t r) HWY_ATTR {
                return hn::LoadU(d4, first + r * down + static_cast<std::ptrdiff_t>(c));
            };
            const auto second = row(1), third = row(2);
            auto column = hn::Mul(row(0), hn::Set(d4, weights[0]));
            column = Fused(d4, second, hn::Set(d4, weights[1]), column);
            column = Fused(d4, third, hn::Set(d4, weights[2]), column);
            column = Fused(d4, row(3), hn::Set(d4, weights[3]), column);
            hn::Store(hn::Mul(column, hn::LoadU(d4, across + c)), d4, &columns[4 * k + c]);
            hn::Store(hn::Min(second, third), d4, &low[4 * k + c]);
            hn::Store(hn::Max(second, third), d4, &high[4 * k + c]);
        }
    }
    void is(std::size_t k, float v) {
        for (std::size_t c = 0; c < 4; ++c)
            columns[4 * k + c] = c == 0 ? v : 0, low[4 * k + c] = high[4 * k + c] = v;
    }
    /// What a vector of px come to, from the k-th on.
    HWY_INLINE V sum(std::size_t k) const {
        const D d;
        V c[4], l[4], h[4];
        hn::LoadInterleaved4(d, &columns[4 * k], c[0], c[1], c[2], c[3]);
        hn::LoadInterleaved4(d, &low[4 * k], l[0], l[1], l[2], l[3]);
        hn::LoadInterleaved4(d, &high[4 * k], h[0], h[1], h[2], h[3]);
        const auto all = hn::Add(hn::Add(c[0], c[2]), hn::Add(c[1], c[3]));
        return hn::Min(hn::Max(all, hn::Min(l[1], l[2])), hn::Max(h[1], h[2]));
    }
};

/// Reads block after block.
class Reader {
  public:
    Reader(const Texels& texels, const Looks& looks, std::vector<Plane>& to)
        : texels_(texels), looks_(looks), to_(to), whole_(texels.groups() - texels.ends_alone()),
          tile_(texels), read_(texels.groups() * 4 * together) {
        for (std::size_t i = 0; i < texels.levels().size(); ++i)
            frames_.emplace_back(texels, static_cast<int>(i));
    }

    void block(const Span& reads, int x0, int x1, int y0, int y1) {
        if (texels_.levels()[0].groups.empty()) tile_.lay(texels_, at_hand(reads));
        for (int y = y0; y < y1; ++y)
            for (int begin = x0; begin < x1; begin += together) {
                const int n = std::min(together, x1 - begin);
                const LooksRow row = row_of(looks_, begin, y);
                MakePlan(row, n, frames_[0], tile_, plan_);
                read_singles(static_cast<std::size_t>(n));
                if (!plan_.plain) read_others(row, static_cast<std::size_t>(n));
                store(begin, n, y);
            }
    }

  private:
    /// What of it can be read, if that is not more than can be held.
    Region at_hand(const Span& s) const {
        if (s.empty()) return {};
        const Frame& f = frames_[0];
        const Region from = texels_.region();
        const auto px = [](float v, int first) {
            return static_cast<int>(std::clamp(v, -1e8f, 1e8f)) - first;
        };
        Region r{px(std::floor(s.x0), from.x0), px(std::floor(s.y0), from.y0), px(std::ceil(s.x1), from.x0),
                 px(std::ceil(s.y1), from.y0)};
        if (f.edge == Edge::none) r = intersect(r, {-2, -2, f.width + 2, f.height + 2});
        return r.empty() || double(r.width()) * r.height() > (1 << 22) ? Region{} : r;
    }

    float* made(std::size_t group, std::size_t k) { return &read_[(group * together + k) * 4]; }
    std::array<float, 4> down(std::size_t k) const {
        return {plan_.down[0][k], plan_.down[1][k], plan_.down[2][k], plan_.down[3][k]};
    }

    /// Px that are read by sixteen at hand.
    void read_singles(std::size_t n) {
        const D d;
        const std::ptrdiff_t stride = tile_.stride();
        for (std::size_t g = 0; g < whole_; ++g) {
            const float* const from = tile_.group(g);
            for (std::size_t k = 0; k < n; ++k)
                if (plan_.how[k] == static_cast<int>(Read::sixteen))
                    Cubic(d, from + plan_.at[k], stride, Spread(d, &plan_.across[4 * k]), down(k),
                          made(g, k));
        }
        for (std::size_t k = 0; texels_.ends_alone() && k < n; ++k)
            if (plan_.how[k] == static_cast<int>(Read::sixteen))
                alone_.read(k, tile_.alone() + plan_.at[k] / 4, stride / 4, &plan_.across[4 * k], down(k));
    }

    void read_others(const LooksRow& row, std::size_t n) {
        std::array<std::size_t, together> several;
        std::size_t many = 0;
        for (std::size_t k = 0; k < n; ++k) switch (Read{plan_.how[k]}) {
            case Read::sixteen: break;
            case Read::edge: read_at_edge(k); break;
            case Read::several: several[many++] = k; break;
            case Read::nothing:
                for (std::size_t g = 0; g < whole_; ++g) std::fill_n(made(g, k), 4, 0.0f);
                if (texels_.ends_alone()) alone_.is(k, 0);
            }
        for (std::size_t begin = 0; begin < many; begin += lanes) {
            const auto px = std::span(several).subspan(begin, std::min<std::size_t>(lanes, many - begin));
            samples_.find(frames_, tile_, row, plan_, px);
            for (std::size_t m = 0; m < px.size(); ++m) {
                for (std::size_t g = 0; g < whole_; ++g) samples_.sum(texels_, tile_, m, g, made(g, px[m]));
                if (texels_.ends_alone()) alone_.is(px[m], samples_.sum_alone(texels_, tile_, m, whole_));
            }
        }
    }

    void read_at_edge(std::size_t k) {
        const D d;
        const int i = plan_.column[k], j = plan_.row[k];
        const float* const weights = &plan_.across[4 * k];
        alignas(64) std::array<float, 64> around;
        for (std::size_t g = 0; g < whole_; ++g) {
            for (int row = 0; row < 4; ++row)
                texels_.lay(g, j + row, i, i + 4, &around[static_cast<std::size_t>(row) * 16]);
            Cubic(d, around.data(), 16, Spread(d, weights), down(k), made(g, k));
        }
        if (!texels_.ends_alone()) return;
        for (int row = 0; row < 4; ++row)
            texels_.lay_alone(whole_, j + row, i, i + 4, &around[static_cast<std::size_t>(row) * 4]);
        alone_.read(k, around.data(), 4, weights, down(k));
    }

    /// Rows may be written up to the next multiple of 16. What counts in part counts in full afterwards.
    void store(int x0, int n, int y) {
        const D d;
        const auto store = [&](std::size_t plane, int k, V v) HWY_ATTR {
            // What is next to nothing is nothing: nobody divides by it.
            const auto some = hn::Ge(hn::Abs(v), hn::Set(d, 1e-12f));
            hn::StoreU(hn::IfThenElseZero(some, v), d, to_[plane].row(y) + x0 + k);
        };
        for (int k = 0; k < n; k += lanes) {
            for (std::size_t g = 0; g < whole_; ++g) {
                V v[4];
                hn::LoadInterleaved4(d, &read_[(g * together + static_cast<std::size_t>(k)) * 4], v[0], v[1],
                                     v[2], v[3]);
                for (std::size_t c = 0; c < 4 && 4 * g + c < to_.size(); ++c) store(4 * g + c, k, v[c]);
            }
            if (texels_.ends_alone()) store(4 * whole_, k, alone_.sum(static_cast<std::size_t>(k)));
            for (std::size_t i = 0; i < to_.size(); ++i) {
                if (texels_.counted_by()[i] < 0) continue;
                const auto made = [&](std::size_t plane) { return to_[plane].row(y) + x0 + k; };
                const V v = hn::LoadU(d, made(i)),
                        by = hn::LoadU(d, made(static_cast<std::size_t>(texels_.counted_by()[i])));
                const auto counts = hn::Gt(by, hn::Set(d, 1e-6f));
                hn::StoreU(hn::IfThenElseZero(counts, hn::Div(v, by)), d, made(i));
            }
        }
    }

    const Texels& texels_;
    const Looks& looks_;
    std::vector<Plane>& to_;
    std::vector<Frame> frames_;
    std::size_t whole_; // groups of four
    Tile tile_;
    Plan plan_;
    std::vector<float> read_;
    Alone alone_;
    Samples samples_;
};

} // namespace

void ReadRows(const Texels& texels, const Looks& looks, int y0, int y1, std::span<const Span> blocks,
              std::vector<Plane>& to) {
    const auto reader = std::make_unique<Reader>(texels, looks, to);
    int x = 0;
    for (const Span& reads : blocks) {
        const int end = std::min(x + read_columns_at_once, looks.region.width());
        reader->block(reads, x, end, y0, y1);
        x = end;
    }
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(ReadRows);
void read_rows(const Texels& texels, const Looks& looks, int y0, int y1, std::span<const Span> blocks,
               std::vector<Plane>& to) {
    HWY_DYNAMIC_DISPATCH(ReadRows)(texels, looks, y0, y1, blocks, to);
}
} // namespace bathylux
#endif
