#pragma once
#include <array>
#include <cstddef>
#include <span>

namespace bathylux {

/// A block of px that are walked through a straight sweep together: what of the silhouette each has met.
struct SweepBlock {
    static constexpr int width = 16, height = 8;
    using Values = std::array<float, static_cast<std::size_t>(width) * height>;
    alignas(64) Values cover, s;     // the most that was met, and where
    alignas(64) Values before;       // met at the step before
    alignas(64) Values met, open;    // 1 or 0: half was met; still looking
    std::array<bool, height> rows{}; // of which any looks

    static std::size_t index(int x, int y) {
        return static_cast<std::size_t>(y) * width + static_cast<std::size_t>(x);
    }
    /// Nothing met, nobody looking.
    void begin() {
        cover.fill(0), before.fill(0), met.fill(0), open.fill(0), rows.fill(false);
        s.fill(1);
    }
    void look(int x, int y) { open[index(x, y)] = 1, rows[static_cast<std::size_t>(y)] = true; }
    bool any() const {
        for (const bool row : rows)
            if (row) return true;
        return false;
    }
};

/// Where the block's px look at a step: a column and a row each, the silhouette's px before the place, and
/// how far past its middle, 0…1.
struct SweepPlaces {
    alignas(64) std::array<int, SweepBlock::width> column;
    alignas(64) std::array<float, SweepBlock::width> right;
    std::array<const float*, SweepBlock::height> row; // that px row's column 0
    std::array<float, SweepBlock::height> down;
};

/// Where places first + 0.5, first + 1.5 … come from along one axis: by × place + off.
struct Along {
    double by, off;
    int first;
    int start, size; // of the silhouette, past whose ends there is nothing
};
/// The silhouette's px before each, counted from its start, and how far past its middle; multiples of 8.
void places_along(const Along& along, std::span<int> px, std::span<float> past);

/// One step, number `k` of `steps`: the silhouette, whose rows are `stride` floats apart, read between px.
/// Columns rise; up to 32 px past the first of them may be read.
void sweep_step(SweepBlock& block, const SweepPlaces& places, int stride, int k, int steps);

} // namespace bathylux
