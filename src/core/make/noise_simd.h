#pragma once
#include <cstdint>
#include <span>

namespace bathylux {

/// A lattice of cells over source px. Where a period is not 0, it repeats after so many cells.
struct Lattice {
    double per_u = 1, per_v = 1; // cells a px
    int period_u = 0, period_v = 0;
    std::uint32_t seed = 0;
    double shift_u = 0, shift_v = 0; // cells
};

/// At each place (source px; all spans of one length), gradient noise on a lattice: about −1…1, 0 on the
/// lattice's points (Perlin 1985, 2002). Directions are even in angle, within 1e-3.
void gradient_noise(const Lattice& lattice, std::span<const double> u, std::span<const double> v,
                    std::span<float> out);

/// At each place the distance, in cells and at most 1, to the nearest of one scattered point a cell (Worley
/// 1996).
void cell_noise(const Lattice& lattice, std::span<const double> u, std::span<const double> v,
                std::span<float> out);

} // namespace bathylux
