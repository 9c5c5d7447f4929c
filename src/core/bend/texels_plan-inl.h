// How each px of a row is read, and from where.
#if defined(BATHYLUX_BEND_TEXELS_PLAN_INL_H_) == defined(HWY_TARGET_TOGGLE)
#ifdef BATHYLUX_BEND_TEXELS_PLAN_INL_H_
#undef BATHYLUX_BEND_TEXELS_PLAN_INL_H_
#else
#define BATHYLUX_BEND_TEXELS_PLAN_INL_H_
#endif
#include <array>
#include <memory>
#include <vector>

#include "core/bend/footprint-inl.h"
#include "core/bend/texels.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {
namespace {

/// How a px is read: by sixteen px at hand, by sixteen of which some are past an edge, not at all, or by
/// several samples.
enum class Read : int { sixteen, edge, nothing, several };

constexpr int together = 64; // px of a row that are planned, read and laid into rows at a time

/// How each of them is read.
struct Plan {
    static constexpr std::size_t room = together;
    bool plain = true;                                // all of them by sixteen at hand
    std::array<int, room> how, column, row;           // first of the sixteen px, where some are not at hand
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
    explicit Tile(const Texels& t) : region_{0, 0, t.region().width(), t.region().height()} {
        for (const Plane& p : t.levels()[0].groups) groups_.push_back(p.row(0)), stride_ = p.stride();
    }
    /// Lays what is to be read side by side, and behind it a last field alone.
    void lay(const Texels& t, Region r) {
        region_ = r, stride_ = std::ptrdiff_t{4} * r.width();
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
        for (int y = r.y0; t.ends_alone() && y < r.y1; ++y, to += r.width())
            t.lay_alone(whole, y, r.x0, r.x1, to);
    }
    /// Where px lie in a group, and whether the n by n px from there are at hand.
    HWY_INLINE hn::Vec<DI> places(DI di, hn::Vec<DI> i, hn::Vec<DI> j) const {
        const auto x = hn::Sub(i, hn::Set(di, region_.x0)), y = hn::Sub(j, hn::Set(di, region_.y0));
        return hn::Add(hn::Mul(y, hn::Set(di, static_cast<int>(stride_))), hn::ShiftLeft<2>(x));
    }
    HWY_INLINE auto holds(DI di, hn::Vec<DI> i, hn::Vec<DI> j, int n) const {
        const auto set = [di](int v) HWY_ATTR { return hn::Set(di, v); };
        return hn::And(hn::And(hn::Gt(i, set(region_.x0 - 1)), hn::Lt(i, set(region_.x1 - n + 1))),
                       hn::And(hn::Gt(j, set(region_.y0 - 1)), hn::Lt(j, set(region_.y1 - n + 1))));
    }
    const float* group(std::size_t g) const { return groups_[g]; }
    std::ptrdiff_t stride() const { return stride_; }
    /// The field alone: its places and rows are a quarter as far apart.
    const float* alone() const { return alone_; }

  private:
    Region region_;
    std::vector<const float*> groups_;
    const float* alone_ = nullptr;
    std::unique_ptr<float[]> room_;
    std::size_t room_size_ = 0;
    std::ptrdiff_t stride_ = 0;
};

void MakePlan(const LooksRow& looks, int width, const Frame& f, const Tile& tile, Plan& plan) {
    const D d;
    const DI di;
    plan.plain = true;
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
        const auto at_hand = tile.holds(di, column, row, 4);
        auto how = hn::IfThenElse(at_hand, kind(Read::sixteen), kind(Read::edge));
        how = hn::IfThenElse(hn::RebindMask(di, single), how, kind(Read::nothing));
        how = hn::IfThenElse(hn::RebindMask(di, several), kind(Read::several), how);
        plan.plain &= hn::AllTrue(di, hn::Eq(how, kind(Read::sixteen)));
        const std::size_t at = static_cast<std::size_t>(x);
        hn::StoreU(how, di, &plan.how[at]), hn::StoreU(tile.places(di, column, row), di, &plan.at[at]);
        if (!hn::AllTrue(di, at_hand))
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

} // namespace
} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
