// What is seen of a ball that stands over a relief: lines fan out from masts in its slices.
#include <cmath>
#include <numbers>

#include "core/field/geometry.h"
#include "core/field/parallel.h"
#include "core/light/horizon.h"

namespace bathylux {

namespace {

/// Lines are worked on in chunks, so that what they carry stays in the nearest cache; what lies nearer than
/// some rows is looked at px by px.
constexpr int fan_lines = 256, slack = 32, fan_near_rows = 4;

/// The steepest slopes to what lies within a few rows towards a lamp, for the px above and below it within
/// 45°: px by px, as in the straight sweep.
Plane near_slopes(const Plane& field, double ox, double oy) {
    const int w = field.width(), h = field.height();
    const FieldView view{field.row(0), w, h, field.stride()};
    Plane out(w, h);
    parallel_rows(0, h, [&](int y) {
        float* to = out.row(y);
        std::fill_n(to, w, no_horizon);
        const double away = std::abs(y - oy);
        const int sign = y > oy ? 1 : -1;
        const int x0 = std::max(0, static_cast<int>(std::ceil(ox - away - 1e-3))),
                  x1 = std::min(w - 1, static_cast<int>(std::floor(ox + away + 1e-3)));
        if (x0 <= x1)
            near_towards_lamp(view, y, sign, x0, x1 - x0 + 1, static_cast<float>(ox),
                              static_cast<float>(away), fan_near_rows, to + x0);
    });
    return out;
}

/// Has lines meet the row that has just ceased to be near.
void meet_fan(const Fan& fan, const float* height, int count, const Mast& mast, double away) {
    meet_from_lamp(fan, height, count, mast, static_cast<float>(1 / (away - fan_near_rows)));
}

/// Reads the places of a chunk; those whose line would lie beyond its last take the last.
void read_within(const Fan& fan, FromLamp place, const float* height, const float* near, int count, int lines,
                 float* seen) {
    const int fit =
        place.per > 0
            ? std::clamp(static_cast<int>(std::floor((static_cast<float>(lines) - place.line) / place.per)) +
                             1,
                         0, count)
            : count;
    if (fit > 0) read_from_lamp(fan, place, height, near, fit, seen);
    if (fit == count) return;
    place.line = static_cast<float>(lines) - 1e-3f, place.per = 0, place.beside += static_cast<float>(fit);
    read_from_lamp(fan, place, height + fit, near + fit, count - fit, seen + fit);
}

/// What lies around a field that may be turned.
struct Turned {
    const Surroundings& around;
    bool across = false;
};

/// The two quarters above and below the mast: rows are walked outwards, lines fan out. Writes the px of `out`
/// within 45° of the column the mast stands in.
void quarter(const Plane& field, double ox, double oy, int sign, const Mast& mast, FromLamp seen_from,
             const Plane& near, Plane& out, const Turned& around) {
    const int w = field.width(), h = field.height();
    // First row beyond the mast, and how far the last one lies.
    const int first = sign > 0 ? std::max(0, static_cast<int>(std::floor(oy)) + 1)
                               : std::min(h - 1, static_cast<int>(std::ceil(oy)) - 1);
    const int last = sign > 0 ? h - 1 : 0;
    if (sign * (last - first) < 0) return;
    const double far = std::abs(last - oy);
    if (far < 1e-9) return;
    const double lamp = ox - seen_from.shift; // the quarter is the lamp's
    // Lines meet the last row a px apart: line k at px base + k there. Only those that pass the field.
    const double widen = std::max(1.0, far / std::max(1e-9, std::abs(first - oy)));
    // Close to a mast that is shifted, lines would have to fan out further than is worth it: those px take
    // the last.
    const double off = std::min(std::abs(double(seen_from.shift)) * widen, 0.5 * far);
    const double low = std::max(ox - far - off, ox - ox * (ox > 0 ? widen : 1.0)),
                 high = std::min(ox + far + off, ox + (w - 1 - ox) * (w - 1 > ox ? widen : 1.0));
    const int base = static_cast<int>(std::floor(std::min(low, high))) - 2;
    const int lines = std::min(static_cast<int>(std::ceil(std::max(low, high))) + 3 - base, 8 * (w + h));
    const int rows = std::abs(last - first) + 1;
    const bool inside_field = ox >= 0 && ox < w && oy >= 0 && oy < h;
    parallel_blocks(0, (lines + fan_lines - 1) / fan_lines, 1, [&](int from, int to) {
        constexpr int stride = fan_lines + slack;
        std::vector<float> carried((2 * mast_levels + 2) * stride);
        Fan fan{};
        for (int j = 0; j < mast_levels; ++j)
            fan.height[j] = &carried[j * stride], fan.inverse[j] = &carried[(mast_levels + j) * stride];
        fan.hidden = &carried[2 * mast_levels * stride], fan.less = fan.hidden + stride;
        std::array<std::vector<float>, fan_near_rows + 1> met;
        for (auto& m : met) m.resize(stride);
        for (int chunk = from; chunk < to; ++chunk) {
            const int kb = chunk * fan_lines, n = std::min(fan_lines, lines - kb);
            std::fill(carried.begin(), carried.begin() + mast_levels * stride, -1e15f);
            std::fill(carried.begin() + mast_levels * stride, carried.end(), 1.0f);
            const bool foremost = kb == 0, hindmost = kb + n == lines;
            int was0 = 0, was1 = 0; // the lines that were within the field in the row before
            for (int i = 0; i < rows; ++i) {
                if ((i & 63) == 0) stop_here();
                const int y = first + sign * i;
                const double away = std::abs(y - oy), spread = away / far;
                const float* heights = field.row(y);
                // Px whose line lies in this chunk.
                const double start = ox + (base + kb - ox) * spread, end = ox + (base + kb + n - ox) * spread;
                std::vector<float>& now = met[i % met.size()];
                // Lines outside the field meet nothing, and nobody asks them.
                if ((end < -5 && !hindmost) || (start > w + 5 && !foremost)) {
                    std::fill(now.begin(), now.end(), -1e15f);
                    was0 = was1 = 0;
                    if (i >= fan_near_rows)
                        meet_fan(fan, met[(i + 1) % met.size()].data(), n + 1, mast, away);
                    continue;
                }
                cross_row(heights, w, static_cast<float>(start), static_cast<float>(spread), n + 1,
                          now.data());
                const int inside0 =
                              std::clamp(static_cast<int>(std::ceil((-0.999 - start) / spread)), 0, n + 1),
                          inside1 = std::clamp(static_cast<int>(std::ceil((w - start) / spread)), 0, n + 1);
                std::fill(now.begin(), now.begin() + inside0, -1e15f);
                std::fill(now.begin() + inside1, now.end(), -1e15f);
                if (around.around.beyond && !inside_field) {
                    // Lines that come into the window bring along what they met before.
                    for (int k = inside0; k < inside1; ++k) {
                        if (k >= was0 && k < was1) continue;
                        const double u = start + k * spread + 0.5, v = y + 0.5, x0 = around.around.x0,
                                     y0 = around.around.y0;
                        Mast met_height{}, inverse{};
                        around.around.beyond->enter_from(
                            x0 + (around.across ? v : u), y0 + (around.across ? u : v),
                            x0 + (around.across ? oy : ox) + 0.5, y0 + (around.across ? ox : oy) + 0.5,
                            around.across, mast, met_height.data(), inverse.data());
                        for (int j = 0; j < mast_levels; ++j)
                            fan.height[j][k] = met_height[j], fan.inverse[j][k] = inverse[j];
                    }
                    was0 = inside0, was1 = inside1;
                }
                const int x0 = std::max({0, foremost ? 0 : static_cast<int>(std::ceil(start)),
                                         static_cast<int>(std::ceil(lamp - away - 1e-3))}),
                          x1 = std::min({w - 1, hindmost ? w - 1 : static_cast<int>(std::ceil(end)) - 1,
                                         static_cast<int>(std::floor(lamp + away + 1e-3))});
                if (const int count = x1 - x0 + 1; count > 0) {
                    solve_fan(fan, now.data(), n + 1, static_cast<float>(1 / away));
                    fan.hidden[n + 1] = fan.hidden[n], fan.less[n + 1] = fan.less[n];
                    FromLamp place = seen_from;
                    place.away = static_cast<float>(away),
                    place.beside = static_cast<float>(x0 - ox) + place.shift;
                    place.per = static_cast<float>(1 / spread);
                    place.line = static_cast<float>((x0 - ox) / spread + ox - base - kb);
                    read_within(fan, place, heights + x0, near.row(y) + x0, count, n, out.row(y) + x0);
                }
                // What is near is looked at px by px: lines meet it later.
                if (i >= fan_near_rows) meet_fan(fan, met[(i + 1) % met.size()].data(), n + 1, mast, away);
            }
        }
    });
}

/// What is seen of a lamp at (mx, my), between px centres, from the places above and below it within 45°.
Plane seen_up_and_down(const Plane& field, double mx, double my, const Ball& lamp, int slices,
                       const Turned& around) {
    const Plane near = near_slopes(field, mx, my);
    Plane seen(field.width(), field.height(), 0.0f);
    for (const Slice& slice : slices_of_disc(slices)) {
        // Seen askew, up to 45°, a shift along the rows is not all sideways.
        const double shift = 1.11 * slice.aside * lamp.radius;
        FromLamp from{};
        from.shift = static_cast<float>(shift), from.top = static_cast<float>(lamp.z);
        from.half = static_cast<float>(slice.half * lamp.radius),
        from.weight = static_cast<float>(slice.share);
        Mast mast;
        for (int j = 0; j < mast_levels; ++j)
            mast[j] = static_cast<float>(lamp.z + lamp.radius * (2.0 * j / (mast_levels - 1) - 1));
        for (const int sign : {1, -1}) quarter(field, mx + shift, my, sign, mast, from, near, seen, around);
    }
    return seen;
}

} // namespace

Plane seen_of_ball(const Plane& height, const Ball& lamp, int slices, const Surroundings& around) {
    const int w = height.width(), h = height.height();
    const double mx = lamp.x - 0.5, my = lamp.y - 0.5;
    Plane out = seen_up_and_down(height, mx, my, lamp, slices, {around, false});
    // To the left and right of it the field is turned; one way at a time, for the sake of memory.
    const Plane back = transposed(seen_up_and_down(transposed(height), my, mx, lamp, slices, {around, true}));
    parallel_rows(0, h, [&](int y) {
        const double dy = std::abs(y - my);
        float* to = out.row(y);
        const float* from = back.row(y);
        for (int x = 0; x < w; ++x)
            if (std::abs(x - mx) > dy)
                to[x] = from[x];
            else if (dy == 0)
                to[x] = 1; // under the lamp itself
    });
    return out;
}

std::vector<Slice> slices_of_disc(int count) {
    // Area of the disc to the left of x, as a share.
    const auto left_of = [](double x) {
        return 0.5 + (std::asin(x) + x * std::sqrt(1 - x * x)) / std::numbers::pi;
    };
    std::vector<Slice> out;
    for (int i = 0; i < count; ++i) {
        const double x0 = 2.0 * i / count - 1, x1 = 2.0 * (i + 1) / count - 1,
                     share = left_of(x1) - left_of(x0);
        out.push_back({(x0 + x1) / 2, share * std::numbers::pi / (2 * (x1 - x0)), share});
    }
    return out;
}

} // namespace bathylux
