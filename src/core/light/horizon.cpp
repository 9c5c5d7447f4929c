#include "core/light/horizon.h"

#include <cmath>
#include <numbers>

#include "core/field/geometry.h"
#include "core/field/parallel.h"

namespace bathylux {

Plane transposed(const Plane& p) {
    Plane out(p.height(), p.width());
    constexpr int tile = 16; // a cache line
    parallel_blocks(0, (p.width() + tile - 1) / tile, 4, [&](int from, int to) {
        std::array<float, tile * tile> held;
        for (int x0 = from * tile; x0 < to * tile; x0 += tile)
            for (int y0 = 0; y0 < p.height(); y0 += tile) {
                const int w = std::min(tile, p.width() - x0), h = std::min(tile, p.height() - y0);
                for (int y = 0; y < h; ++y) std::copy_n(p.row(y0 + y) + x0, w, &held[y * tile]);
                for (int x = 0; x < w; ++x) {
                    float* to_row = out.row(x0 + x) + y0;
                    for (int y = 0; y < h; ++y) to_row[y] = held[y * tile + x];
                }
            }
    });
    return out;
}

const Plane& upright(const Plane& height, float per_px, Plane& held) {
    if (per_px == 1) return height;
    held = Plane(height.width(), height.height());
    parallel_rows(0, height.height(), [&](int y) {
        const float* from = height.row(y);
        float* to = held.row(y);
        for (int x = 0; x < height.width(); ++x) to[x] = from[x] * per_px;
    });
    return held;
}

namespace {

/// Lines are worked on in chunks, so that what they carry stays in the nearest cache.
constexpr int chunk_lines = 256, row_slack = 32;

} // namespace

const Plane& Horizons::field(bool turned) {
    if (!turned) return height_;
    if (!turned_.width()) turned_ = transposed(height_);
    return turned_;
}

void Horizons::sweep(double dx, double dy, const Levels& levels, const Sink& sink, int near_count) {
    const bool across = turned(dx, dy);
    const Plane& swept = field(across);
    const int w = swept.width(), h = swept.height();
    const double along = across ? dx : dy, aside = across ? dy : dx;
    const bool repeat = repeat_;
    const double shear =
        -aside / std::abs(along); // px to the side a row; the sweep goes away from what is seen
    const auto step = static_cast<float>(std::sqrt(1 + shear * shear));

    // Line k passes px k + shear × r of the r-th row.
    const auto first_of = [&](int r) { return static_cast<int>(std::floor(r * shear)); };
    const int least = std::min(first_of(0), first_of(h - 1)), most = std::max(first_of(0), first_of(h - 1));
    // On a tile there are as many lines as px a row, and the first round only fills them.
    const int k0 = repeat ? 0 : -most - 1, k1 = repeat ? w : w - 1 - least;
    parallel_blocks(0, (k1 - k0 + chunk_lines - 1) / chunk_lines, 1, [&](int from, int to) {
        constexpr int stride = chunk_lines + row_slack + 16;
        std::vector<float> horizon(static_cast<std::size_t>(stride) * levels.count), slope(stride),
            line_slope(stride), line_less(stride);
        const LineHorizons lines{line_slope.data(), line_less.data()};
        // The rows last met, each with the place of its first px; what is met waits until it is no more
        // near.
        struct Held {
            std::vector<float> own = std::vector<float>(chunk_lines + 2 * row_slack, no_horizon);
            const float* px = nullptr; // into `own`, or the field itself where the chunk lies within it
            int x0 = 0;
            double at = 0; // shift of line 0
        };
        std::array<Held, near_rows + 1> held;
        for (int chunk = from; chunk < to; ++chunk) {
            const int kb = k0 + chunk * chunk_lines, n = std::min(chunk_lines, k1 - kb);
            std::fill(horizon.begin(), horizon.end(), no_horizon);
            const Carried carried{horizon.data(), stride};
            // Rows at which the chunk passes the field; on a tile all of them, one round ahead.
            const auto outside = [&](int r) {
                const int x0 = kb + first_of(r);
                return !repeat && (x0 > w || x0 + n + 4 < 0);
            };
            int begin = repeat ? -h : 0;
            while (begin < h && outside(begin)) ++begin;
            for (int r = begin; r < h && !outside(r); ++r) {
                if ((r & 63) == 0) stop_here();
                const int round = r < 0 ? r + h : r, y = along < 0 ? round : h - 1 - round;
                const int shift = first_of(r);
                Held& now = held[(r - begin) % held.size()];
                std::vector<float>& row = now.own;
                const int x0 = kb + shift; // of row[0]
                now.x0 = x0, now.at = r * shear;
                const float* heights = swept.row(y);
                const int met = n + 4; // px a row is held for
                const int within = repeat ? ((x0 % w) + w) % w : x0;
                now.px = row.data();
                if (within >= 0 && within + met <= w &&
                    (y + 1 < h || within + n + row_slack <= swept.stride())) {
                    now.px = heights + within;
                } else if (repeat) {
                    for (int i = 0, x = within; i < met; ++i, x = x + 1 < w ? x + 1 : 0) row[i] = heights[x];
                } else {
                    const int a = std::clamp(x0, 0, w), b = std::clamp(x0 + met, 0, w);
                    std::fill(row.begin(), row.begin() + met, no_horizon);
                    if (a < b) std::copy(heights + a, heights + b, row.begin() + (a - x0));
                    // Between the edge and the px beyond it the edge holds.
                    if (x0 <= -1 && x0 + met > -1) row[-1 - x0] = heights[0];
                    if (x0 <= w && x0 + met > w) row[w - x0] = heights[w - 1];
                }
                const int near = std::min(near_count, r - begin);
                const auto part_of_px = static_cast<float>(r * shear - shift);
                if (around_.beyond && !repeat) {
                    // Lines that come into the window bring along what they met before.
                    const auto inside = [&](double x) { return x > -1 && x < w; };
                    for (int i = 0; i <= n; ++i) {
                        const double x = x0 + i + part_of_px;
                        if (!inside(x) || (r > 0 && inside(x - shear))) continue;
                        std::array<float, most_levels> met_before;
                        const double u = x + 0.5, v = y + 0.5;
                        around_.beyond->enter(around_.x0 + (across ? v : u), around_.y0 + (across ? u : v),
                                              dx, dy, levels, met_before.data());
                        // What a line carries was said `near` rows ago.
                        for (int j = 0; j < levels.count; ++j)
                            horizon[static_cast<std::size_t>(j) * stride + i] =
                                met_before[j] + levels.slope[j] * step * static_cast<float>(near);
                    }
                }
                if (r >= 0) {
                    // Px x0 + 1 + i lies between lines i and i + 1.
                    const float part = part_of_px;
                    solve_lines(carried, levels, now.px, part, step * static_cast<float>(near), n + 1, lines);
                    read_horizon(lines, 1 - part, now.px + 1, n, slope.data());
                    std::array<NearPoint, 2 * near_rows> close;
                    int points = 0;
                    const auto before = [&](int t) -> const Held& {
                        return held[(r - begin - t) % held.size()];
                    };
                    for (int t = 1; t <= near; ++t) {
                        const double at = x0 + 1 - t * shear - before(t).x0, first = std::floor(at);
                        const float* row_then = before(t).px + static_cast<int>(first);
                        close[points++] = {row_then, row_then + 1, static_cast<float>(at - first),
                                           1 / (step * static_cast<float>(t))};
                    }
                    // The m-th column is crossed m ÷ |shear| rows before.
                    for (int m = 1; m <= near * std::abs(shear) + 1e-9; ++m) {
                        const double t = m / std::abs(shear);
                        const int t0 = std::min(static_cast<int>(t), near), t1 = std::min(t0 + 1, near);
                        const int column = x0 + 1 - (shear > 0 ? m : -m);
                        close[points++] = {before(t0).px + (column - before(t0).x0),
                                           before(t1).px + (column - before(t1).x0),
                                           static_cast<float>(t - t0), static_cast<float>(1 / (step * t))};
                    }
                    read_near(close.data(), points, now.px + 1, n, slope.data());
                    if (near > 0) {
                        const double back = 1 / step, at = x0 + 1 - back * shear, first = std::floor(at);
                        const int column = static_cast<int>(first);
                        if (column >= x0)
                            read_cell(now.px + (column - x0), before(1).px + (column - before(1).x0),
                                      static_cast<float>(at - first), static_cast<float>(back), now.px + 1, n,
                                      slope.data());
                    }
                    if (repeat) {
                        const int x = (((x0 + 1) % w) + w) % w, fit = std::min(n, w - x);
                        sink(y, x, fit, slope.data());
                        if (fit < n) sink(y, 0, n - fit, slope.data() + fit);
                    } else if (const int a = std::max(x0 + 1, 0), b = std::min(x0 + 1 + n, w); a < b)
                        sink(y, a, b - a, slope.data() + (a - x0 - 1));
                }
                if (near < near_count) continue;
                const Held& left = held[(r - begin - near_count) % held.size()];
                meet_row(carried, levels, left.px, static_cast<float>(left.at - std::floor(left.at)), n + 1,
                         step);
            }
        }
    });
}

} // namespace bathylux
