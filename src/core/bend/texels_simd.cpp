#include "core/bend/texels_simd.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <memory>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/bend/texels_simd.cpp"
#include <hwy/cache_control.h>
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {
namespace {

using D4 = hn::CappedTag<float, 4>;

// Up to so much of what lies along an axis is seen by one sample of four px a side, which grows softer.
constexpr float by_one = 1.9f;
// Of more, so many samples a px of its length, and so many at most while there is a halving.
constexpr float per_px = 1.5f;
constexpr int most_samples = 64;

/// What a px sees: how the place looked at moves along a row, and down a column. Of the two differences on
/// either side the smaller, so that nothing is smeared across a tear.
struct Footprint {
    V ax, ay, bx, by;
};
/// Places looked at from a row of px, from the rows above and below it.
struct LooksRow {
    const float *x, *y, *above_x, *above_y, *below_x, *below_y;
};
LooksRow row_of(const Looks& looks, int x, int y) {
    return {looks.x.row(y + 1) + 1 + x, looks.y.row(y + 1) + 1 + x, looks.x.row(y) + 1 + x,
            looks.y.row(y) + 1 + x,     looks.x.row(y + 2) + 1 + x, looks.y.row(y + 2) + 1 + x};
}
HWY_INLINE V Square(D d, V x, V y) { return Fused(d, x, x, hn::Mul(y, y)); }
HWY_INLINE Footprint FootprintAt(D d, const LooksRow& l, int x) {
    const auto px = hn::LoadU(d, l.x + x), py = hn::LoadU(d, l.y + x);
    const auto a0 = hn::Sub(hn::LoadU(d, l.x + x + 1), px), a1 = hn::Sub(hn::LoadU(d, l.y + x + 1), py),
               b0 = hn::Sub(px, hn::LoadU(d, l.x + x - 1)), b1 = hn::Sub(py, hn::LoadU(d, l.y + x - 1)),
               c0 = hn::Sub(hn::LoadU(d, l.below_x + x), px), c1 = hn::Sub(hn::LoadU(d, l.below_y + x), py),
               e0 = hn::Sub(px, hn::LoadU(d, l.above_x + x)), e1 = hn::Sub(py, hn::LoadU(d, l.above_y + x));
    const auto right = hn::Le(Square(d, a0, a1), Square(d, b0, b1)),
               lower = hn::Le(Square(d, c0, c1), Square(d, e0, e1));
    return {hn::IfThenElse(right, a0, b0), hn::IfThenElse(right, a1, b1), hn::IfThenElse(lower, c0, e0),
            hn::IfThenElse(lower, c1, e1)};
}

/// Calls `what(row, x)` for vectors of a row; the last ones begin earlier, so that none reads past the row's
/// own margin.
template <class What> HWY_INLINE void EachVector(const LooksRow& row, int width, const What& what) {
    const int n = static_cast<int>(hn::Lanes(D()));
    if (width < n) {
        // Too short for one vector: looked at in a copy.
        alignas(64) std::array<std::array<float, 48>, 6> held{};
        const float* const from[6] = {row.x, row.y, row.above_x, row.above_y, row.below_x, row.below_y};
        for (std::size_t i = 0; i < 6; ++i) std::copy_n(from[i] - 1, width + 2, held[i].data() + 15);
        return what(LooksRow{held[0].data() + 16, held[1].data() + 16, held[2].data() + 16,
                             held[3].data() + 16, held[4].data() + 16, held[5].data() + 16},
                    0);
    }
    for (int x = 0; x + n <= width; x += n) what(row, x);
    if (width % n) what(row, width - n);
}

/// How a px is read: by sixteen px at hand, by sixteen of which some are past an edge, not at all, or by
/// several samples.
enum class Read : int { sixteen, edge, nothing, several };

constexpr int together = 64; // px of a row that are planned, read and laid into rows at a time

/// How each of them is read.
struct Plan {
    static constexpr std::size_t room = together;
    std::array<int, room> how, column, row;           // first of the sixteen px
    std::array<int, room> at;                         // its place in a tile, if they are at hand
    std::array<float, 4 * room> across;               // four weights a px
    std::array<std::array<float, room>, 4> down;      // the first of each px's four, the second …
    std::array<std::array<float, room>, 7> footprint; // see MakePlan: the way of samples along either axis,
                                                      // its half lengths, the shorter axis
};

struct Weights {
    V of[4];
};
/// Weights of four px in a row for a place a share s past the second: Catmull–Rom's, and the more is seen,
/// the more those of a B-spline (both of the family of Mitchell & Netravali 1988).
HWY_INLINE Weights WeightsFor(D d, V s, V seen_squared) {
    const auto set = [d](float v) HWY_ATTR { return hn::Set(d, v); };
    const auto one = set(1), s2 = hn::Mul(s, s);
    Weights out{{hn::Mul(s, Polynomial(d, s, {-0.5f, 1.0f, -0.5f})),
                 Fused(d, s2, Polynomial(d, s, {1.5f, -2.5f}), one),
                 hn::Mul(s, Polynomial(d, s, {-1.5f, 2.0f, 0.5f})),
                 hn::Mul(s2, Polynomial(d, s, {0.5f, -0.5f}))}};
    constexpr float sharp_to = 1.1f;
    if (hn::AllTrue(d, hn::Le(seen_squared, set(sharp_to * sharp_to)))) return out;
    const auto soft =
        hn::Min(one, hn::Max(hn::Zero(d), hn::Mul(hn::Sub(hn::Sqrt(seen_squared), set(sharp_to)),
                                                  set(1 / (1.8f - sharp_to)))));
    const auto r = hn::Sub(one, s), s3 = hn::Mul(s2, s), r3 = hn::Mul(hn::Mul(r, r), r),
               sixth = set(1.0f / 6);
    const V even[4] = {hn::Mul(r3, sixth),
                       hn::Mul(sixth, Fused(d, s2, Polynomial(d, s, {3.0f, -6.0f}), set(4))),
                       hn::Mul(sixth, Polynomial(d, s, {-3.0f, 3.0f, 3.0f, 1.0f})), hn::Mul(s3, sixth)};
    for (std::size_t i = 0; i < 4; ++i) out.of[i] = Fused(d, soft, hn::Sub(even[i], out.of[i]), out.of[i]);
    return out;
}

/// Where a level lies and what is past it.
struct Frame {
    Frame(const Texels& t, int level)
        : width(t.levels()[level].width), height(t.levels()[level].height), edge(t.edge()) {
        const Region r = t.region();
        if (edge == Edge::none) {
            // Counted from the canvas's corner, so that it is the same whatever part is held.
            scale_x = scale_y = 1.0f / static_cast<float>(1 << level);
            i0 = floor_div(r.x0, 1 << level), j0 = floor_div(r.y0, 1 << level);
        } else {
            scale_x = static_cast<float>(width) / static_cast<float>(r.width());
            scale_y = static_cast<float>(height) / static_cast<float>(r.height());
            x0 = static_cast<float>(r.x0), y0 = static_cast<float>(r.y0);
        }
    }
    int width, height;
    Edge edge;
    float scale_x, scale_y, x0 = 0, y0 = 0;
    int i0 = 0, j0 = 0;

    bool beyond(int i, int j) const { return i < -1 || i >= width || j < -1 || j >= height; }
    /// Some px of a row side by side, wherever they are.
    void lay(const Texels& t, std::size_t level, std::size_t group, int i, int j, int n, float* to) const {
        if (level == 0) return t.lay(group, j, i, i + n, to);
        const Plane& plane = t.levels()[level].groups[group];
        for (int x = i; x < i + n; ++x, to += 4)
            if (edge == Edge::none && (x < 0 || x >= width || j < 0 || j >= height))
                std::fill_n(to, 4, 0.0f);
            else
                std::copy_n(plane.row(wrapped(j, height, edge)) + std::ptrdiff_t{4} * wrapped(x, width, edge),
                            4, to);
    }
};

/// A part of the plane that is at hand, counted within the plane's region or past it.
class Tile {
  public:
    /// All of it, where it is.
    explicit Tile(const Texels& t)
        : region_{0, 0, t.region().width(), t.region().height()}, width_(region_.width()),
          height_(region_.height()) {
        for (const Plane& p : t.levels()[0].groups) groups_.push_back(p.row(0)), stride_ = p.stride();
    }
    Tile() = default;
    /// Lays what is to be read side by side, and behind it a last field alone.
    void lay(const Texels& t, Region r) {
        region_ = r, width_ = r.width(), height_ = r.height(), stride_ = std::ptrdiff_t{4} * r.width();
        const std::size_t px = static_cast<std::size_t>(r.width()) * static_cast<std::size_t>(r.height()),
                          whole = t.groups() - t.ends_alone(), size = px * (4 * whole + t.ends_alone());
        if (room_size_ < size) room_ = std::make_unique_for_overwrite<float[]>(room_size_ = size);
        groups_.clear();
        float* to = room_.get();
        for (std::size_t g = 0; g < whole; ++g) {
            groups_.push_back(to);
            for (int y = r.y0; y < r.y1; ++y, to += stride_) t.lay(g, y, r.x0, r.x1, to);
        }
        alone_ = to;
        for (int y = r.y0; t.ends_alone() && y < r.y1; ++y, to += width_)
            t.lay_alone(whole, y, r.x0, r.x1, to);
    }
    /// A px's place in a group, if so many to the right of it and below it are at hand, too; else −1.
    HWY_INLINE std::ptrdiff_t place(int i, int j, int more) const {
        i -= region_.x0, j -= region_.y0;
        return i >= 0 && i + more < width_ && j >= 0 && j + more < height_
                   ? stride_ * j + std::ptrdiff_t{4} * i
                   : -1;
    }
    /// The same for a vector of px; whether the four by four from there are at hand.
    template <class DI, class VI> HWY_INLINE VI places(DI di, VI i, VI j) const {
        const auto x = hn::Sub(i, hn::Set(di, region_.x0)), y = hn::Sub(j, hn::Set(di, region_.y0));
        return hn::Add(hn::Mul(y, hn::Set(di, static_cast<int>(stride_))), hn::ShiftLeft<2>(x));
    }
    template <class DI, class VI> HWY_INLINE auto holds_sixteen(DI di, VI i, VI j) const {
        return hn::And(
            hn::And(hn::Gt(i, hn::Set(di, region_.x0 - 1)), hn::Lt(i, hn::Set(di, region_.x1 - 3))),
            hn::And(hn::Gt(j, hn::Set(di, region_.y0 - 1)), hn::Lt(j, hn::Set(di, region_.y1 - 3))));
    }
    const float* group(std::size_t g) const { return groups_[g]; }
    std::ptrdiff_t stride() const { return stride_; }
    /// The field alone: its places and rows are a quarter as far apart.
    const float* alone() const { return alone_; }

  private:
    Region region_;
    int width_ = 0, height_ = 0;
    std::vector<const float*> groups_;
    const float* alone_ = nullptr;
    std::unique_ptr<float[]> room_;
    std::size_t room_size_ = 0;
    std::ptrdiff_t stride_ = 0;
};

void MakePlan(const LooksRow& looks, int width, const Frame& f, const Tile& tile, Plan& plan) {
    const D d;
    const hn::RebindToSigned<D> di;
    EachVector(looks, width, [&](const LooksRow& l, int x) HWY_ATTR {
        const Footprint foot = FootprintAt(d, l, x);
        const auto seen_x = Square(d, foot.ax, foot.bx), seen_y = Square(d, foot.ay, foot.by);
        const auto several = hn::Gt(hn::Max(seen_x, seen_y), hn::Set(d, by_one * by_one));
        const auto half = hn::Set(d, 0.5f), far = hn::Set(d, 1e7f);
        const auto u = hn::Sub(
                       hn::Mul(hn::Sub(hn::LoadU(d, l.x + x), hn::Set(d, f.x0)), hn::Set(d, f.scale_x)),
                       half),
                   v = hn::Sub(
                       hn::Mul(hn::Sub(hn::LoadU(d, l.y + x), hn::Set(d, f.y0)), hn::Set(d, f.scale_y)),
                       half);
        const auto fu = hn::Floor(u), fv = hn::Floor(v);
        const auto near = hn::And(hn::Lt(hn::Abs(fu), far), hn::Lt(hn::Abs(fv), far));
        const auto px = [di, near](V at, int from) HWY_ATTR {
            return hn::Sub(hn::ConvertTo(di, hn::IfThenElseZero(near, at)), hn::Set(di, from));
        };
        const auto i = px(fu, f.i0), j = px(fv, f.j0);
        auto single = near;
        if (f.edge == Edge::none) {
            const auto none = hn::Set(di, -2), w = hn::Set(di, f.width), h = hn::Set(di, f.height);
            single = hn::And(single, hn::RebindMask(d, hn::And(hn::And(hn::Gt(i, none), hn::Lt(i, w)),
                                                               hn::And(hn::Gt(j, none), hn::Lt(j, h)))));
        }
        const auto kind = [di](Read how) { return hn::Set(di, static_cast<int>(how)); };
        const auto one = hn::Set(di, 1), column = hn::Sub(i, one), row = hn::Sub(j, one);
        const auto at_hand = tile.holds_sixteen(di, column, row);
        auto how = hn::IfThenElse(at_hand, kind(Read::sixteen), kind(Read::edge));
        how = hn::IfThenElse(hn::RebindMask(di, single), how, kind(Read::nothing));
        how = hn::IfThenElse(hn::RebindMask(di, several), kind(Read::several), how);
        const std::size_t at = static_cast<std::size_t>(x);
        hn::StoreU(how, di, &plan.how[at]), hn::StoreU(tile.places(di, column, row), di, &plan.at[at]);
        hn::StoreU(column, di, &plan.column[at]), hn::StoreU(row, di, &plan.row[at]);
        const Weights across = WeightsFor(d, hn::Sub(u, fu), seen_x),
                      down = WeightsFor(d, hn::Sub(v, fv), seen_y);
        hn::StoreInterleaved4(across.of[0], across.of[1], across.of[2], across.of[3], d,
                              &plan.across[4 * at]);
        for (std::size_t r = 0; r < 4; ++r) hn::StoreU(down.of[r], d, &plan.down[r][at]);
        if (hn::AllFalse(d, several)) return;
        // A sample sees one px by itself: the others lie about it as far as more is seen.
        const auto a = Square(d, foot.ax, foot.ay), b = Square(d, foot.bx, foot.by), unit = hn::Set(d, 1);
        const auto more = [&](V squared)
                              HWY_ATTR { return hn::Sqrt(hn::Max(hn::Zero(d), hn::Sub(squared, unit))); };
        const auto la = hn::Sqrt(a), lb = hn::Sqrt(b), sa = more(a), sb = more(b),
                   ka = hn::Div(sa, hn::Max(unit, la)), kb = hn::Div(sb, hn::Max(unit, lb));
        const V of[7] = {hn::Mul(ka, foot.ax),
                         hn::Mul(ka, foot.ay),
                         hn::Mul(kb, foot.bx),
                         hn::Mul(kb, foot.by),
                         sa,
                         sb,
                         hn::Max(unit, hn::Min(la, lb))};
        for (std::size_t n = 0; n < 7; ++n) hn::StoreU(of[n], d, &plan.footprint[n][at]);
    });
}

// Four px in a row, of four floats each, are sixteen: in one vector, or two, or four, as the processor has
// it.
constexpr std::size_t lanes = hn::MaxLanes(D()), vectors = 16 / lanes;
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
            const auto px = hn::ShiftRight<2>(hn::Iota(di, static_cast<int>(k * lanes)));
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

/// 1 ÷ n, and 1 ÷ the sum of a tent at n places.
struct Many {
    float by, share;
};
constexpr auto of_many = [] {
    std::array<Many, most_samples + 1> out{};
    for (int n = 1; n <= most_samples; ++n) {
        const auto of = static_cast<float>(n);
        out[static_cast<std::size_t>(n)] = {1 / of, n % 2 ? 2 * of / (of * of + 1) : 2 / of};
    }
    return out;
}();

/// The samples of a px that sees much, under a tent along both axes of its footprint: the first of the
/// nearest four px of each, what the four weigh, and the level they are read at.
class Samples {
  public:
    void find(const std::vector<Frame>& frames, float x, float y, const Plan& plan, std::size_t k) {
        const int last = static_cast<int>(frames.size()) - 1;
        const auto of = [&](std::size_t n) { return plan.footprint[n][k]; };
        const float sa = of(4), sb = of(5), least = of(6);
        int level =
                std::clamp((static_cast<int>(std::bit_cast<std::uint32_t>(least) >> 23) - 127) - 1, 0, last),
            na = 1, nb = 1;
        const auto count = [&](float s) {
            return std::max(1, static_cast<int>(std::ceil(per_px * s / static_cast<float>(1 << level))));
        };
        for (na = count(sa), nb = count(sb); na * nb > most_samples && level < last;
             na = count(sa), nb = count(sb))
            ++level;
        na = std::min(na, most_samples), nb = std::min(nb, most_samples);
        frame_ = &frames[static_cast<std::size_t>(level)];
        level_ = static_cast<std::size_t>(level);
        count_ = static_cast<std::size_t>(na) * static_cast<std::size_t>(nb);
        const std::size_t room = (count_ + lanes - 1) / lanes * lanes;
        if (column_.size() < room) column_.resize(room), row_.resize(room), weight_.resize(4 * room);
        place(x, y, of(0), of(1), of(2), of(3), na, nb);
    }

    void sum(const Texels& texels, const Tile& tile, std::size_t group, float* to) const {
        const Plane* const plane = level_ > 0 ? &texels.levels()[level_].groups[group] : nullptr;
        const std::ptrdiff_t stride = plane ? plane->stride() : tile.stride();
        const int w = frame_->width - 1, h = frame_->height - 1;
        const auto first_of = [&](int i, int j) -> const float* {
            if (!plane) {
                const std::ptrdiff_t at = tile.place(i, j, 1);
                return at < 0 ? nullptr : tile.group(group) + at;
            }
            return i >= 0 && i < w && j >= 0 && j < h ? plane->row(j) + std::ptrdiff_t{4} * i : nullptr;
        };
        const D4 d4;
        for (std::size_t c = 0; c < 4; c += hn::Lanes(d4)) {
            // Upper and lower two by themselves: neither waits for the other.
            auto upper = hn::Zero(d4), lower = upper;
            for (std::size_t n = 0; n < count_; ++n) {
                const int i = column_[n], j = row_[n];
                const float* k = &weight_[4 * n];
                const auto add = [&](auto& sum, float weight, const float* px) HWY_ATTR {
                    sum = Fused(d4, hn::Set(d4, weight), hn::LoadU(d4, px + c), sum);
                };
                if (i == nowhere || (frame_->edge == Edge::none && frame_->beyond(i, j))) continue;
                if (const float* px = first_of(i, j)) {
                    add(upper, k[0], px), add(upper, k[1], px + 4);
                    add(lower, k[2], px + stride), add(lower, k[3], px + stride + 4);
                } else {
                    alignas(16) std::array<float, 16> four;
                    for (int y = 0; y < 2; ++y)
                        frame_->lay(texels, level_, group, i, j + y, 2,
                                    &four[static_cast<std::size_t>(8 * y)]);
                    add(upper, k[0], four.data()), add(upper, k[1], &four[4]);
                    add(lower, k[2], &four[8]), add(lower, k[3], &four[12]);
                }
            }
            hn::Store(hn::Add(upper, lower), d4, to + c);
        }
    }

    /// Of the field alone.
    float sum_alone(const Texels& texels, const Tile& tile, std::size_t group) const {
        if (level_ > 0) {
            alignas(16) std::array<float, 4> of;
            sum(texels, tile, group, of.data());
            return of[0];
        }
        const hn::CappedTag<float, 1> d1;
        const std::ptrdiff_t stride = tile.stride() / 4;
        auto upper = hn::Zero(d1), lower = upper;
        for (std::size_t n = 0; n < count_; ++n) {
            const int i = column_[n], j = row_[n];
            const float* k = &weight_[4 * n];
            if (i == nowhere || (frame_->edge == Edge::none && frame_->beyond(i, j))) continue;
            std::array<float, 4> held;
            const std::ptrdiff_t at = tile.place(i, j, 1);
            const float *above = tile.alone() + at / 4, *below = above + stride;
            if (at < 0) {
                texels.lay_alone(group, j, i, i + 2, held.data()),
                    texels.lay_alone(group, j + 1, i, i + 2, &held[2]);
                above = held.data(), below = &held[2];
            }
            const auto add = [&](auto& sum, float weight, const float* px)
                                 HWY_ATTR { sum = Fused(d1, hn::Set(d1, weight), hn::LoadU(d1, px), sum); };
            add(upper, k[0], above), add(upper, k[1], above + 1), add(lower, k[2], below),
                add(lower, k[3], below + 1);
        }
        return hn::GetLane(hn::Add(upper, lower));
    }

  private:
    static constexpr int nowhere = -(1 << 30);

    void place(float x, float y, float ax, float ay, float bx, float by, int na, int nb) {
        const D d;
        const hn::RebindToSigned<D> di;
        const Frame& f = *frame_;
        const auto set = [d](float v) HWY_ATTR { return hn::Set(d, v); };
        const auto one = set(1), two = set(2), half = set(0.5f), far = set(1e7f);
        const Many& many_a = of_many[static_cast<std::size_t>(na)];
        const Many& many_b = of_many[static_cast<std::size_t>(nb)];
        const float share = many_a.share * many_b.share;
        const auto a = set(static_cast<float>(na)), by_a = set(many_a.by), by_b = set(many_b.by);
        for (std::size_t n = 0; n < count_; n += lanes) {
            const auto k = hn::ConvertTo(d, hn::Iota(di, static_cast<int>(n)));
            const auto kb = hn::Floor(hn::Mul(hn::Add(k, half), by_a)), ka = Less(d, kb, a, k);
            const auto along = hn::Sub(hn::Mul(Fused(d, two, ka, one), by_a), one),
                       over = hn::Sub(hn::Mul(Fused(d, two, kb, one), by_b), one);
            const auto weight =
                hn::Mul(hn::Mul(hn::Sub(one, hn::Abs(along)), hn::Sub(one, hn::Abs(over))), set(share));
            const auto at = [&](float middle, float p, float q, float from, float scale) HWY_ATTR {
                const auto v = Fused(d, along, set(p), Fused(d, over, set(q), set(middle)));
                return hn::Sub(hn::Mul(hn::Sub(v, set(from)), set(scale)), half);
            };
            const auto u = at(x, ax, bx, f.x0, f.scale_x), v = at(y, ay, by, f.y0, f.scale_y);
            const auto fu = hn::Floor(u), fv = hn::Floor(v);
            const auto near = hn::And(hn::Lt(hn::Abs(fu), far), hn::Lt(hn::Abs(fv), far));
            const auto whole = [&](V p, int from) HWY_ATTR {
                const auto px = hn::Sub(hn::ConvertTo(di, hn::IfThenElseZero(near, p)), hn::Set(di, from));
                return hn::IfThenElse(hn::RebindMask(di, near), px, hn::Set(di, nowhere));
            };
            hn::StoreU(whole(fu, f.i0), di, &column_[n]), hn::StoreU(whole(fv, f.j0), di, &row_[n]);
            const auto s = hn::Sub(u, fu), t = hn::Sub(v, fv);
            const auto lower = hn::Mul(weight, t), upper = hn::Sub(weight, lower),
                       lower_right = hn::Mul(lower, s), upper_right = hn::Mul(upper, s);
            hn::StoreInterleaved4(hn::Sub(upper, upper_right), upper_right, hn::Sub(lower, lower_right),
                                  lower_right, d, &weight_[4 * n]);
        }
    }

    const Frame* frame_ = nullptr;
    std::size_t level_ = 0;
    std::size_t count_ = 0;
    std::vector<int> column_, row_;
    std::vector<float> weight_; // four a sample: upper left and right, lower left and right
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
                read_others(row, static_cast<std::size_t>(n));
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
        for (std::size_t k = 0; k < n; ++k) switch (Read{plan_.how[k]}) {
            case Read::sixteen: break;
            case Read::edge: read_at_edge(k); break;
            case Read::several:
                samples_.find(frames_, row.x[k], row.y[k], plan_, k);
                for (std::size_t g = 0; g < whole_; ++g) samples_.sum(texels_, tile_, g, made(g, k));
                if (texels_.ends_alone()) alone_.is(k, samples_.sum_alone(texels_, tile_, whole_));
                break;
            case Read::nothing:
                for (std::size_t g = 0; g < whole_; ++g) std::fill_n(made(g, k), 4, 0.0f);
                if (texels_.ends_alone()) alone_.is(k, 0);
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

    /// Rows may be written up to the next multiple of 16.
    void store(int x0, int n, int y) {
        const D d;
        const auto store = [&](std::size_t plane, int k, V v) HWY_ATTR {
            // What is next to nothing is nothing: nobody divides by it.
            const auto some = hn::Ge(hn::Abs(v), hn::Set(d, 1e-12f));
            hn::StoreU(hn::IfThenElseZero(some, v), d, to_[plane].row(y) + x0 + k);
        };
        for (int k = 0; k < n; k += static_cast<int>(lanes)) {
            for (std::size_t g = 0; g < whole_; ++g) {
                V v[4];
                hn::LoadInterleaved4(d, &read_[(g * together + static_cast<std::size_t>(k)) * 4], v[0], v[1],
                                     v[2], v[3]);
                for (std::size_t c = 0; c < 4 && 4 * g + c < to_.size(); ++c) store(4 * g + c, k, v[c]);
            }
            if (texels_.ends_alone()) store(4 * whole_, k, alone_.sum(static_cast<std::size_t>(k)));
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

RowsSurvey SurveyRows(const Looks& looks, int y0, int y1, Region most) {
    const D d;
    const int width = looks.region.width();
    const auto set = [d](float v) HWY_ATTR { return hn::Set(d, v); };
    const auto least_of = [d](V v) HWY_ATTR { return hn::GetLane(hn::MinOfLanes(d, v)); };
    const auto most_of = [d](V v) HWY_ATTR { return hn::GetLane(hn::MaxOfLanes(d, v)); };
    const auto x0 = set(static_cast<float>(most.x0)), x1 = set(static_cast<float>(most.x1)),
               y0_most = set(static_cast<float>(most.y0)), y1_most = set(static_cast<float>(most.y1));
    auto longest = hn::Zero(d), shortest = longest, samples = longest;
    RowsSurvey out;
    for (int first = 0; first < width; first += read_columns_at_once) {
        const int n = std::min(read_columns_at_once, width - first);
        const auto there = hn::FirstN(d, static_cast<std::size_t>(n));
        const auto none = set(1e30f), least = set(-1e30f);
        auto left = none, right = least, top = none, bottom = least;
        for (int y = y0; y < y1; ++y)
            EachVector(row_of(looks, first, y), n, [&](const LooksRow& l, int x) HWY_ATTR {
                const Footprint f = FootprintAt(d, l, x);
                const auto a = hn::IfThenElseZero(there, Square(d, f.ax, f.ay)),
                           b = hn::IfThenElseZero(there, Square(d, f.bx, f.by));
                longest = hn::Max(longest, hn::Max(a, b)), shortest = hn::Max(shortest, hn::Min(a, b));
                const auto count = [&](V squared)
                                       HWY_ATTR { return Fused(d, set(per_px), hn::Sqrt(squared), set(1)); };
                samples = hn::Max(samples, hn::Mul(count(a), count(b)));
                // A footprint, and about it what a sample of a halving sees, which is less than so much of
                // it.
                const auto across = hn::Add(hn::Abs(f.ax), hn::Abs(f.bx)),
                           down = hn::Add(hn::Abs(f.ay), hn::Abs(f.by));
                const auto about = hn::Min(set(1e7f), Fused(d, set(0.4f), hn::Add(across, down), set(2.5f))),
                           ex = hn::Add(hn::Min(across, set(1e7f)), about),
                           ey = hn::Add(hn::Min(down, set(1e7f)), about);
                const auto px = hn::LoadU(d, l.x + x), py = hn::LoadU(d, l.y + x);
                const auto low_x = hn::Sub(px, ex), high_x = hn::Add(px, ex), low_y = hn::Sub(py, ey),
                           high_y = hn::Add(py, ey);
                const auto near =
                    hn::And(there, hn::And(hn::And(hn::Gt(high_x, x0), hn::Lt(low_x, x1)),
                                           hn::And(hn::Gt(high_y, y0_most), hn::Lt(low_y, y1_most))));
                left = hn::Min(left, hn::IfThenElse(near, low_x, none));
                right = hn::Max(right, hn::IfThenElse(near, high_x, least));
                top = hn::Min(top, hn::IfThenElse(near, low_y, none));
                bottom = hn::Max(bottom, hn::IfThenElse(near, high_y, least));
            });
        out.blocks.push_back({least_of(left), most_of(right), least_of(top), most_of(bottom)});
    }
    out.longest = most_of(longest);
    // With a little to spare for rounding.
    out.halvings = most_of(shortest) > 15.99f || most_of(samples) > 0.99f * most_samples;
    return out;
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(ReadRows);
HWY_EXPORT(SurveyRows);
void read_rows(const Texels& texels, const Looks& looks, int y0, int y1, std::span<const Span> blocks,
               std::vector<Plane>& to) {
    HWY_DYNAMIC_DISPATCH(ReadRows)(texels, looks, y0, y1, blocks, to);
}
RowsSurvey survey_rows(const Looks& looks, int y0, int y1, Region most) {
    return HWY_DYNAMIC_DISPATCH(SurveyRows)(looks, y0, y1, most);
}
} // namespace bathylux
#endif
