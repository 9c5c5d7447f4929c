// How a px is read that sees much.
#if defined(BATHYLUX_BEND_TEXELS_SAMPLES_INL_H_) == defined(HWY_TARGET_TOGGLE)
#ifdef BATHYLUX_BEND_TEXELS_SAMPLES_INL_H_
#undef BATHYLUX_BEND_TEXELS_SAMPLES_INL_H_
#else
#define BATHYLUX_BEND_TEXELS_SAMPLES_INL_H_
#endif
#include <algorithm>
#include <array>
#include <span>
#include <vector>

#include "core/bend/texels_plan-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {
namespace {

using D4 = hn::CappedTag<float, 4>;

/// 1 ÷ the sum of a tent at n places.
HWY_INLINE V ShareOf(D d, V n) {
    const auto one = hn::Set(d, 1), two = hn::Set(d, 2), half = hn::Mul(n, hn::Set(d, 0.5f));
    const auto even = hn::Eq(half, hn::Floor(half));
    return hn::IfThenElse(even, hn::Div(two, n), hn::Div(hn::Mul(two, n), Fused(d, n, n, one)));
}

/// The samples of px that see much, under a tent along both axes of their footprints: the first of the
/// nearest four px of each, what the four weigh, and the level they are read at. As many px are looked at
/// together as a vector holds.
class Samples {
  public:
    /// Of the px of a row that are listed, at most `lanes`.
    void find(const std::vector<Frame>& frames, const Tile& tile, const LooksRow& row, const Plan& plan,
              std::span<const std::size_t> px) {
        const D d;
        const DI di;
        Given of{};
        for (std::size_t m = 0; m < px.size(); ++m) {
            of[middle][m] = row.x[px[m]], of[middle + 1][m] = row.y[px[m]];
            for (std::size_t i = 0; i < 7; ++i) of[first_axis + i][m] = plan.footprint[i][px[m]];
        }
        const auto given = [&](std::size_t i) HWY_ATTR { return hn::LoadU(d, of[i].data()); };
        const auto last = hn::Set(di, static_cast<int>(frames.size()) - 1), one = hn::Set(di, 1);
        const auto exponent = hn::ShiftRight<23>(hn::BitCast(di, given(shorter)));
        auto level = hn::Min(hn::Max(hn::Sub(exponent, hn::Set(di, 128)), hn::Zero(di)), last);
        const auto count = [&](std::size_t i) HWY_ATTR {
            const auto size = hn::BitCast(d, hn::ShiftLeft<23>(hn::Sub(hn::Set(di, 127), level)));
            return hn::Max(hn::Set(d, 1), hn::Ceil(hn::Mul(hn::Mul(hn::Set(d, per_px), given(i)), size)));
        };
        auto na = count(lengths), nb = count(lengths + 1);
        const auto most = hn::Set(d, static_cast<float>(most_samples));
        for (;;) {
            const auto fewer =
                hn::And(hn::RebindMask(di, hn::Gt(hn::Mul(na, nb), most)), hn::Lt(level, last));
            if (hn::AllFalse(di, fewer)) break;
            level = hn::IfThenElse(fewer, hn::Add(level, one), level), na = count(lengths),
            nb = count(lengths + 1);
        }
        na = hn::Min(na, most), nb = hn::Min(nb, most);
        hn::StoreU(hn::ConvertTo(di, hn::Mul(na, nb)), di, count_.data());
        hn::StoreU(level, di, level_.data());
        frames_ = &frames;
        place(tile, of, na, nb, px.size());
    }

    /// What those of the m-th come to in a group of four.
    void sum(const Texels& texels, const Tile& tile, std::size_t m, std::size_t group, float* to) const {
        const auto level = static_cast<std::size_t>(level_[m]);
        const Frame& frame = (*frames_)[level];
        const auto lay = [&](int i, int j, float* px) { frame.lay(texels, level, group, i, j, 2, px); };
        if (level == 0)
            return add_up<4>(
                m, tile.stride(),
                [&](std::size_t n) { return at_[n] < 0 ? nullptr : tile.group(group) + at_[n]; }, lay, to);
        const Plane& plane = texels.levels()[level].groups[group];
        const int w = frame.width - 1, h = frame.height - 1;
        add_up<4>(
            m, plane.stride(),
            [&](std::size_t n) {
                const int i = column_[n], j = row_[n];
                return i >= 0 && i < w && j >= 0 && j < h ? plane.row(j) + std::ptrdiff_t{4} * i : nullptr;
            },
            lay, to);
    }

    /// The same of the field alone.
    float sum_alone(const Texels& texels, const Tile& tile, std::size_t m, std::size_t group) const {
        alignas(16) std::array<float, 4> of;
        if (level_[m] > 0)
            sum(texels, tile, m, group, of.data());
        else
            add_up<1>(
                m, tile.stride() / 4,
                [&](std::size_t n) { return at_[n] < 0 ? nullptr : tile.alone() + at_[n] / 4; },
                [&](int i, int j, float* px) { texels.lay_alone(group, j, i, i + 2, px); }, of.data());
        return of[0];
    }

  private:
    static constexpr int nowhere = -(1 << 30);
    /// What is known of the px: where each looks, and its footprint as Plan has it.
    using Given = std::array<std::array<float, lanes>, 9>;
    static constexpr std::size_t middle = 0, first_axis = 2, second_axis = 4, lengths = 6, shorter = 8;

    /// Adds up px of so many floats, rows `stride` floats apart: `at` says where a sample's lies if its
    /// neighbours to the right and below lie there, too, `lay` lays two of a row side by side that do not.
    template <std::size_t floats, class At, class Lay>
    HWY_INLINE void add_up(std::size_t m, std::ptrdiff_t stride, const At& at, const Lay& lay,
                           float* to) const {
        const hn::CappedTag<float, floats> d;
        const Frame& frame = (*frames_)[static_cast<std::size_t>(level_[m])];
        const std::size_t end = m + static_cast<std::size_t>(count_[m]) * lanes;
        for (std::size_t c = 0; c < floats; c += hn::Lanes(d)) {
            // Upper and lower two by themselves: neither waits for the other.
            auto upper = hn::Zero(d), lower = upper;
            const auto add = [&](auto& sum, float weight, const float* px)
                                 HWY_ATTR { sum = Fused(d, hn::Set(d, weight), hn::LoadU(d, px + c), sum); };
            for (std::size_t n = m; n < end; n += lanes) {
                alignas(16) std::array<float, 4 * floats> four;
                const float* above = at(n);
                const float* below = above ? above + stride : nullptr;
                if (!above) {
                    const int i = column_[n], j = row_[n];
                    if (i == nowhere || (frame.edge == Edge::none && frame.beyond(i, j))) continue;
                    lay(i, j, four.data()), lay(i, j + 1, &four[2 * floats]);
                    above = four.data(), below = &four[2 * floats];
                }
                const float* const k = &weight_[4 * n];
                add(upper, k[0], above), add(upper, k[1], above + floats);
                add(lower, k[2], below), add(lower, k[3], below + floats);
            }
            hn::StoreU(hn::Add(upper, lower), d, to + c);
        }
    }

    void place(const Tile& tile, const Given& of, V na, V nb, std::size_t px) {
        const D d;
        const DI di;
        // Where the levels lie that px are read at.
        std::array<std::array<float, lanes>, 4> levels{};
        std::array<std::array<int, lanes>, 2> firsts{};
        for (std::size_t m = 0; m < px; ++m) {
            const Frame& f = (*frames_)[static_cast<std::size_t>(level_[m])];
            levels[0][m] = f.x0, levels[1][m] = f.y0, levels[2][m] = f.scale_x, levels[3][m] = f.scale_y;
            firsts[0][m] = f.i0, firsts[1][m] = f.j0;
        }
        const auto given = [&](std::size_t i) HWY_ATTR { return hn::LoadU(d, of[i].data()); };
        const auto of_level = [&](std::size_t i) HWY_ATTR { return hn::LoadU(d, levels[i].data()); };
        const auto set = [d](float v) HWY_ATTR { return hn::Set(d, v); };
        const auto one = set(1), two = set(2), half = set(0.5f), far = set(1e7f);
        const auto by_a = hn::Div(one, na), by_b = hn::Div(one, nb),
                   share = hn::Mul(ShareOf(d, na), ShareOf(d, nb));
        const auto samples = static_cast<std::size_t>(*std::max_element(count_.begin(), count_.begin() + px));
        if (column_.size() < samples * lanes)
            for (auto* list : {&column_, &row_, &at_}) list->resize(samples * lanes);
        if (weight_.size() < 4 * column_.size()) weight_.resize(4 * column_.size());
        for (std::size_t n = 0; n < samples; ++n) {
            const auto k = set(static_cast<float>(n));
            const auto kb = hn::Floor(hn::Mul(hn::Add(k, half), by_a)), ka = Less(d, kb, na, k);
            const auto along = hn::Sub(hn::Mul(Fused(d, two, ka, one), by_a), one),
                       over = hn::Sub(hn::Mul(Fused(d, two, kb, one), by_b), one);
            const auto weight =
                hn::Mul(hn::Mul(hn::Sub(one, hn::Abs(along)), hn::Sub(one, hn::Abs(over))), share);
            const auto at = [&](std::size_t axis) HWY_ATTR {
                const auto v = Fused(d, along, given(first_axis + axis),
                                     Fused(d, over, given(second_axis + axis), given(middle + axis)));
                return hn::Sub(hn::Mul(hn::Sub(v, of_level(axis)), of_level(2 + axis)), half);
            };
            const auto u = at(0), v = at(1);
            const auto fu = hn::Floor(u), fv = hn::Floor(v);
            const auto near = hn::RebindMask(di, hn::And(hn::Lt(hn::Abs(fu), far), hn::Lt(hn::Abs(fv), far)));
            const auto whole = [&](V p, std::size_t axis) HWY_ATTR {
                const auto first = hn::LoadU(di, firsts[axis].data());
                const auto i = hn::ConvertTo(di, hn::IfThenElseZero(hn::RebindMask(d, near), p));
                return hn::IfThenElse(near, hn::Sub(i, first), hn::Set(di, nowhere));
            };
            const auto column = whole(fu, 0), row = whole(fv, 1);
            hn::StoreU(column, di, &column_[n * lanes]), hn::StoreU(row, di, &row_[n * lanes]);
            hn::StoreU(
                hn::IfThenElse(tile.holds(di, column, row, 2), tile.places(di, column, row), hn::Set(di, -1)),
                di, &at_[n * lanes]);
            const auto s = hn::Sub(u, fu), t = hn::Sub(v, fv);
            const auto lower = hn::Mul(weight, t), upper = hn::Sub(weight, lower),
                       lower_right = hn::Mul(lower, s), upper_right = hn::Mul(upper, s);
            hn::StoreInterleaved4(hn::Sub(upper, upper_right), upper_right, hn::Sub(lower, lower_right),
                                  lower_right, d, &weight_[4 * n * lanes]);
        }
    }

    const std::vector<Frame>* frames_ = nullptr;
    // Of each px, and of each of its samples, `lanes` apart.
    std::array<int, lanes> count_{}, level_{};
    std::vector<int> column_, row_, at_; // at_: its place in the tile, or −1
    std::vector<float> weight_;          // four a sample: upper left and right, lower left and right
};

} // namespace
} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
