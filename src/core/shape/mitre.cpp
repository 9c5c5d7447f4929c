#include "core/shape/mitre.h"

#include "core/field/parallel.h"

namespace bathylux {

void mitre_corners(Plane& distance, const Contours& shape, Region r, float limit) {
    for (const auto& c : shape) {
        const int n = static_cast<int>(c.size());
        if (n < 3) continue;
        for (int i = 0; i < n; ++i) {
            const Vec2 v = c[i], before = v - c[(i + n - 1) % n], after = c[(i + 1) % n] - v;
            const double lb = length(before), la = length(after);
            if (lb < 1e-6 || la < 1e-6) continue;
            const Vec2 u = (1 / lb) * before, w = (1 / la) * after;
            // Outer contours of Clipper run with a positive area, holes the other way: the inside is always
            // on the same hand, and a corner goes in where it turns against that hand.
            const double turn = cross(u, w);
            if (turn > -0.25) continue;              // less than 15°, or sticking out
            const Vec2 n0{-u.y, u.x}, n1{-w.y, w.x}; // into the shape
            const double open = dot(n0, n1);
            if (open < -0.95) continue; // a slit: its mitre would reach without end
            const double far = std::min(4.0, 1 / std::sqrt((1 + open) / 2)) * limit;
            const Region part = intersect(covering(Box{v.x - far, v.y - far, v.x + far, v.y + far}), r);
            parallel_rows(part.y0, part.y1, [&](int y) {
                for (int x = part.x0; x < part.x1; ++x) {
                    float& d = distance(x - r.x0, y - r.y0);
                    if (d <= 0) continue;
                    const Vec2 p = Vec2{x + 0.5, y + 0.5} - v;
                    // Between the normals: past the end of the one side, before the beginning of the other.
                    if (dot(p, u) < 0 || dot(p, w) > 0) continue;
                    const double d0 = dot(p, n0), d1 = dot(p, n1);
                    if (d0 < 0 || d1 < 0 || length(p) > 4 * std::max(d0, d1)) continue;
                    d = std::min(d, static_cast<float>(std::max(d0, d1)));
                }
            });
        }
    }
}

namespace {

/// out[p] = max over q of f[q] − (p − q)² ÷ 2r, by the upper envelope of parabolas.
void dilate(const float* f, int n, float radius, float* out, std::vector<int>& apex,
            std::vector<double>& from) {
    const double k = 1.0 / (2 * radius);
    int count = 0;
    for (int q = 0; q < n; ++q) {
        double s = -1e30;
        while (count > 0) {
            const int p = apex[count - 1];
            // Where the parabola at q rises above the one at p.
            s = ((f[p] - k * p * p) - (f[q] - k * q * q)) / (2 * k * (q - p));
            if (s > from[count - 1]) break;
            --count;
        }
        apex[count] = q;
        from[count] = count == 0 ? -1e30 : s;
        ++count;
    }
    for (int p = 0, i = 0; p < n; ++p) {
        while (i + 1 < count && from[i + 1] < p) ++i;
        const double d = p - apex[i];
        out[p] = static_cast<float>(f[apex[i]] - k * d * d);
    }
}

} // namespace

void round_ridges(Plane& distance, float radius) {
    const int w = distance.width(), h = distance.height();
    if (w < 1 || h < 1 || radius <= 0) return;
    // A field without edge has no ridges, and no finite heights.
    Plane first(w, h);
    parallel_blocks(0, h, 16, [&](int y0, int y1) {
        std::vector<int> apex(w);
        std::vector<double> from(w);
        std::vector<float> row(w);
        for (int y = y0; y < y1; ++y) {
            for (int x = 0; x < w; ++x) row[x] = std::min(distance(x, y), 1e6f);
            dilate(row.data(), w, radius, first.row(y), apex, from);
        }
    });
    parallel_blocks(0, w, 16, [&](int x0, int x1) {
        std::vector<int> apex(h);
        std::vector<double> from(h);
        std::vector<float> column(h), result(h);
        for (int x = x0; x < x1; ++x) {
            for (int y = 0; y < h; ++y) column[y] = first(x, y);
            dilate(column.data(), h, radius, result.data(), apex, from);
            for (int y = 0; y < h; ++y) {
                float& d = distance(x, y);
                if (d > 0) d = std::min(d, std::max(result[y] - radius / 2, d / 2));
            }
        }
    });
}

} // namespace bathylux
