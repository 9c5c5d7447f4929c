#pragma once
#include <algorithm>
#include <vector>

#include "core/step/looks.h"

namespace bathylux {

/// What is read at once: what a block of so many px looks at is at hand, in the nearest cache but one.
constexpr int read_rows_at_once = 32, read_columns_at_once = 256;

/// Where px lie that are read.
struct Span {
    float x0 = 1e30f, x1 = -1e30f, y0 = 1e30f, y1 = -1e30f;

    bool empty() const { return !(x0 <= x1); }
    double area() const { return empty() ? 0 : double{x1 - x0} * (y1 - y0); }
    void add(const Span& s) {
        x0 = std::min(x0, s.x0), x1 = std::max(x1, s.x1), y0 = std::min(y0, s.y0), y1 = std::max(y1, s.y1);
    }
};

/// What has to be had so that all places looked at can be read.
struct Survey {
    int halvings = 0;       // for Texels
    bool scattered = false; // px beside each other look far apart
    Region region;          // px of the plane, at most `most`
    /// What one block of the looks after the other reads, row by row, but for what it reads from halvings.
    std::vector<Span> blocks;
};
Survey surveyed(const Looks& looks, Region most);

} // namespace bathylux
