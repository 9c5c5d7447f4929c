#pragma once
#include <cmath>
#include <vector>

#include "core/bend/texels.h"

namespace bathylux {

/// What a px sees: how the place looked at moves along a row, and down a column. Of the two differences on
/// either side the smaller, so that nothing is smeared across a tear.
struct Footprint {
    float ax, ay, bx, by;
};
[[gnu::always_inline]] inline Footprint footprint(const Looks& looks, int x, int y) {
    const float *px = looks.x.row(y + 1) + x + 1, *py = looks.y.row(y + 1) + x + 1,
                *ux = looks.x.row(y) + x + 1, *uy = looks.y.row(y) + x + 1, *dx = looks.x.row(y + 2) + x + 1,
                *dy = looks.y.row(y + 2) + x + 1;
    const auto smaller = [](float ax, float ay, float bx, float by, float& ox, float& oy) {
        const bool first = ax * ax + ay * ay <= bx * bx + by * by;
        ox = first ? ax : bx, oy = first ? ay : by;
    };
    Footprint out{};
    smaller(px[1] - px[0], py[1] - py[0], px[0] - px[-1], py[0] - py[-1], out.ax, out.ay);
    smaller(*dx - px[0], *dy - py[0], px[0] - *ux, py[0] - *uy, out.bx, out.by);
    return out;
}

/// A row of read_at.
void read_row(const Texels& texels, const Looks& looks, int y, const std::vector<float*>& to);

} // namespace bathylux
