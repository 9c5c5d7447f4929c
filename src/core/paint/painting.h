#pragma once
#include <array>
#include <atomic>
#include <functional>
#include <map>
#include <memory>
#include <vector>

#include "core/field/plane.h"

namespace bathylux {

/// Heights painted by hand, what was hidden, and ink, on a plane without end; or, of what was pushed (see
/// push.h), how far to the right in place of the height and how far down in place of what is hidden: a value,
/// cheap to copy, whose copies share what they have in common. Coordinates are painting px: source px about
/// the source's centre times `density()`. Where nothing was painted the height is 0, nothing is hidden and
/// there is no ink.
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
        static constexpr int size = 5461;
        std::array<float, size> height{}, hidden{};
        bool hides = false; // some px is hidden
        /// Linear red, green and blue times coverage, and coverage: a plane after the other, each like the
        /// others. Empty: none.
        std::vector<float> ink{};
        /// Of channel c, 0…3; there is some afterwards.
        float* ink_plane(int c) {
            if (ink.empty()) ink.resize(4 * static_cast<std::size_t>(size), 0.0f);
            return ink.data() + static_cast<std::size_t>(c) * size;
        }
    };

    explicit Painting(double density = 1) : density_(density) {}
    double density() const { return density_; }
    bool empty() const { return chunks_.empty(); }
    bool hides() const { return hides_; }
    bool inked() const { return inked_; }
    /// Names the content: copies have it in common until one is changed.
    std::uint64_t hash() const { return version_; }
    /// The px that tiles cover; empty when nothing was painted.
    Region bounds() const;
    std::size_t tiles() const;

    /// The tile (tx, ty), which covers [64 tx, 64 tx + 64) and so on; null where nothing was painted.
    const Tile* tile(int tx, int ty) const;
    float height(int x, int y) const;
    float hidden(int x, int y) const;
    /// Premultiplied linear colour and coverage.
    std::array<float, 4> ink(int x, int y) const;

    /// Hands every tile that touches `area` to `work` for changing (level 0; halvings are made afterwards),
    /// as (tile, x and y of its first px). What other copies hold stays as it is.
    void change(Region area, const std::function<void(Tile&, int, int)>& work);

  private:
    static constexpr int chunk_side = 16; // tiles of a chunk
    struct Chunk {
        std::array<std::shared_ptr<const Tile>, chunk_side * chunk_side> tiles;
    };
    double density_;
    bool hides_ = false, inked_ = false;
    std::uint64_t version_ = 0;
    std::map<std::pair<int, int>, std::shared_ptr<const Chunk>> chunks_;
};

/// A painting over a region, read through `to_device` (source px → device px): bilinear, from the halving at
/// which a device px is about one sample. `rise` is a factor on the heights.
struct Painted {
    Plane height, hidden; // `hidden` is 0 × 0 where nothing is hidden at all
};
Painted painted(const Painting& painting, const Affine& to_device, Region region, float rise);
/// A drift likewise: how far to the right, and down, in px of the element's own.
std::array<Plane, 2> drift_of(const Painting& painting, const Affine& to_device, Region region);
/// Its ink likewise: linear red, green and blue times coverage, and coverage.
std::array<Plane, 4> ink_of(const Painting& painting, const Affine& to_device, Region region);

} // namespace bathylux
