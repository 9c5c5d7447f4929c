#pragma once
#include <functional>

#include "core/field/plane.h"
#include "core/make/source_kind.h"

namespace bathylux {

enum class NoiseFlavor { smooth, ridged, billowed, cells };
inline constexpr std::array<std::string_view, 4> noise_flavor_names{"smooth", "ridged", "billowed", "cells"};

/// Seeded noise that fills the canvas; a float source in 0…1.
struct NoiseSource {
    float seed = 1, size_u = 120, size_v = 120, octaves = 4;
    std::vector<double> gains{1, 0.5, 0.25, 0.125};
    NoiseFlavor flavor = NoiseFlavor::smooth;
    float warp = 0;
    bool tile = false;

    static constexpr std::string_view id = "noise", name = "Noise",
                                      help = "Seeded noise over the whole canvas";
    static constexpr bool fills = true, tonal = true;
    static constexpr Channels gives = channel::color | channel::tone;
    static constexpr std::array parameters{
        choice<&NoiseSource::flavor, noise_flavor_names>("flavor", "Flavour",
                                                         "Smooth hills, sharp ridges, billows or cells"),
        whole<&NoiseSource::seed>("seed", "Seed", {0, 99, 0, 1000000}, "Another number, another noise")
            .ranked(Rank::folded),
        number<&NoiseSource::size_u>("size_u", "Size across", Unit::px, {4, 600, 0.5, 100000},
                                     "Distance of the largest hills, across")
            .ranked(Rank::folded),
        number<&NoiseSource::size_v>("size_v", "Size along", Unit::px, {4, 600, 0.5, 100000},
                                     "Distance of the largest hills, downwards")
            .ranked(Rank::folded),
        whole<&NoiseSource::octaves>("octaves", "Octaves", {1, 8, 1, 8},
                                     "Each half the size of the one before")
            .ranked(Rank::folded),
        numbers<&NoiseSource::gains>(
            "gains", "Gain per octave", {0, 1},
            "How strongly each octave counts, largest first; none given: halved each time")
            .ranked(Rank::folded),
        number<&NoiseSource::warp>("warp", "Warped by itself", Unit::ratio, {0, 2, 0, 10},
                                   "How far the noise shifts itself, in sizes")
            .ranked(Rank::folded),
        toggle<&NoiseSource::tile>("tile", "Tiles", "Rounds the sizes so that the canvas's edges meet")
            .ranked(Rank::folded),
    };

    Bundle give(const SourceContext& context) const;
    std::string says() const;
};

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
Plane noise(const NoiseSource& source, const Grid& grid);

/// What a computed source gives where `grid` says: its tone, as a grey where colour is wanted. `hash` names
/// it.
Bundle computed_bundle(const SourceContext& context, bool tile,
                       const std::function<Plane(const Grid&)>& make);

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
