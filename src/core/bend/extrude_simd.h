#pragma once
#include <array>
#include <cstddef>

#include "core/field/geometry.h"
#include "core/field/srgb.h"

namespace bathylux {

/// A block of px that are walked through a straight sweep together: what of the silhouette each has met. The
/// silhouette holds the face: where an edge of either crosses a px, the body shows in what the one covers
/// more than the other, so that an edge with nothing behind it stays as it is.
struct SweepBlock {
    static constexpr int width = 16, height = 8;
    using Values = std::array<float, static_cast<std::size_t>(width) * height>;
    alignas(64) Values face, rest;   // what the face covers, and 1 ÷ what it leaves
    alignas(64) Values cover, w;     // of what it leaves the most that was met, and where
    alignas(64) Values before;       // met at the step before
    alignas(64) Values met, open;    // 1 or 0: half was met; still looking
    std::array<bool, height> rows{}; // of which any looks

    static std::size_t index(int x, int y) {
        return static_cast<std::size_t>(y) * width + static_cast<std::size_t>(x);
    }
    bool any() const {
        for (const bool row : rows)
            if (row) return true;
        return false;
    }
};

/// Nothing met; looking are those of the px from `left` to `right` whom the face does not cover. `face` is
/// each row's first px of the block, null for a row that is not asked for.
void begin_sweep(SweepBlock& block, const std::array<const float*, SweepBlock::height>& face, int left,
                 int right);

/// A silhouette, with `margin` px of nothing around it.
struct SweptShape {
    static constexpr int margin = 40;
    Region region;
    const float* first; // its first row's first px
    std::ptrdiff_t stride;
};

/// Where a block, whose first px is `left`, `top`, comes from at a step: by × place + off, silhouettes being
/// read between the middles of px. `w` is the step's end, `step` its length.
struct SweepStep {
    double by;
    Vec2 off;
    int left, top;
    float w, step;
};
void sweep_step(SweepBlock& block, const SweptShape& silhouette, const SweepStep& to);

/// How a body looks: its colour in linear light, how much darker it is at its end, how high at its face.
struct SweptLook {
    Color color;
    float darken, high, shrink;
};
/// A row of it, and what it is laid under; what is not asked for is null. Rows may be read and written up to
/// the next multiple of 16.
struct SweptRow {
    const float *face, *stood; // the face's coverage, and how much its height counts
    const float *met, *w;      // as in SweepBlock
    std::array<float*, 3> color;
    float *cover, *surface, *height, *weight;
};
void lay_under(const SweptLook& look, const SweptRow& row, int width);

} // namespace bathylux
