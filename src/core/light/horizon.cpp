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

namespace {

/// The upper hull of what was met along a line, nearest last.
class Hull {
  public:
    explicit Hull(std::size_t most) : way_(most), height_(most) {}
    void clear() { count_ = 0; }
    /// The slope to what hides most as seen from a point further on; then the point joins the hull.
    float look_and_add(float way, float height, float radius) {
        // Off the hull goes what the new point hides behind what came before it.
        while (count_ > 1) {
            const float aw = way_[count_ - 2], ah = height_[count_ - 2];
            if ((height_[count_ - 1] - ah) * (way - aw) > (height - ah) * (way_[count_ - 1] - aw)) break;
            --count_;
        }
        // The nearest on the hull is the one the line of sight touches.
        float slope = no_horizon;
        if (count_ > 0)
            if (const float d = way - way_[count_ - 1]; radius <= 0 || d <= radius)
                slope = (height_[count_ - 1] - height) / d;
        way_[count_] = way, height_[count_] = height;
        ++count_;
        return slope;
    }

  private:
    std::vector<float> way_, height_;
    int count_ = 0;
};

/// A height field as the sweep wants it: the sweep's way is always along a row.
struct Swept {
    const Plane& h;
    bool repeat;
};

/// How a line that sinks `shear` rows a px lies at every px of its way: whole rows, and the part of the next.
struct Shear {
    std::vector<int> rows;
    std::vector<float> part;
    Shear(int n, double shear) : rows(n), part(n) {
        for (int x = 0; x < n; ++x) {
            const double base = std::floor(x * shear);
            rows[x] = static_cast<int>(base), part[x] = static_cast<float>(x * shear - base);
        }
    }
};

/// Horizons, as slopes in height per px of way, met when going along +x or −x by one px and `shear` rows a
/// px. Result: line k, px x; line k passes through row k − first at x = 0.
struct HullHorizons {
    Plane slope;
    int first = 0; // of lines: line 0 lies `first` rows above row 0
};

HullHorizons sweep(const Swept& field, double shear, bool forward, float radius, std::stop_token stop) {
    const int w = field.h.width(), h = field.h.height();
    // A line keeps to the field: on a tile there are as many as rows, wrapped; else enough to meet every px.
    const int extra = field.repeat ? 0 : static_cast<int>(std::ceil(std::abs(shear) * w)) + 1;
    HullHorizons out{Plane(w, field.repeat ? h : h + extra + 1), shear > 0 && !field.repeat ? extra : 0};
    const auto step = static_cast<float>(std::sqrt(1 + shear * shear));
    const Shear lies(w, shear);
    parallel_blocks(
        0, out.slope.height(), 8,
        [&](int from, int to) {
            Hull hull(2 * static_cast<std::size_t>(w) + 2);
            for (int k = from; k < to; ++k) {
                hull.clear();
                float* slope_at = out.slope.row(k);
                // On a tile the first time round only fills the hull.
                for (int turn = field.repeat ? 0 : 1; turn < 2; ++turn)
                    for (int n = 0; n < w; ++n) {
                        const int x = forward ? n : w - 1 - n;
                        int r0 = k - out.first + lies.rows[x], r1 = r0 + 1;
                        if (field.repeat) {
                            r0 = ((r0 % h) + h) % h, r1 = r0 + 1 < h ? r0 + 1 : 0;
                        } else if (r0 < 0 || r1 >= h) {
                            if (r1 < 0 || r0 >= h) {
                                slope_at[x] = no_horizon;
                                continue;
                            }
                            r0 = std::clamp(r0, 0, h - 1), r1 = std::clamp(r1, 0, h - 1);
                        }
                        const float above = field.h(x, r0),
                                    height = above + lies.part[x] * (field.h(x, r1) - above);
                        const float way = static_cast<float>(turn == 1 && field.repeat ? n + w : n) * step;
                        const float slope = hull.look_and_add(way, height, radius);
                        if (turn == 1) slope_at[x] = slope;
                    }
            }
        },
        stop);
    return out;
}

} // namespace

Plane horizons_within(const Plane& height, double dx, double dy, bool repeat, float radius,
                      std::stop_token stop) {
    const int w = height.width(), h = height.height();
    Plane out(w, h, no_horizon);
    if (dx == 0 && dy == 0) return out;
    const bool across = std::abs(dx) >= std::abs(dy);
    double shear = across ? dy / dx : dx / dy;
    // On a tile lines have to close: the shear is rounded to whole rows a round.
    if (repeat) shear = std::round(shear * (across ? w : h)) / (across ? w : h);
    // The sweep comes from there: it goes along −d.
    const bool forward = across ? dx < 0 : dy < 0;
    const Plane turned = across ? Plane() : transposed(height);
    HullHorizons s = sweep({across ? height : turned, repeat}, shear, forward, radius, stop);
    const int lines = s.slope.height();
    // Read along the picture's rows in either case.
    if (!across) s.slope = transposed(s.slope);
    // The line through a px: so many above the one of its row, and the part of the next.
    const Shear back(across ? w : h, -shear);
    parallel_rows(
        0, h,
        [&](int y) {
            float* to = out.row(y);
            for (int x = 0; x < w; ++x) {
                const int along = across ? x : y, row = across ? y : x;
                int k0 = row + s.first + back.rows[along], k1 = k0 + 1;
                if (repeat)
                    k0 = ((k0 % lines) + lines) % lines, k1 = k0 + 1 < lines ? k0 + 1 : 0;
                else
                    k0 = std::clamp(k0, 0, lines - 1), k1 = std::clamp(k1, 0, lines - 1);
                const float a = across ? s.slope(x, k0) : s.slope(k0, y),
                            b = across ? s.slope(x, k1) : s.slope(k1, y);
                to[x] = a == no_horizon ? b : b == no_horizon ? a : a + back.part[along] * (b - a);
            }
        },
        stop);
    return out;
}

namespace {

/// Lines are worked on in chunks, so that what they carry stays in the nearest cache.
constexpr int chunk_lines = 256, slack = 32, fan_lines = 256, fan_near_rows = 4;

} // namespace

const Plane& Horizons::field(bool turned) {
    if (!turned) return height_;
    if (!turned_.width()) turned_ = transposed(height_);
    return turned_;
}

void Horizons::sweep(double dx, double dy, const Levels& levels, const Sink& sink, std::stop_token stop,
                     int near_count) {
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
    parallel_blocks(
        0, (k1 - k0 + chunk_lines - 1) / chunk_lines, 1,
        [&](int from, int to) {
            constexpr int stride = chunk_lines + slack + 16;
            std::vector<float> horizon(static_cast<std::size_t>(stride) * levels.count), slope(stride),
                line_slope(stride), line_less(stride);
            const LineHorizons lines{line_slope.data(), line_less.data()};
            // The rows last met, each with the place of its first px; what is met waits until it is no more
            // near.
            struct Held {
                std::vector<float> px = std::vector<float>(chunk_lines + 2 * slack, no_horizon);
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
                    if ((r & 63) == 0 && stop.stop_requested()) return;
                    const int round = r < 0 ? r + h : r, y = along < 0 ? round : h - 1 - round;
                    const int shift = first_of(r);
                    Held& now = held[(r - begin) % held.size()];
                    std::vector<float>& row = now.px;
                    const int x0 = kb + shift; // of row[0]
                    now.x0 = x0, now.at = r * shear;
                    const float* heights = swept.row(y);
                    const int met = n + 4; // px a row is held for
                    if (repeat) {
                        for (int i = 0, x = ((x0 % w) + w) % w; i < met; ++i, x = x + 1 < w ? x + 1 : 0)
                            row[i] = heights[x];
                    } else {
                        const int a = std::clamp(x0, 0, w), b = std::clamp(x0 + met, 0, w);
                        std::fill(row.begin(), row.begin() + met, no_horizon);
                        if (a < b) std::copy(heights + a, heights + b, row.begin() + (a - x0));
                        // Between the edge and the px beyond it the edge holds.
                        if (x0 <= -1 && x0 + met > -1) row[-1 - x0] = heights[0];
                        if (x0 <= w && x0 + met > w) row[w - x0] = heights[w - 1];
                    }
                    const int near = std::min(near_count, r - begin);
                    if (r >= 0) {
                        // Px x0 + 1 + i lies between lines i and i + 1.
                        const auto part = static_cast<float>(r * shear - shift);
                        solve_lines(carried, levels, row.data(), part, step * static_cast<float>(near), n + 1,
                                    lines);
                        read_horizon(lines, 1 - part, row.data() + 1, n, slope.data());
                        std::array<NearPoint, 2 * near_rows> close;
                        int points = 0;
                        const auto before = [&](int t) -> const Held& {
                            return held[(r - begin - t) % held.size()];
                        };
                        for (int t = 1; t <= near; ++t) {
                            const double at = x0 + 1 - t * shear - before(t).x0, first = std::floor(at);
                            const float* row_then = before(t).px.data() + static_cast<int>(first);
                            close[points++] = {row_then, row_then + 1, static_cast<float>(at - first),
                                               1 / (step * static_cast<float>(t))};
                        }
                        // The m-th column is crossed m ÷ |shear| rows before.
                        for (int m = 1; m <= near * std::abs(shear) + 1e-9; ++m) {
                            const double t = m / std::abs(shear);
                            const int t0 = std::min(static_cast<int>(t), near), t1 = std::min(t0 + 1, near);
                            const int column = x0 + 1 - (shear > 0 ? m : -m);
                            close[points++] = {before(t0).px.data() + (column - before(t0).x0),
                                               before(t1).px.data() + (column - before(t1).x0),
                                               static_cast<float>(t - t0),
                                               static_cast<float>(1 / (step * t))};
                        }
                        read_near(close.data(), points, row.data() + 1, n, slope.data());
                        if (near > 0) {
                            const double back = 1 / step, at = x0 + 1 - back * shear, first = std::floor(at);
                            const int column = static_cast<int>(first);
                            if (column >= x0)
                                read_cell(row.data() + (column - x0),
                                          before(1).px.data() + (column - before(1).x0),
                                          static_cast<float>(at - first), static_cast<float>(back),
                                          row.data() + 1, n, slope.data());
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
                    meet_row(carried, levels, left.px.data(),
                             static_cast<float>(left.at - std::floor(left.at)), n + 1, step);
                }
            }
        },
        stop);
}

namespace {

/// The steepest slopes to what lies within a few rows towards a lamp, for the px above and below it within
/// 45°: px by px, as in the straight sweep.
Plane near_slopes(const Plane& field, double ox, double oy, std::stop_token stop) {
    const int w = field.width(), h = field.height();
    const FieldView view{field.row(0), w, h, field.stride()};
    Plane out(w, h);
    parallel_rows(
        0, h,
        [&](int y) {
            float* to = out.row(y);
            std::fill_n(to, w, no_horizon);
            const double away = std::abs(y - oy);
            const int sign = y > oy ? 1 : -1;
            const int x0 = std::max(0, static_cast<int>(std::ceil(ox - away - 1e-3))),
                      x1 = std::min(w - 1, static_cast<int>(std::floor(ox + away + 1e-3)));
            if (x0 <= x1)
                near_towards_lamp(view, y, sign, x0, x1 - x0 + 1, static_cast<float>(ox),
                                  static_cast<float>(away), fan_near_rows, to + x0);
        },
        stop);
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

/// The two quarters above and below the mast: rows are walked outwards, lines fan out. Writes the px of `out`
/// within 45° of the column the mast stands in.
void quarter(const Plane& field, double ox, double oy, int sign, const Mast& mast, FromLamp seen_from,
             const Plane& near, Plane& out, std::stop_token stop) {
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
    parallel_blocks(
        0, (lines + fan_lines - 1) / fan_lines, 1,
        [&](int from, int to) {
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
                for (int i = 0; i < rows; ++i) {
                    if ((i & 63) == 0 && stop.stop_requested()) return;
                    const int y = first + sign * i;
                    const double away = std::abs(y - oy), spread = away / far;
                    const float* heights = field.row(y);
                    // Px whose line lies in this chunk.
                    const double start = ox + (base + kb - ox) * spread,
                                 end = ox + (base + kb + n - ox) * spread;
                    std::vector<float>& now = met[i % met.size()];
                    // Lines outside the field meet nothing, and nobody asks them.
                    if ((end < -5 && !hindmost) || (start > w + 5 && !foremost)) {
                        std::fill(now.begin(), now.end(), -1e15f);
                        if (i >= fan_near_rows)
                            meet_fan(fan, met[(i + 1) % met.size()].data(), n + 1, mast, away);
                        continue;
                    }
                    cross_row(heights, w, static_cast<float>(start), static_cast<float>(spread), n + 1,
                              now.data());
                    const int inside0 = std::clamp(static_cast<int>(std::ceil((-0.999 - start) / spread)), 0,
                                                   n + 1),
                              inside1 =
                                  std::clamp(static_cast<int>(std::ceil((w - start) / spread)), 0, n + 1);
                    std::fill(now.begin(), now.begin() + inside0, -1e15f);
                    std::fill(now.begin() + inside1, now.end(), -1e15f);
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
                    if (i >= fan_near_rows)
                        meet_fan(fan, met[(i + 1) % met.size()].data(), n + 1, mast, away);
                }
            }
        },
        stop);
}

} // namespace

namespace {

/// A field, its turned copy, what is near in them, and what is made of them.
struct BothWays {
    const Plane &field, &turned;
    Plane near, turned_near, seen, turned_seen;
};

void add_slice(BothWays& both, const Ball& lamp, const Slice& slice, std::stop_token stop) {
    const double mx = lamp.x - 0.5, my = lamp.y - 0.5; // between px centres
    // Seen askew, up to 45°, a shift along the rows is not all sideways.
    const double shift = 1.11 * slice.aside * lamp.radius;
    FromLamp from{};
    from.shift = static_cast<float>(shift), from.top = static_cast<float>(lamp.z);
    from.half = static_cast<float>(slice.half * lamp.radius), from.weight = static_cast<float>(slice.share);
    Mast mast;
    for (int j = 0; j < 4; ++j) mast[j] = static_cast<float>(lamp.z + 1.0 * lamp.radius * (2.0 * j / 3 - 1));
    for (const int sign : {1, -1}) {
        quarter(both.field, mx + shift, my, sign, mast, from, both.near, both.seen, stop);
        quarter(both.turned, my + shift, mx, sign, mast, from, both.turned_near, both.turned_seen, stop);
    }
}

} // namespace

Plane seen_of_ball(const Plane& height, const Ball& lamp, int slices, std::stop_token stop) {
    const int w = height.width(), h = height.height();
    const Plane turned = transposed(height);
    const double mx = lamp.x - 0.5, my = lamp.y - 0.5;
    BothWays both{height,
                  turned,
                  near_slopes(height, mx, my, stop),
                  near_slopes(turned, my, mx, stop),
                  Plane(w, h, 0.0f),
                  Plane(h, w, 0.0f)};
    for (const Slice& slice : slices_of_disc(slices)) add_slice(both, lamp, slice, stop);
    const Plane back = transposed(both.turned_seen);
    Plane out = std::move(both.seen);
    parallel_rows(
        0, h,
        [&](int y) {
            const double dy = std::abs(y - my);
            float* to = out.row(y);
            const float* from = back.row(y);
            for (int x = 0; x < w; ++x)
                if (std::abs(x - mx) > dy)
                    to[x] = from[x];
                else if (dy == 0)
                    to[x] = 1; // under the lamp itself
        },
        stop);
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
