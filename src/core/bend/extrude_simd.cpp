#include "core/bend/extrude_simd.h"

#include <algorithm>
#include <cmath>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/bend/extrude_simd.cpp"
#include <hwy/foreach_target.h> // IWYU pragma: keep
#include <hwy/highway.h>

#include "core/field/vector_math-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {

/// What a px leaves uncovered that counts as nothing.
constexpr float next_to_nothing = 1e-3f;

/// Where places first + 0.5, first + 1.5 … come from along one axis. The first is found in double, the others
/// from there: they are near.
struct Along {
    Along(double by, double off, int first, int start, int size) : by_(static_cast<float>(by)), size_(size) {
        const double at = std::clamp(by * (first + 0.5) + off - 0.5, -1e8, 1e8), before = std::floor(at);
        part_ = static_cast<float>(at - before), whole_ = static_cast<int>(before) - start;
    }
    /// The silhouette's px before a vector of places, from the i-th on, and how far past its middle.
    HWY_INLINE void find(std::size_t i, hn::Vec<DI>& px, V& past) const {
        const D d;
        const DI di;
        const auto at = Fused(d, hn::Set(d, by_), CountedFrom(d, static_cast<float>(i)), hn::Set(d, part_)),
                   floor = hn::Floor(at);
        past = hn::Sub(at, floor);
        const auto there = hn::Add(hn::Set(di, whole_), hn::ConvertTo(di, floor));
        px = hn::Min(hn::Set(di, size_), hn::Max(hn::Set(di, -2), there)); // past its ends there is nothing
    }

  private:
    float by_, part_;
    int whole_, size_;
};

HWY_INLINE V Between(D d, V part, V a, V b) { return Fused(d, part, hn::Sub(b, a), a); }

/// The columns that a vector of px look between.
class Columns {
  public:
    HWY_INLINE Columns(const Along& along, std::size_t x) {
        const DI di;
        hn::Vec<DI> px;
        along.find(x, px, right_);
        hn::Store(px, di, column_.data());
        first_ = column_[0];
        close_ = lanes > 1 && column_[lanes - 1] + 2 - first_ <= 2 * lanes;
        at_ = hn::Sub(px, hn::Set(di, first_));
    }

    /// What is read of a row.
    HWY_INLINE V read(const float* row) const {
        const D d;
#if HWY_TARGET != HWY_SCALAR
        if (close_) {
            // All of it stands in two vectors.
            const auto low = hn::LoadU(d, row + first_), high = hn::LoadU(d, row + first_ + lanes);
            const DI di;
            const auto last = hn::Set(di, lanes - 1);
            const auto of_either = [&](hn::Vec<DI> i) HWY_ATTR {
                const auto lane = hn::IndicesFromVec(d, hn::And(i, last));
                return hn::IfThenElse(hn::RebindMask(d, hn::Gt(i, last)), hn::TableLookupLanes(high, lane),
                                      hn::TableLookupLanes(low, lane));
            };
            return Between(d, right_, of_either(at_), of_either(hn::Add(at_, hn::Set(di, 1))));
        }
#endif
        alignas(64) std::array<float, 2 * lanes> pairs;
        for (int x = 0; x < lanes; ++x)
            for (std::size_t c = 0; c < 2; ++c) pairs[2 * x + c] = row[column_[x] + static_cast<int>(c)];
        V before, after;
        hn::LoadInterleaved2(d, pairs.data(), before, after);
        return Between(d, right_, before, after);
    }

  private:
    alignas(64) std::array<int, lanes> column_;
    V right_;
    hn::Vec<DI> at_;
    int first_;
    bool close_;
};

/// What a vector of px of the block makes of what the silhouette covers where they have come from; whether
/// any looks on.
HWY_INLINE bool Meet(SweepBlock& block, std::size_t i, V covers, const SweepStep& to) {
    const D d;
    const auto a = hn::Max(
        hn::Zero(d), hn::Mul(hn::Sub(covers, hn::Load(d, &block.face[i])), hn::Load(d, &block.rest[i])));
    const auto one = hn::Set(d, 1.0f), zero = hn::Zero(d), half = hn::Set(d, 0.5f);
    const auto open = hn::Gt(hn::Load(d, &block.open[i]), half);
    const auto before = hn::Load(d, &block.before[i]);
    if (hn::AllFalse(d, hn::And(open, hn::Gt(hn::Max(a, before), zero)))) return true;
    auto met = hn::Gt(hn::Load(d, &block.met[i]), half);
    auto cover = hn::Load(d, &block.cover[i]), at = hn::Load(d, &block.w[i]);
    const auto now = hn::AndNot(met, hn::And(open, hn::Ge(a, half)));
    if (!hn::AllFalse(d, now)) {
        // Where half is met between two steps.
        const auto part = hn::Div(hn::Sub(half, before), hn::Max(hn::Sub(a, before), hn::Set(d, 1e-20f))),
                   between = hn::IfThenElse(hn::Gt(a, before), hn::Min(one, hn::Max(zero, part)), one);
        const auto there = Fused(d, between, hn::Set(d, to.step), hn::Set(d, to.w - to.step));
        at = hn::IfThenElse(now, hn::Max(zero, there), at);
        met = hn::Or(met, now);
    }
    const auto more = hn::And(open, hn::Gt(a, cover));
    cover = hn::IfThenElse(more, a, cover);
    at = hn::IfThenElse(hn::AndNot(met, more), hn::Set(d, to.w), at);
    const auto goes_on = hn::And(open, hn::Le(cover, hn::Set(d, 1 - next_to_nothing)));
    hn::Store(cover, d, &block.cover[i]), hn::Store(at, d, &block.w[i]), hn::Store(a, d, &block.before[i]);
    hn::Store(hn::IfThenElseZero(met, one), d, &block.met[i]);
    hn::Store(hn::IfThenElseZero(goes_on, one), d, &block.open[i]);
    return !hn::AllFalse(d, goes_on);
}

void BeginSweep(SweepBlock& block, const std::array<const float*, SweepBlock::height>& face, int left,
                int right) {
    const D d;
    const auto one = hn::Set(d, 1.0f), zero = hn::Zero(d);
    for (std::size_t y = 0; y < SweepBlock::height; ++y) {
        const float* px = face[y];
        alignas(64) std::array<float, SweepBlock::width> part;
        if (!px || left > 0 || right < SweepBlock::width) {
            part.fill(1);
            if (px) std::copy(px + left, px + right, part.begin() + left);
            px = part.data();
        }
        bool any = false;
        for (std::size_t x = 0; x < SweepBlock::width; x += lanes) {
            const std::size_t i = y * SweepBlock::width + x;
            const auto face = hn::LoadU(d, px + x), left_open = hn::Sub(one, face);
            const auto open = hn::Gt(left_open, hn::Set(d, next_to_nothing));
            any |= !hn::AllFalse(d, open);
            hn::Store(hn::IfThenElseZero(open, one), d, &block.open[i]);
            hn::Store(face, d, &block.face[i]);
            hn::Store(hn::Div(one, hn::IfThenElse(open, left_open, one)), d, &block.rest[i]);
            for (auto* values : {&block.cover, &block.w, &block.before, &block.met})
                hn::Store(zero, d, &(*values)[i]);
        }
        block.rows[y] = any;
    }
}

void TakeSweepStep(SweepBlock& block, const SweptShape& of, const SweepStep& to) {
    const D d;
    const DI di;
    const Along across(to.by, to.off.x, to.left, of.region.x0, of.region.width()),
        down(to.by, to.off.y, to.top, of.region.y0, of.region.height());
    constexpr std::size_t room = std::max<std::size_t>(lanes, SweepBlock::height);
    alignas(64) std::array<int, room> rows;
    alignas(64) std::array<float, room> under;
    for (std::size_t y = 0; y < SweepBlock::height; y += lanes) {
        hn::Vec<DI> px;
        V past;
        down.find(y, px, past);
        hn::Store(px, di, &rows[y]), hn::Store(past, d, &under[y]);
    }
    std::array<bool, SweepBlock::height> look{};
    for (std::size_t x = 0; x < SweepBlock::width; x += lanes) {
        const Columns columns(across, x);
        const float* held = nullptr; // a row that has been read already
        auto lower = hn::Zero(d);
        for (std::size_t y = 0; y < SweepBlock::height; ++y) {
            if (!block.rows[y]) continue;
            const std::size_t i = y * SweepBlock::width + x;
            if (hn::AllFalse(d, hn::Gt(hn::Load(d, &block.open[i]), hn::Zero(d)))) continue;
            const float* const row = of.first + rows[y] * of.stride;
            const auto upper = row == held ? lower : columns.read(row);
            lower = columns.read(held = row + of.stride);
            look[y] |= Meet(block, i, Between(d, hn::Set(d, under[y]), upper, lower), to);
        }
    }
    block.rows = look;
}

void LayUnder(const SweptLook& look, const SweptRow& row, int width) {
    const D d;
    const auto set = [d](float v) HWY_ATTR { return hn::Set(d, v); };
    const auto one = set(1), zero = hn::Zero(d), high = set(look.high), alpha = set(look.color.a),
               shrink = set(look.shrink), darken = set(-look.darken);
    const auto more = [d](float* to, V by) HWY_ATTR { hn::StoreU(hn::Add(hn::LoadU(d, to), by), d, to); };
    for (int x = 0; x < width; x += lanes) {
        const auto k = hn::LoadU(d, row.stood + x);
        auto up = zero;
        if (row.height) {
            up = hn::Add(hn::LoadU(d, row.height + x), hn::IfThenElseZero(hn::Gt(k, zero), high));
            hn::StoreU(up, d, row.height + x);
        }
        const auto seen =
            hn::Max(zero, hn::Mul(hn::Sub(one, hn::LoadU(d, row.face + x)), hn::LoadU(d, row.met + x)));
        const auto some = hn::Gt(seen, zero);
        if (hn::AllFalse(d, some)) continue;
        const auto w = hn::LoadU(d, row.w + x), s = hn::Div(w, Fused(d, w, shrink, one));
        const auto covers = hn::Mul(seen, alpha), lit = hn::Mul(covers, Fused(d, darken, s, one));
        more(row.color[0] + x, hn::Mul(lit, set(look.color.r)));
        more(row.color[1] + x, hn::Mul(lit, set(look.color.g)));
        more(row.color[2] + x, hn::Mul(lit, set(look.color.b)));
        more(row.cover + x, covers);
        if (row.surface) more(row.surface + x, seen);
        if (!row.height) continue;
        const auto both = hn::Add(k, seen),
                   stands = Fused(d, up, k, hn::Mul(hn::Mul(high, hn::Sub(one, s)), seen));
        hn::StoreU(hn::IfThenElse(some, hn::Div(stands, hn::IfThenElse(some, both, one)), up), d,
                   row.height + x);
        hn::StoreU(hn::IfThenElse(some, hn::Min(one, both), k), d, row.weight + x);
    }
}

} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace bathylux {
HWY_EXPORT(BeginSweep);
HWY_EXPORT(TakeSweepStep);
HWY_EXPORT(LayUnder);
void begin_sweep(SweepBlock& block, const std::array<const float*, SweepBlock::height>& face, int left,
                 int right) {
    HWY_DYNAMIC_DISPATCH(BeginSweep)(block, face, left, right);
}
void sweep_step(SweepBlock& block, const SweptShape& silhouette, const SweepStep& to) {
    HWY_DYNAMIC_DISPATCH(TakeSweepStep)(block, silhouette, to);
}
void lay_under(const SweptLook& look, const SweptRow& row, int width) {
    HWY_DYNAMIC_DISPATCH(LayUnder)(look, row, width);
}
} // namespace bathylux
#endif
