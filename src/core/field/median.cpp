#include "core/field/median.h"

#include <hwy/contrib/sort/vqsort.h>

#include <algorithm>
#include <bit>
#include <limits>
#include <vector>

#include "core/field/median_simd.h"
#include "core/field/parallel.h"

namespace bathylux {

namespace {

constexpr int tile_width = 64, tile_height = 100;

/// A tile with `radius` px around it, ranked.
template <class Rank, class Place> class Tile {
  public:
    Tile(const Plane& source, Region have, Region out, int radius, Edge edge)
        : w_(out.width() + 2 * radius), h_(out.height() + 2 * radius), radius_(radius) {
        // In the order of the numbers themselves, so that the answer hangs on no tile: value above, place
        // below.
        const auto n = static_cast<std::size_t>(w_) * h_;
        std::vector<std::uint64_t> order(n);
        std::vector<float> beyond(w_);
        std::uint64_t* to = order.data();
        for (int y = 0; y < h_; ++y) {
            const float* row = source.row(wrapped(out.y0 - radius + y - have.y0, have.height(), edge));
            const int first = out.x0 - radius - have.x0;
            if (first >= 0 && first + w_ <= have.width())
                row += first;
            else {
                for (int x = 0; x < w_; ++x) beyond[x] = row[wrapped(first + x, have.width(), edge)];
                row = beyond.data();
            }
            for (int x = 0; x < w_; ++x) {
                const auto bits = std::bit_cast<std::uint32_t>(row[x]);
                const std::uint64_t key = bits ^ (bits >> 31 ? 0xFFFFFFFFu : 0x80000000u);
                *to++ = key << 32 | static_cast<std::uint32_t>(y) << 16 | static_cast<std::uint32_t>(x);
            }
        }
        const hwy::Sorter sort; // has room of its own, so every thread wants one
        sort(order.data(), n, hwy::SortAscending());
        note(order);
    }
    void run(float* out, int stride) const {
        median_rows(MedianTile<Rank, Place>{w_, h_, 2 * radius_ + 1, by_row_.data(), by_column_.data(),
                                            values_.data() + median_margin, x_.data() + median_margin,
                                            y_.data() + median_margin},
                    out, stride);
    }

  private:
    void note(const std::vector<std::uint64_t>& order) {
        const auto n = order.size();
        by_row_.resize(n + 64), by_column_.resize(n + 64);
        // What stands in the margins lies in no window.
        const auto nowhere = std::numeric_limits<Place>::max();
        x_.assign(n + 2 * median_margin, nowhere), y_.assign(n + 2 * median_margin, nowhere);
        values_.resize(n + 2 * median_margin);
        for (std::size_t k = 0; k < n; ++k) {
            const auto key = static_cast<std::uint32_t>(order[k] >> 32);
            const std::uint32_t x = order[k] & 0xFFFF, y = order[k] >> 16 & 0xFFFF;
            const auto rank =
                static_cast<Rank>(static_cast<std::int64_t>(k) + std::numeric_limits<Rank>::min());
            values_[median_margin + k] = std::bit_cast<float>(key ^ (key >> 31 ? 0x80000000u : 0xFFFFFFFFu));
            x_[median_margin + k] = static_cast<Place>(x);
            y_[median_margin + k] = static_cast<Place>(y);
            by_row_[static_cast<std::size_t>(y) * w_ + x] = rank;
            by_column_[static_cast<std::size_t>(x) * h_ + y] = rank;
        }
    }

    int w_, h_, radius_;
    std::vector<Rank> by_row_, by_column_;
    std::vector<float> values_; // by rank
    std::vector<Place> x_, y_;  // by rank
};

/// Whether all that the windows of a tile see is one value.
bool even(const Plane& in, Region seen, Region have) {
    const float first = in(seen.x0 - have.x0, seen.y0 - have.y0);
    for (int y = seen.y0; y < seen.y1; ++y) {
        const float* row = in.row(y - have.y0) - have.x0;
        if (!std::all_of(row + seen.x0, row + seen.x1, [&](float v) { return v == first; })) return false;
    }
    return true;
}

} // namespace

Plane median(const Plane& in, Region have, Region wanted, int radius, Edge edge) {
    Plane out(wanted.width(), wanted.height());
    if (radius <= 0) return extended(in, have, wanted, edge);
    // Wide windows want wide tiles, or the rims would be all the work.
    const bool small = tile_height + 2 * radius < 255;
    const int tw = std::max(tile_width, radius), th = std::max(tile_height, 2 * radius);
    const int across = (wanted.width() + tw - 1) / tw, down = (wanted.height() + th - 1) / th;
    parallel_blocks(0, across * down, 1, [&](int i, int) {
        const int x0 = wanted.x0 + i % across * tw, y0 = wanted.y0 + i / across * th;
        const Region part{x0, y0, std::min(x0 + tw, wanted.x1), std::min(y0 + th, wanted.y1)};
        float* to = out.row(part.y0 - wanted.y0) + (part.x0 - wanted.x0);
        // Flat parts, most of a shape's coverage, need no ranks. What lies past the edge is seen within, too.
        if (const Region seen = intersect(grow(part, radius), have);
            have.contains(part) && edge != Edge::repeat && even(in, seen, have)) {
            const float value = in(seen.x0 - have.x0, seen.y0 - have.y0);
            for (int y = 0; y < part.height(); ++y)
                std::fill_n(to + static_cast<std::ptrdiff_t>(y) * out.stride(), part.width(), value);
            return;
        }
        if (small)
            Tile<std::int16_t, std::uint8_t>(in, have, part, radius, edge).run(to, out.stride());
        else
            Tile<std::int32_t, std::uint16_t>(in, have, part, radius, edge).run(to, out.stride());
    });
    return out;
}

} // namespace bathylux
