#include "core/solid/texels.h"

#include <algorithm>
#include <cmath>

#include "core/field/hash.h"
#include "core/field/parallel.h"

namespace bathylux {

TexelMap::TexelMap(std::shared_ptr<const Bundle> relief, double scale, bool around, bool down)
    : relief_(std::move(relief)), scale_(scale), width_(relief_->region.width()),
      height_(relief_->region.height()), around_(around), down_(down),
      texels_(static_cast<std::size_t>(width_) * height_), tiles_x_((width_ + tile - 1) / tile),
      tiles_y_((height_ + tile - 1) / tile) {
    const Bundle& b = *relief_;
    const Rows high(b.height, width_), cover(b.coverage, width_);
    const std::array<Rows, 3> color{Rows(b.color[0], width_), Rows(b.color[1], width_),
                                    Rows(b.color[2], width_)};
    const auto k = static_cast<float>(scale / 2);
    steepest_.resize(static_cast<std::size_t>(tiles_x_) * tiles_y_);
    std::vector<std::pair<float, float>> ranges(tiles_y_, {1e30f, -1e30f});
    std::vector<std::uint64_t> hashes(static_cast<std::size_t>(tiles_y_));
    parallel_rows(0, tiles_y_, [&](int ty) {
        auto& [low, top] = ranges[ty];
        Hash heights;
        for (int y = ty * tile; y < std::min(height_, (ty + 1) * tile); ++y) {
            const float *h = high(y), *above = high(row(y - 1)), *below = high(row(y + 1)), *a = cover(y);
            const float *r = color[0](y), *g = color[1](y), *blue = color[2](y);
            Texel* to = &texels_[static_cast<std::size_t>(y) * width_];
            heights.bytes(h, sizeof(float) * static_cast<std::size_t>(width_));
            for (int x = 0; x < width_; ++x) {
                const float left = h[column(x - 1)], right = h[column(x + 1)];
                to[x] = {r[x], g[x], blue[x], a[x], h[x], k * (right - left), k * (below[x] - above[x])};
                float& bend = steepest_[static_cast<std::size_t>(ty) * tiles_x_ + x / tile];
                bend = std::max(
                    {bend, std::abs(left + right - 2 * h[x]), std::abs(above[x] + below[x] - 2 * h[x])});
                low = std::min(low, h[x]), top = std::max(top, h[x]);
            }
        }
        hashes[static_cast<std::size_t>(ty)] = heights.value();
    });
    Hash all;
    all << width_ << height_ << scale << around << down;
    for (const std::uint64_t h : hashes) all << h;
    heights_hash_ = all.value();
    // Of the relief itself only the surface is read from now on.
    auto surface = std::make_shared<Bundle>();
    surface->region = b.region;
    for (std::size_t i = 0; i < b.surface().size(); ++i) *surface->surface()[i] = *b.surface()[i];
    relief_ = surface;
    range_ = ranges.empty() ? std::pair{0.0f, 0.0f} : ranges[0];
    for (const auto& [low, top] : ranges)
        range_ = {std::min(range_.first, low), std::max(range_.second, top)};
}

int TexelMap::column(int x) const { return wrapped(x, width_, around_ ? Edge::repeat : Edge::clamp); }
int TexelMap::row(int y) const { return wrapped(y, height_, down_ ? Edge::repeat : Edge::clamp); }

std::pair<int, int> TexelMap::px_of(double x, double y) const {
    return {column(static_cast<int>(std::floor(x * scale_))), row(static_cast<int>(std::floor(y * scale_)))};
}

float TexelMap::height_at(double x, double y) const {
    const double u = x * scale_ - 0.5, v = y * scale_ - 0.5, fu = std::floor(u), fv = std::floor(v);
    const int i = static_cast<int>(fu), j = static_cast<int>(fv);
    const auto p = static_cast<float>(u - fu), q = static_cast<float>(v - fv);
    const int i0 = column(i), i1 = column(i + 1), j0 = row(j), j1 = row(j + 1);
    const float top = at(i0, j0).height + p * (at(i1, j0).height - at(i0, j0).height),
                foot = at(i0, j1).height + p * (at(i1, j1).height - at(i0, j1).height);
    return top + q * (foot - top);
}

Texel TexelMap::smooth_at(double x, double y) const {
    const double u = x * scale_ - 0.5, v = y * scale_ - 0.5, fu = std::floor(u), fv = std::floor(v);
    const int i = static_cast<int>(fu), j = static_cast<int>(fv);
    const auto p = static_cast<float>(u - fu), q = static_cast<float>(v - fv);
    const int i0 = column(i), i1 = column(i + 1), j0 = row(j), j1 = row(j + 1);
    const Texel* corners[4] = {&at(i0, j0), &at(i1, j0), &at(i0, j1), &at(i1, j1)};
    const float weights[4] = {(1 - p) * (1 - q), p * (1 - q), (1 - p) * q, p * q};
    Texel out;
    for (int c = 0; c < 4; ++c) {
        const Texel& t = *corners[c];
        const float w = weights[c];
        out.red += w * t.red, out.green += w * t.green, out.blue += w * t.blue, out.alpha += w * t.alpha;
        out.height += w * t.height, out.slope_x += w * t.slope_x, out.slope_y += w * t.slope_y;
    }
    return out;
}

float TexelMap::bend_within(double x0, double y0, double x1, double y1, double apart) const {
    const auto tile_of = [&](double v, int n) {
        return std::clamp(static_cast<int>(std::floor(v * scale_ / tile)), 0, n - 1);
    };
    float most = 0;
    for (int y = tile_of(y0, tiles_y_); y <= tile_of(y1, tiles_y_); ++y)
        for (int x = tile_of(x0, tiles_x_); x <= tile_of(x1, tiles_x_); ++x)
            most = std::max(most, steepest_[static_cast<std::size_t>(y) * tiles_x_ + x]);
    // A crease lies off the chord by up to a quarter of what the slope changes by, times the chord; what
    // bends evenly by more. The second difference over one px is how much it changes there.
    return most * static_cast<float>(apart * scale_) / 4;
}

} // namespace bathylux
