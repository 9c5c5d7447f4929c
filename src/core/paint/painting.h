#pragma once
#include <array>
#include <atomic>
#include <functional>
#include <map>
#include <memory>

#include "core/field/plane.h"

namespace bathylux {

/// Heights painted by hand, and what was hidden, on a plane without end: a value, cheap to copy, whose copies
/// share what they have in common. Coordinates are painting px: source px about the source's centre times
/// `density()`. Where nothing was painted the height is 0 and nothing is hidden.
class Painting {
  public:
    static constexpr int side = 64; // px of a tile

    /// A tile and its halvings, one after the other (64, 32, … 1 px), each the mean of four px.
    struct Tile {
        static constexpr int levels = 7;
        static constexpr int offset(int level) {
            int at = 0;
            for (int l = 0; l < level; ++l) at += (side >> l) * (side >> l);
            return at;
        }
        std::array<float, 5461> height{}, hidden{};
        bool hides = false; // some px is hidden
    };

    explicit Painting(double density = 1) : density_(density) {}
    double density() const { return density_; }
    bool empty() const { return chunks_.empty(); }
    bool hides() const { return hides_; }
    /// Names the content: copies have it in common until one is changed.
    std::uint64_t hash() const { return version_; }
    /// The px that tiles cover; empty when nothing was painted.
    Region bounds() const;
    std::size_t tiles() const;

    /// The tile (tx, ty), which covers [64 tx, 64 tx + 64) and so on; null where nothing was painted.
    const Tile* tile(int tx, int ty) const;
    float height(int x, int y) const;
    float hidden(int x, int y) const;

    /// Hands every tile that touches `area` to `work` for changing (level 0; halvings are made afterwards),
    /// as (tile, x and y of its first px). What other copies hold stays as it is.
    void change(Region area, const std::function<void(Tile&, int, int)>& work);

  private:
    static constexpr int chunk_side = 16; // tiles of a chunk
    struct Chunk {
        std::array<std::shared_ptr<const Tile>, chunk_side * chunk_side> tiles;
    };
    double density_;
    bool hides_ = false;
    std::uint64_t version_ = 0;
    std::map<std::pair<int, int>, std::shared_ptr<const Chunk>> chunks_;
};

/// A painting over a region, read through `to_device` (source px → device px): bilinear, from the halving at
/// which a device px is about one sample. `rise` is a factor on the heights.
struct Painted {
    Plane height, hidden; // `hidden` is 0 × 0 where nothing is hidden at all
};
Painted painted(const Painting& painting, const Affine& to_device, Region region, float rise);

} // namespace bathylux
