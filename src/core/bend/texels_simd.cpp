#include "core/bend/texels_simd.h"

#include <algorithm>
#include <bit>
#include <cmath>

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

/// How a px is read: by sixteen px of which all are there, by sixteen of which some are past an edge, not at
/// all, or by several samples.
enum class Read : int { inside, edge, nothing, several };

constexpr int together = 64; // px of a row that are planned, read and laid into rows at a time

/// How each of them is read.
struct Plan {
    static constexpr std::size_t room = together;
    std::array<int, room> how, column, row;           // first of the sixteen px
    std::array<float, 4 * room> across, down;         // four weights a px
    std::array<std::array<float, room>, 4> footprint; // ax, ay, bx, by
};

/// Weights of four px in a row for a place a share s past the second: Catmull–Rom's, and the more is seen,
/// the more those of a B-spline (both of the family of Mitchell & Netravali 1988).
HWY_INLINE void StoreWeights(D d, V s, V seen, float* to) {
    const auto set = [d](float v) { return hn::Set(d, v); };
    const auto zero = hn::Zero(d), one = set(1),
               soft = hn::Min(one, hn::Max(zero, hn::Mul(hn::Sub(seen, set(1.1f)), set(1 / 0.7f))));
    const auto r = hn::Sub(one, s), s2 = hn::Mul(s, s), s3 = hn::Mul(s2, s), r3 = hn::Mul(hn::Mul(r, r), r),
               sixth = set(1.0f / 6);
    const auto mixed = [&](V sharp, V even) { return Fused(d, soft, hn::Sub(even, sharp), sharp); };
    const V sharp[4] = {hn::Mul(s, Polynomial(d, s, {-0.5f, 1.0f, -0.5f})),
                        Fused(d, s2, Polynomial(d, s, {1.5f, -2.5f}), one),
                        hn::Mul(s, Polynomial(d, s, {-1.5f, 2.0f, 0.5f})),
                        hn::Mul(s2, Polynomial(d, s, {0.5f, -0.5f}))};
    const V even[4] = {hn::Mul(r3, sixth),
                       hn::Mul(sixth, Fused(d, s2, Polynomial(d, s, {3.0f, -6.0f}), set(4))),
                       hn::Mul(sixth, Polynomial(d, s, {-3.0f, 3.0f, 3.0f, 1.0f})), hn::Mul(s3, sixth)};
    hn::StoreInterleaved4(mixed(sharp[0], even[0]), mixed(sharp[1], even[1]), mixed(sharp[2], even[2]),
                          mixed(sharp[3], even[3]), d, to);
}

/// Where a level lies and what is past it.
struct Frame {
    Frame(const Texels& t, int level)
        : width(t.levels[level].width), height(t.levels[level].height), edge(t.edge) {
        if (t.edge == Edge::none) {
            // Counted from the canvas's corner, so that it is the same whatever part is held.
            scale_x = scale_y = 1.0f / static_cast<float>(1 << level);
            i0 = floor_div(t.region.x0, 1 << level), j0 = floor_div(t.region.y0, 1 << level);
        } else {
            scale_x = static_cast<float>(width) / static_cast<float>(t.region.width());
            scale_y = static_cast<float>(height) / static_cast<float>(t.region.height());
            x0 = static_cast<float>(t.region.x0), y0 = static_cast<float>(t.region.y0);
        }
    }
    int width, height;
    Edge edge;
    float scale_x, scale_y, x0 = 0, y0 = 0;
    int i0 = 0, j0 = 0;

    bool beyond(int i, int j) const { return i < -1 || i >= width || j < -1 || j >= height; }
    /// The float at which a px begins, or −1 where there is nothing.
    std::ptrdiff_t anywhere(int i, int j, std::ptrdiff_t stride) const {
        if (edge == Edge::none && (i < 0 || i >= width || j < 0 || j >= height)) return -1;
        return stride * wrapped(j, height, edge) + std::ptrdiff_t{4} * wrapped(i, width, edge);
    }
};

void MakePlan(const LooksRow& row, int width, const Frame& f, Plan& plan) {
    const D d;
    const hn::RebindToSigned<D> di;
    EachVector(row, width, [&](const LooksRow& l, int x) HWY_ATTR {
        const Footprint foot = FootprintAt(d, l, x);
        const auto seen_x = hn::Sqrt(Square(d, foot.ax, foot.bx)),
                   seen_y = hn::Sqrt(Square(d, foot.ay, foot.by)), most = hn::Set(d, by_one);
        const auto several = hn::Or(hn::Gt(seen_x, most), hn::Gt(seen_y, most));
        const auto half = hn::Set(d, 0.5f), far = hn::Set(d, 1e7f);
        const auto u = hn::Sub(
                       hn::Mul(hn::Sub(hn::LoadU(d, l.x + x), hn::Set(d, f.x0)), hn::Set(d, f.scale_x)),
                       half),
                   v = hn::Sub(
                       hn::Mul(hn::Sub(hn::LoadU(d, l.y + x), hn::Set(d, f.y0)), hn::Set(d, f.scale_y)),
                       half);
        const auto fu = hn::Floor(u), fv = hn::Floor(v);
        const auto near = hn::And(hn::Lt(hn::Abs(fu), far), hn::Lt(hn::Abs(fv), far));
        const auto i = hn::Sub(hn::ConvertTo(di, hn::IfThenElseZero(near, fu)), hn::Set(di, f.i0)),
                   j = hn::Sub(hn::ConvertTo(di, hn::IfThenElseZero(near, fv)), hn::Set(di, f.j0));
        const auto zero = hn::Zero(di), one = hn::Set(di, 1), none = hn::Set(di, -1),
                   w = hn::Set(di, f.width), h = hn::Set(di, f.height), two = hn::Set(di, 2);
        const auto inside = hn::And(hn::And(hn::Gt(i, zero), hn::Lt(hn::Add(i, two), w)),
                                    hn::And(hn::Gt(j, zero), hn::Lt(hn::Add(j, two), h)));
        const auto beyond = hn::Or(hn::Or(hn::Lt(i, none), hn::Gt(i, hn::Sub(w, one))),
                                   hn::Or(hn::Lt(j, none), hn::Gt(j, hn::Sub(h, one))));
        const auto kind = [di](Read how) { return hn::Set(di, static_cast<int>(how)); };
        auto how = hn::IfThenElse(inside, kind(Read::inside), kind(Read::edge));
        if (f.edge == Edge::none) how = hn::IfThenElse(beyond, kind(Read::nothing), how);
        how = hn::IfThenElse(hn::RebindMask(di, near), how, kind(Read::nothing));
        how = hn::IfThenElse(hn::RebindMask(di, several), kind(Read::several), how);
        const std::size_t at = static_cast<std::size_t>(x);
        hn::StoreU(how, di, &plan.how[at]);
        hn::StoreU(hn::Sub(i, one), di, &plan.column[at]), hn::StoreU(hn::Sub(j, one), di, &plan.row[at]);
        StoreWeights(d, hn::Sub(u, fu), seen_x, &plan.across[4 * at]);
        StoreWeights(d, hn::Sub(v, fv), seen_y, &plan.down[4 * at]);
        hn::StoreU(foot.ax, d, &plan.footprint[0][at]), hn::StoreU(foot.ay, d, &plan.footprint[1][at]);
        hn::StoreU(foot.bx, d, &plan.footprint[2][at]), hn::StoreU(foot.by, d, &plan.footprint[3][at]);
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
                      const float* weights, float* to) {
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

/// The samples of a px that sees much, under a tent along both axes of its footprint: the first of the
/// nearest four px of each, what the four weigh, and the level they are read at.
class Samples {
  public:
    void find(const std::vector<Frame>& frames, const Texels& texels, float x, float y, float ax, float ay,
              float bx, float by) {
        const int last = static_cast<int>(frames.size()) - 1;
        const float la = std::sqrt(ax * ax + ay * ay), lb = std::sqrt(bx * bx + by * by);
        // A sample sees one px by itself: the others lie about it as far as more is seen.
        const float ka = la > 1 ? std::sqrt(1 - 1 / (la * la)) : 0,
                    kb = lb > 1 ? std::sqrt(1 - 1 / (lb * lb)) : 0;
        const float sa = ka * la, sb = kb * lb, least = std::max(1.0f, std::min(la, lb));
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
        level_ = &texels.levels[static_cast<std::size_t>(level)];
        count_ = static_cast<std::size_t>(na) * static_cast<std::size_t>(nb);
        const std::size_t room = (count_ + lanes - 1) / lanes * lanes;
        if (column_.size() < room) column_.resize(room), row_.resize(room), weight_.resize(4 * room);
        place(x, y, ka * ax, ka * ay, kb * bx, kb * by, na, nb);
    }

    void sum(std::size_t group, float* to) const {
        const Plane& plane = level_->groups[group];
        const float* const texels = plane.row(0);
        const std::ptrdiff_t stride = plane.stride();
        const int w = frame_->width - 1, h = frame_->height - 1;
        const D4 d4;
        for (std::size_t c = 0; c < 4; c += hn::Lanes(d4)) {
            // Upper and lower two by themselves: neither waits for the other.
            auto upper = hn::Zero(d4), lower = upper;
            for (std::size_t n = 0; n < count_; ++n) {
                const int i = column_[n], j = row_[n];
                const float* k = &weight_[4 * n];
                const auto add = [&](auto& sum, float weight, std::ptrdiff_t at) HWY_ATTR {
                    if (at >= 0)
                        sum = Fused(d4, hn::Set(d4, weight),
                                    hn::LoadU(d4, texels + at + static_cast<std::ptrdiff_t>(c)), sum);
                };
                if (i >= 0 && i < w && j >= 0 && j < h) {
                    const std::ptrdiff_t first = stride * j + std::ptrdiff_t{4} * i;
                    add(upper, k[0], first), add(upper, k[1], first + 4);
                    add(lower, k[2], first + stride), add(lower, k[3], first + stride + 4);
                } else if (i != nowhere && !(frame_->edge == Edge::none && frame_->beyond(i, j))) {
                    add(upper, k[0], frame_->anywhere(i, j, stride));
                    add(upper, k[1], frame_->anywhere(i + 1, j, stride));
                    add(lower, k[2], frame_->anywhere(i, j + 1, stride));
                    add(lower, k[3], frame_->anywhere(i + 1, j + 1, stride));
                }
            }
            hn::Store(hn::Add(upper, lower), d4, to + c);
        }
    }

  private:
    static constexpr int nowhere = -(1 << 30);

    void place(float x, float y, float ax, float ay, float bx, float by, int na, int nb) {
        const D d;
        const hn::RebindToSigned<D> di;
        const Frame& f = *frame_;
        const auto set = [d](float v) HWY_ATTR { return hn::Set(d, v); };
        const auto one = set(1), two = set(2), half = set(0.5f), far = set(1e7f);
        // The sum of a tent at n places.
        const auto tent = [](int n) {
            const auto of = static_cast<float>(n);
            return n % 2 ? (of * of + 1) / (2 * of) : of / 2;
        };
        const float share = 1 / (tent(na) * tent(nb));
        const auto a = set(static_cast<float>(na)), by_a = set(1 / static_cast<float>(na)),
                   by_b = set(1 / static_cast<float>(nb));
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
    const Texels::Level* level_ = nullptr;
    std::size_t count_ = 0;
    std::vector<int> column_, row_;
    std::vector<float> weight_; // four a sample: upper left and right, lower left and right
};

} // namespace

void ReadRows(const Texels& texels, const Looks& looks, int y0, int y1, std::vector<Plane>& to) {
    const D d;
    std::vector<Frame> frames;
    for (std::size_t i = 0; i < texels.levels.size(); ++i) frames.emplace_back(texels, static_cast<int>(i));
    const Frame& frame = frames[0];
    const auto& groups = texels.levels[0].groups;
    const std::ptrdiff_t stride = groups[0].stride();
    const int width = looks.region.width();
    Plan plan;
    std::vector<float> read(groups.size() * 4 * together);
    Samples samples;
    constexpr int ahead = 12;
    for (int y = y0; y < y1; ++y)
        for (int begin = 0; begin < width; begin += together) {
            const int n = std::min(together, width - begin);
            const LooksRow row = row_of(looks, begin, y);
            MakePlan(row, n, frame, plan);
            for (int k = 0; k < n; ++k) {
                const std::size_t x = static_cast<std::size_t>(k);
                const auto place = [&](std::size_t g) {
                    return &read[(g * together + static_cast<std::size_t>(k)) * 4];
                };
                const Read how{plan.how[x]};
                const float* down = &plan.down[4 * x];
                if (how == Read::inside) {
                    // What a later one reads first: rows above it are at hand from the row before.
                    if (k + ahead < n) {
                        const std::size_t later = x + ahead;
                        const std::ptrdiff_t lowest =
                            std::clamp(plan.row[later] + 3, 0, frame.height - 1) * stride +
                            std::ptrdiff_t{4} * std::clamp(plan.column[later] + 3, 0, frame.width - 1);
                        for (const Plane& g : groups) hwy::Prefetch(g.row(0) + lowest);
                    }
                    const std::ptrdiff_t first = plan.row[x] * stride + std::ptrdiff_t{4} * plan.column[x];
                    const Sixteen across = Spread(d, &plan.across[4 * x]);
                    for (std::size_t g = 0; g < groups.size(); ++g)
                        Cubic(d, groups[g].row(0) + first, stride, across, down, place(g));
                } else if (how == Read::edge) {
                    const Sixteen across = Spread(d, &plan.across[4 * x]);
                    for (std::size_t g = 0; g < groups.size(); ++g) {
                        alignas(64) std::array<float, 64> around{};
                        for (int i = 0; i < 16; ++i) {
                            const std::ptrdiff_t at =
                                frame.anywhere(plan.column[x] + i % 4, plan.row[x] + i / 4, stride);
                            if (at >= 0)
                                std::copy_n(groups[g].row(0) + at, 4,
                                            &around[static_cast<std::size_t>(i) * 4]);
                        }
                        Cubic(d, around.data(), 16, across, down, place(g));
                    }
                } else if (how == Read::several) {
                    samples.find(frames, texels, row.x[x], row.y[x], plan.footprint[0][x],
                                 plan.footprint[1][x], plan.footprint[2][x], plan.footprint[3][x]);
                    for (std::size_t g = 0; g < groups.size(); ++g) samples.sum(g, place(g));
                } else
                    for (std::size_t g = 0; g < groups.size(); ++g) std::fill_n(place(g), 4, 0.0f);
            }
            // Rows may be written up to the next multiple of 16.
            for (int k = 0; k < n; k += static_cast<int>(lanes))
                for (std::size_t g = 0; g < groups.size(); ++g) {
                    V v[4];
                    hn::LoadInterleaved4(d, &read[(g * together + static_cast<std::size_t>(k)) * 4], v[0],
                                         v[1], v[2], v[3]);
                    for (std::size_t c = 0; c < 4 && 4 * g + c < to.size(); ++c) {
                        // What is next to nothing is nothing: nobody divides by it.
                        const auto some = hn::Ge(hn::Abs(v[c]), hn::Set(d, 1e-12f));
                        hn::StoreU(hn::IfThenElseZero(some, v[c]), d, to[4 * g + c].row(y) + begin + k);
                    }
                }
        }
}

RowSeen SeenInRow(const Looks& looks, int y) {
    const D d;
    const int width = looks.region.width();
    auto longest = hn::Zero(d), shortest = longest, most = longest;
    EachVector(row_of(looks, 0, y), width, [&](const LooksRow& l, int x) HWY_ATTR {
        const Footprint f = FootprintAt(d, l, x);
        auto a = Square(d, f.ax, f.ay), b = Square(d, f.bx, f.by);
        if (width < static_cast<int>(lanes)) {
            const auto there = hn::FirstN(d, static_cast<std::size_t>(width));
            a = hn::IfThenElseZero(there, a), b = hn::IfThenElseZero(there, b);
        }
        longest = hn::Max(longest, hn::Max(a, b)), shortest = hn::Max(shortest, hn::Min(a, b));
        const auto count = [&](V squared) HWY_ATTR {
            return Fused(d, hn::Set(d, per_px), hn::Sqrt(squared), hn::Set(d, 1));
        };
        most = hn::Max(most, hn::Mul(count(a), count(b)));
    });
    const auto largest = [d](V v) HWY_ATTR { return hn::GetLane(hn::MaxOfLanes(d, v)); };
    // With a little to spare for rounding.
    return {largest(longest), largest(shortest) > 15.99f || largest(most) > 0.99f * most_samples};
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(ReadRows);
HWY_EXPORT(SeenInRow);
void read_rows(const Texels& texels, const Looks& looks, int y0, int y1, std::vector<Plane>& to) {
    HWY_DYNAMIC_DISPATCH(ReadRows)(texels, looks, y0, y1, to);
}
RowSeen seen_in_row(const Looks& looks, int y) { return HWY_DYNAMIC_DISPATCH(SeenInRow)(looks, y); }
} // namespace bathylux
#endif
