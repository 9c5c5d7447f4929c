#pragma once
#include <stop_token>

#include "core/field/plane.h"
#include "core/piece/sources.h"

namespace bathylux {

/// Where the pixels of a computed source lie in its own px, and how far apart.
struct Grid {
    Region region;      // device px
    Affine from_device; // device px → source px
    double step = 1;    // source px from one device px to the next
    /// For what tiles: the canvas in source px, from its upper left corner; empty otherwise.
    Box tile;
};

/// Seeded noise, 0…1: octaves of gradient noise (Perlin 1985, 2002) or of the distance to scattered points
/// (Worley 1996), weighed by a gain each and divided by the gains' sum. Smooth is (1 + n) ÷ 2, ridged 1 −
/// |n|, billowed |n|. Lattice values come from an integer hash: the same on every machine. Octaves finer than
/// two pixels of the grid fade into their mean. With `warp` the place is shifted by two further octaves.
Plane noise(const NoiseSource& source, const Grid& grid, std::stop_token stop = {});

/// An even 32-bit hash of a lattice point.
constexpr std::uint32_t lattice_hash(std::int32_t x, std::int32_t y, std::uint32_t seed) {
    std::uint32_t h = static_cast<std::uint32_t>(x) * 0x9e3779b1u ^
                      static_cast<std::uint32_t>(y) * 0x85ebca77u ^ (seed + 0x165667b1u) * 0xc2b2ae3du;
    h ^= h >> 15, h *= 0x2c1b3c6du;
    h ^= h >> 12, h *= 0x297a2d39u;
    return h ^ h >> 15;
}
/// The same as a number in 0…1.
constexpr float lattice_value(std::int32_t x, std::int32_t y, std::uint32_t seed) {
    return static_cast<float>(lattice_hash(x, y, seed) >> 8) * (1.0f / 16777216.0f);
}

} // namespace bathylux
