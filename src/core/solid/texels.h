#pragma once
#include <cstdint>
#include <memory>
#include <vector>

#include "core/step/bundle.h"

namespace bathylux {

/// What a skin reads of a relief at one point of the canvas; one load and never two lines of the cache.
struct alignas(32) Texel {
    float red = 0, green = 0, blue = 0, alpha = 0; // linear, premultiplied
    float height = 0, slope_x = 0, slope_y = 0;    // canvas px; px per px to the right and down
};

/// A relief over the whole canvas, made ready to be read in any order: colour, height and slope of a px side
/// by side. Slopes are central differences; past the edge the nearest px is held, or the canvas goes on.
class TexelMap {
  public:
    /// `relief` covers the canvas, whose px are `scale` to a canvas px. `around`: it goes on past its left
    /// and right edges; `down`: past top and bottom.
    TexelMap(std::shared_ptr<const Bundle> relief, double scale, bool around, bool down);

    int width() const { return width_; }
    int height() const { return height_; }
    double scale() const { return scale_; }
    /// The relief's surface, and nothing else of it.
    const Bundle& bundle() const { return *relief_; }

    const Texel& at(int x, int y) const { return texels_[static_cast<std::size_t>(y) * width_ + x]; }
    /// The px in which a point of the canvas lies (canvas px).
    std::pair<int, int> px_of(double x, double y) const;
    /// Between the centres of px, bilinear.
    float height_at(double x, double y) const;
    Texel smooth_at(double x, double y) const;
    /// The most that a height differs from the straight line between those `apart` canvas px to its sides,
    /// within a box of the canvas.
    float bend_within(double x0, double y0, double x1, double y1, double apart) const;
    std::pair<float, float> range() const { return range_; }
    /// A hash of its heights, and of how they go on.
    std::uint64_t heights_hash() const { return heights_hash_; }
    std::size_t bytes() const {
        std::size_t out = texels_.size() * sizeof(Texel);
        for (const Field* f : bundle().surface()) out += f->bytes();
        return out;
    }

  private:
    int column(int x) const;
    int row(int y) const;

    std::shared_ptr<const Bundle> relief_;
    double scale_;
    int width_, height_;
    bool around_, down_;
    std::vector<Texel> texels_;
    std::pair<float, float> range_{0, 0};
    std::uint64_t heights_hash_ = 0;
    static constexpr int tile = 8;
    std::vector<float> steepest_; // the most that slopes change from px to px, by tiles
    int tiles_x_ = 0, tiles_y_ = 0;
};

} // namespace bathylux
