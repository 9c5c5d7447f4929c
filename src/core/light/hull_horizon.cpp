// The exact horizon within a radius: lines carry the upper hull of what they met.
#include <cmath>

#include "core/field/geometry.h"
#include "core/field/parallel.h"
#include "core/light/horizon.h"

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
struct HullHorizons {
    Plane slope;
    int first = 0; // of lines: line 0 lies `first` rows above row 0
};

HullHorizons sweep(const Swept& field, double shear, bool forward, float radius) {
    const int w = field.h.width(), h = field.h.height();
    // A line keeps to the field: on a tile there are as many as rows, wrapped; else enough to meet every px.
    const int extra = field.repeat ? 0 : static_cast<int>(std::ceil(std::abs(shear) * w)) + 1;
    HullHorizons out{Plane(w, field.repeat ? h : h + extra + 1), shear > 0 && !field.repeat ? extra : 0};
    const auto step = static_cast<float>(std::sqrt(1 + shear * shear));
    const Shear lies(w, shear);
    parallel_blocks(0, out.slope.height(), 8, [&](int from, int to) {
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
    });
    return out;
}

} // namespace

Plane horizons_within(const Plane& height, double dx, double dy, bool repeat, float radius) {
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
    HullHorizons s = sweep({across ? height : turned, repeat}, shear, forward, radius);
    const int lines = s.slope.height();
    // Read along the picture's rows in either case.
    if (!across) s.slope = transposed(s.slope);
    // The line through a px: so many above the one of its row, and the part of the next.
    const Shear back(across ? w : h, -shear);
    parallel_rows(0, h, [&](int y) {
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
    });
    return out;
}

} // namespace bathylux
