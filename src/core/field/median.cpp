#include "core/field/median.h"

#include <cstring>

#include "core/field/median_simd.h"
#include "core/field/parallel.h"

namespace bathylux {

namespace {

constexpr int tile_width = 64, tile_height = 128;

/// One tile's work: `in` holds it with `radius` px around.
class Tile {
  public:
    Tile(const Plane& source, Region have, Region out, int radius, Edge edge)
        : out_(out), radius_(radius), w_(out.width() + 2 * radius), h_(out.height() + 2 * radius),
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

    void run(Plane& to, Region wanted) {
        const int side = 2 * radius_ + 1, half = side * side / 2; // so many lie below the median
        std::vector<std::uint16_t> columns(static_cast<std::size_t>(w_) * median_classes, 0);
        const auto column = [&](int x) { return &columns[static_cast<std::size_t>(x) * median_classes]; };
        for (int x = 0; x < w_; ++x) {
            for (int y = 0; y < side; ++y) ++column(x)[class_at(x, y)];
            for (int b = 1; b < median_classes; ++b)
                column(x)[b] = static_cast<std::uint16_t>(column(x)[b] + column(x)[b - 1]);
        }
        std::vector<std::uint32_t> first(median_classes, 0), sum;
        for (int y = 0; y < out_.height(); ++y) {
            if (y > 0)
                for (int x = 0; x < w_; ++x)
                    exchange_in_column(column(x), class_at(x, y + side - 1), class_at(x, y - 1));
            first.assign(median_classes, 0);
            for (int x = 0; x < side; ++x)
                for (int b = 0; b < median_classes; ++b) first[b] += column(x)[b];
            sum = first;
            float* row = to.row(out_.y0 + y - wanted.y0) + (out_.x0 - wanted.x0);
            int b = 0;
            for (int x = 0; x < out_.width(); ++x) {
                if (x > 0) slide_window(sum.data(), column(x + side - 1), column(x - 1));
                // The class in which the count passes one half; seldom far from the last one.
                const auto most = static_cast<std::uint32_t>(half);
                while (b > 0 && sum[b - 1] > most) --b;
                while (sum[b] <= most) ++b;
                const int below = b > 0 ? static_cast<int>(sum[b - 1]) : 0, from = starts_[b];
                const int i = nth_in_window(&member_x_[from], &member_y_[from], starts_[b + 1] - from, x,
                                            x + side - 1, y, y + side - 1, half - below);
                row[x] = values_[static_cast<std::size_t>(member_y_[from + i]) * w_ + member_x_[from + i]];
            }
        }
    }

  private:
    int class_at(int x, int y) const { return classes_[static_cast<std::size_t>(y) * w_ + x]; }

    void rank() {
        const auto n = values_.size();
        const auto [low, high] = std::minmax_element(values_.begin(), values_.end());
        const float scale = *high > *low ? 65535.0f / (*high - *low) : 0.0f, base = *low;
        std::vector<std::uint32_t> from(n), to(n); // key << 16 … does not fit: index kept beside
        std::vector<std::uint16_t> keys(n);
        for (std::size_t i = 0; i < n; ++i)
            keys[i] = static_cast<std::uint16_t>((values_[i] - base) * scale + 0.5f);
        for (std::size_t i = 0; i < n; ++i) from[i] = static_cast<std::uint32_t>(i);
        for (int shift : {0, 8}) {
            std::array<std::uint32_t, 257> begin{};
            for (std::size_t i = 0; i < n; ++i) ++begin[(keys[i] >> shift & 255) + 1];
            for (int d = 0; d < 256; ++d) begin[d + 1] += begin[d];
            for (std::size_t i = 0; i < n; ++i) to[begin[keys[from[i]] >> shift & 255]++] = from[i];
            std::swap(from, to);
        }
        member_x_.resize(n + 16), member_y_.resize(n + 16);
        starts_.resize(median_classes + 1);
        for (int b = 0; b <= median_classes; ++b)
            starts_[b] = static_cast<int>(n * static_cast<std::size_t>(b) / median_classes);
        int b = 0;
        for (std::size_t k = 0; k < n; ++k) {
            while (static_cast<int>(k) >= starts_[b + 1]) ++b;
            const std::uint32_t i = from[k], y = i / static_cast<std::uint32_t>(w_);
            member_x_[k] = static_cast<std::int16_t>(i - y * static_cast<std::uint32_t>(w_));
            member_y_[k] = static_cast<std::int16_t>(y);
            classes_[i] = static_cast<std::uint8_t>(b);
        }
    }

    Region out_;
    int radius_, w_, h_;
    std::vector<float> values_;
    std::vector<std::uint8_t> classes_;
    std::vector<int> starts_;
    std::vector<std::int16_t> member_x_, member_y_; // in order of value
};

} // namespace

Plane median(const Plane& in, Region have, Region wanted, int radius, Edge edge, std::stop_token stop) {
    Plane out(wanted.width(), wanted.height());
    if (radius <= 0) return extended(in, have, wanted, edge);
    // Wide windows want wide tiles, or the rims would be all the work.
    const int tw = std::max(tile_width, radius), th = std::max(tile_height, 2 * radius);
    const int across = (wanted.width() + tw - 1) / tw, down = (wanted.height() + th - 1) / th;
    parallel_blocks(
        0, across * down, 1,
        [&](int i, int) {
            const int x0 = wanted.x0 + i % across * tw, y0 = wanted.y0 + i / across * th;
            const Region part{x0, y0, std::min(x0 + tw, wanted.x1), std::min(y0 + th, wanted.y1)};
            Tile(in, have, part, radius, edge).run(out, wanted);
        },
        stop);
    return out;
}

} // namespace bathylux
