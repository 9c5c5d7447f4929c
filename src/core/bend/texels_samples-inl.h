// How a px is read that sees much.
#if defined(BATHYLUX_BEND_TEXELS_SAMPLES_INL_H_) == defined(HWY_TARGET_TOGGLE)
#ifdef BATHYLUX_BEND_TEXELS_SAMPLES_INL_H_
#undef BATHYLUX_BEND_TEXELS_SAMPLES_INL_H_
#else
#define BATHYLUX_BEND_TEXELS_SAMPLES_INL_H_
#endif
#include <array>
#include <bit>
#include <cmath>
#include <vector>

#include "core/bend/texels_plan-inl.h"

HWY_BEFORE_NAMESPACE();
namespace bathylux::HWY_NAMESPACE {
namespace {

using D4 = hn::CappedTag<float, 4>;

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

    /// What they come to in a group of four.
    void sum(const Texels& texels, const Tile& tile, std::size_t group, float* to) const {
        const auto lay = [&](int i, int j, float* px) { frame_->lay(texels, level_, group, i, j, 2, px); };
        if (level_ == 0)
            return add_up<4>(
                tile.stride(),
                [&](int i, int j) {
                    const std::ptrdiff_t at = tile.place(i, j, 1);
                    return at < 0 ? nullptr : tile.group(group) + at;
                },
                lay, to);
        const Plane& plane = texels.levels()[level_].groups[group];
        const int w = frame_->width - 1, h = frame_->height - 1;
        add_up<4>(
            plane.stride(),
            [&](int i, int j) {
                return i >= 0 && i < w && j >= 0 && j < h ? plane.row(j) + std::ptrdiff_t{4} * i : nullptr;
            },
            lay, to);
    }

    /// The same of the field alone.
    float sum_alone(const Texels& texels, const Tile& tile, std::size_t group) const {
        alignas(16) std::array<float, 4> of;
        if (level_ > 0)
            sum(texels, tile, group, of.data());
        else
            add_up<1>(
                tile.stride() / 4,
                [&](int i, int j) {
                    const std::ptrdiff_t at = tile.place(i, j, 1);
                    return at < 0 ? nullptr : tile.alone() + at / 4;
                },
                [&](int i, int j, float* px) { texels.lay_alone(group, j, i, i + 2, px); }, of.data());
        return of[0];
    }

  private:
    static constexpr int nowhere = -(1 << 30);

    /// Adds up px of so many floats, rows `stride` floats apart: `at` says where one lies whose neighbours to
    /// the right and below lie there, too, `lay` lays two of a row side by side that do not.
    template <std::size_t floats, class At, class Lay>
    HWY_INLINE void add_up(std::ptrdiff_t stride, const At& at, const Lay& lay, float* to) const {
        const hn::CappedTag<float, floats> d;
        for (std::size_t c = 0; c < floats; c += hn::Lanes(d)) {
            // Upper and lower two by themselves: neither waits for the other.
            auto upper = hn::Zero(d), lower = upper;
            const auto add = [&](auto& sum, float weight, const float* px)
                                 HWY_ATTR { sum = Fused(d, hn::Set(d, weight), hn::LoadU(d, px + c), sum); };
            for (std::size_t n = 0; n < count_; ++n) {
                const int i = column_[n], j = row_[n];
                if (i == nowhere || (frame_->edge == Edge::none && frame_->beyond(i, j))) continue;
                alignas(16) std::array<float, 4 * floats> four;
                const float* above = at(i, j);
                const float* below = above ? above + stride : nullptr;
                if (!above) {
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

    void place(float x, float y, float ax, float ay, float bx, float by, int na, int nb) {
        const D d;
        const DI di;
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

} // namespace
} // namespace bathylux::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();
#endif
