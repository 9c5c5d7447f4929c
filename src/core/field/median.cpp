#include "core/field/median.h"

#include <bit>
#include <cstring>

#include "core/field/median_simd.h"
#include "core/field/parallel.h"

namespace bathylux {

namespace {

constexpr int tile_width = 64, tile_height = 160;

/// A tile with `radius` px around it, ranked.
template <class Place> class Tile {
  public:
    Tile(const Plane& source, Region have, Region out, int radius, Edge edge)
        : w_(out.width() + 2 * radius), h_(out.height() + 2 * radius), radius_(radius),
          values_(static_cast<std::size_t>(w_) * h_), classes_(values_.size()) {
        for (int y = 0; y < h_; ++y) {
            const float* row = source.row(wrapped(out.y0 - radius + y - have.y0, have.height(), edge));
            float* to = &values_[static_cast<std::size_t>(y) * w_];
            const int first = out.x0 - radius - have.x0;
            if (first >= 0 && first + w_ <= have.width())
                std::memcpy(to, row + first, sizeof(float) * w_);
            else
                for (int x = 0; x < w_; ++x) to[x] = row[wrapped(first + x, have.width(), edge)];
        }
        rank();
    }
    void run(float* out, int stride) const {
        median_rows(MedianTile<Place>{w_, h_, 2 * radius_ + 1, values_.data(), classes_.data(), x_.data(),
                                      y_.data(), starts_.data()},
                    out, stride);
    }

  private:
    void rank() {
        const auto n = values_.size();
        // In the order of the numbers themselves, so that the answer hangs on no tile: key above, place
        // below, sorted by eleven bits at a time.
        std::vector<std::uint64_t> from(n), to(n);
        std::array<std::array<std::uint32_t, 2049>, 3> begin{};
        for (std::size_t i = 0; i < n; ++i) {
            const auto bits = std::bit_cast<std::uint32_t>(values_[i]);
            const std::uint64_t key = bits ^ (bits >> 31 ? 0xFFFFFFFFu : 0x80000000u);
            for (int pass = 0; pass < 3; ++pass) ++begin[pass][(key >> (11 * pass) & 2047) + 1];
            from[i] = key << 32 | i;
        }
        for (int pass = 0; pass < 3; ++pass) {
            auto& b = begin[pass];
            for (int d = 0; d < 2048; ++d) b[d + 1] += b[d];
            for (const std::uint64_t v : from) to[b[v >> (32 + 11 * pass) & 2047]++] = v;
            std::swap(from, to);
        }
        x_.resize(n + 128), y_.resize(n + 128);
        starts_.resize(median_classes + 1);
        for (int b = 0; b <= median_classes; ++b)
            starts_[b] = static_cast<int>(n * static_cast<std::size_t>(b) / median_classes);
        for (int b = 0; b < median_classes; ++b)
            for (int k = starts_[b]; k < starts_[b + 1]; ++k) {
                const auto i = static_cast<std::uint32_t>(from[k]);
                const std::uint32_t y = i / static_cast<std::uint32_t>(w_);
                x_[k] = static_cast<Place>(i - y * static_cast<std::uint32_t>(w_));
                y_[k] = static_cast<Place>(y);
                classes_[i] = static_cast<std::uint8_t>(b);
            }
    }

    int w_, h_, radius_;
    std::vector<float> values_;
    std::vector<std::uint8_t> classes_;
    std::vector<int> starts_;
    std::vector<Place> x_, y_; // in order of value
};

} // namespace

Plane median(const Plane& in, Region have, Region wanted, int radius, Edge edge, std::stop_token stop) {
    Plane out(wanted.width(), wanted.height());
    if (radius <= 0) return extended(in, have, wanted, edge);
    // Wide windows want wide tiles, or the rims would be all the work.
    const bool small = tile_height + 2 * radius <= 255;
    const int tw = std::max(tile_width, radius), th = std::max(tile_height, 2 * radius);
    const int across = (wanted.width() + tw - 1) / tw, down = (wanted.height() + th - 1) / th;
    parallel_blocks(
        0, across * down, 1,
        [&](int i, int) {
            const int x0 = wanted.x0 + i % across * tw, y0 = wanted.y0 + i / across * th;
            const Region part{x0, y0, std::min(x0 + tw, wanted.x1), std::min(y0 + th, wanted.y1)};
            float* to = out.row(part.y0 - wanted.y0) + (part.x0 - wanted.x0);
            if (small)
                Tile<std::uint8_t>(in, have, part, radius, edge).run(to, out.stride());
            else
                Tile<std::uint16_t>(in, have, part, radius, edge).run(to, out.stride());
        },
        stop);
    return out;
}

} // namespace bathylux
