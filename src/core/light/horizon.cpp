#include "core/light/horizon.h"

#include <cmath>

#include "core/field/geometry.h"
#include "core/field/parallel.h"

namespace bathylux {

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
struct Horizons {
    Plane slope;
    int first = 0; // of lines: line 0 lies `first` rows above row 0
};

Horizons sweep(const Swept& field, double shear, bool forward, float radius, std::stop_token stop) {
    const int w = field.h.width(), h = field.h.height();
    // A line keeps to the field: on a tile there are as many as rows, wrapped; else enough to meet every px.
    const int extra = field.repeat ? 0 : static_cast<int>(std::ceil(std::abs(shear) * w)) + 1;
    Horizons out{Plane(w, field.repeat ? h : h + extra + 1), shear > 0 && !field.repeat ? extra : 0};
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

Plane transposed(const Plane& p) {
    Plane out(p.height(), p.width());
    constexpr int tile = 32;
    parallel_blocks(0, p.width(), tile, [&](int x0, int x1) {
        for (int y0 = 0; y0 < p.height(); y0 += tile)
            for (int x = x0; x < x1; ++x)
                for (int y = y0; y < std::min(y0 + tile, p.height()); ++y) out(y, x) = p(x, y);
    });
    return out;
}

} // namespace

Plane horizons_along(const Plane& height, double dx, double dy, bool repeat, float radius,
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
    Horizons s = sweep({across ? height : turned, repeat}, shear, forward, radius, stop);
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

Plane horizons_towards(const Plane& height, double cx, double cy, std::stop_token stop) {
    const int w = height.width(), h = height.height();
    Plane out(w, h, no_horizon);
    const double mx = cx - 0.5, my = cy - 0.5; // between px centres
    const Plane turned = transposed(height);
    // A quarter: going out along +x or −x of the field (or of the turned one), within 45° of that way.
    for (const bool across : {true, false})
        for (const int sign : {1, -1}) {
            const Plane& f = across ? height : turned;
            const int n = f.width(), m = f.height();
            const double ox = across ? mx : my, oy = across ? my : mx;
            // First column beyond the place, and how far the last one lies.
            const int first = sign > 0 ? std::max(0, static_cast<int>(std::floor(ox)) + 1)
                                       : std::min(n - 1, static_cast<int>(std::ceil(ox)) - 1);
            const int last = sign > 0 ? n - 1 : 0;
            if (sign * (last - first) < 0) continue;
            const double far = std::abs(last - ox);
            if (far < 1e-9) continue;
            // Lines meet the last column a px apart: line k at row base + k there. Only those that pass the
            // field.
            const double low = std::max(oy - far,
                                        oy + (0.0 - oy) *
                                                 std::max(1.0, far / std::max(1e-9, std::abs(first - ox)))),
                         high = std::min(oy + far,
                                         oy + (m - 1.0 - oy) *
                                                  std::max(1.0, far / std::max(1e-9, std::abs(first - ox))));
            const int base = static_cast<int>(std::floor(std::min(low, high))) - 1;
            const int lines =
                std::min(static_cast<int>(std::ceil(std::max(low, high))) + 2 - base, 8 * (n + m));
            if (lines < 1) continue;
            const int columns = std::abs(last - first) + 1;
            Plane slopes(columns, lines);
            parallel_blocks(
                0, lines, 8,
                [&](int from, int to) {
                    Hull hull(static_cast<std::size_t>(columns) + 1);
                    for (int k = from; k < to; ++k) {
                        hull.clear();
                        const double tilt = (base + k - oy) / far;
                        const auto step = std::sqrt(1 + tilt * tilt);
                        float* to_row = slopes.row(k);
                        for (int i = 0; i < columns; ++i) {
                            const int x = first + sign * i;
                            const double away = std::abs(x - ox), row = oy + tilt * away,
                                         floor = std::floor(row);
                            to_row[i] = no_horizon;
                            if (row < 0 || row > m - 1) continue;
                            const int r0 = static_cast<int>(floor), r1 = std::min(r0 + 1, m - 1);
                            const float above = f(x, r0), part = static_cast<float>(row - floor);
                            to_row[i] = hull.look_and_add(static_cast<float>(away * step),
                                                          above + part * (f(x, r1) - above), 0);
                        }
                    }
                },
                stop);
            // Back to the px of the quarter; the two diagonals belong to both neighbours, whoever comes last.
            parallel_rows(
                0, m,
                [&](int y) {
                    for (int i = 0; i < columns; ++i) {
                        const int x = first + sign * i;
                        const double away = std::abs(x - ox);
                        if (std::abs(y - oy) > away + 1e-9) continue;
                        const double k = (y - oy) / away * far + oy - base, floor = std::floor(k);
                        const int k0 = std::clamp(static_cast<int>(floor), 0, lines - 1),
                                  k1 = std::min(k0 + 1, lines - 1);
                        const float a = slopes(i, k0), b = slopes(i, k1),
                                    part = static_cast<float>(k - floor);
                        (across ? out(x, y) : out(y, x)) = a == no_horizon   ? b
                                                           : b == no_horizon ? a
                                                                             : a + part * (b - a);
                    }
                },
                stop);
        }
    return out;
}

} // namespace bathylux
