#include "core/shape/distance.h"

#include <array>
#include <atomic>

#include "core/field/parallel.h"
#include "core/shape/nearest_simd.h"

namespace bathylux {

namespace {

/// Pixels a leaf of the quadtree is wide; its rows are one or two vectors.
constexpr int leaf = 16;

double distance_to(const Segment& s, Vec2 q) {
    const Vec2 d = s.b - s.a;
    const double len2 = dot(d, d);
    const double t = len2 > 0 ? std::clamp(dot(q - s.a, d) / len2, 0.0, 1.0) : 0.0;
    const Vec2 r = s.a + t * d - q;
    return std::sqrt(dot(r, r));
}

/// Newton's method on (P(t) − q)·P'(t) = 0 from the foot on the chord; returns the distance to the curve.
double refined_distance(const Segment& s, const Curve& c, Vec2 q) {
    const Vec2 d = s.b - s.a;
    const double len2 = dot(d, d);
    double t = s.t0 + (s.t1 - s.t0) * (len2 > 0 ? std::clamp(dot(q - s.a, d) / len2, 0.0, 1.0) : 0.0);
    // The foot may lie a little into a neighbouring piece, but never past the end of the curve.
    const double reach = 0.5 * std::abs(s.t1 - s.t0);
    const double low = std::max(std::min(s.t0, s.t1) - reach, std::min(c.t0, c.t1));
    const double high = std::min(std::max(s.t0, s.t1) + reach, std::max(c.t0, c.t1));
    for (int i = 0; i < 3; ++i) {
        const Vec2 r = c.at(t) - q, p1 = c.first_derivative(t);
        const double slope = dot(p1, p1) + dot(r, c.second_derivative(t));
        if (slope <= 0) break; // past the centre of curvature: the chord's foot is as good
        const double next = std::clamp(t - dot(r, p1) / slope, low, high);
        if (std::abs(next - t) < 1e-9) break;
        t = next;
    }
    return length(c.at(t) - q);
}

struct Search {
    const Polyline& edge;
    const Spans& inside;
    Region region;
    float limit;
    Plane& out;

    bool any_inside(int x0, int y0, int size) const {
        const int y1 = std::min(y0 + size, region.height());
        for (int y = std::max(y0, 0); y < y1; ++y)
            for (const auto& [from, to] : inside[y])
                if (from < x0 + size && to > x0) return true;
        return false;
    }

    /// `near`: the segments that can be nearest to some pixel of the square at (x0, y0).
    void descend(int x0, int y0, int size, const std::vector<int>& near) const {
        if (!any_inside(x0, y0, size)) return;
        const Vec2 centre{region.x0 + x0 + size / 2.0, region.y0 + y0 + size / 2.0};
        const double radius = size * std::numbers::sqrt2 / 2;

        std::vector<double> d(near.size());
        double best = std::numeric_limits<double>::infinity();
        for (std::size_t i = 0; i < near.size(); ++i) {
            d[i] = distance_to(edge.segments[near[i]], centre);
            best = std::min(best, d[i]);
        }
        if (best - radius >= limit) {
            fill(x0, y0, size);
            return;
        }
        // Chords stray a little from their curves; keep what could still win after refinement.
        const double keep = best + 2 * radius + 0.25;
        std::vector<int> kept;
        for (std::size_t i = 0; i < near.size(); ++i)
            if (d[i] <= keep) kept.push_back(near[i]);

        if (size <= leaf) {
            measure(x0, y0, centre, kept);
            return;
        }
        const int half = size / 2;
        for (int k = 0; k < 4; ++k) {
            const int cx = x0 + (k & 1) * half, cy = y0 + (k >> 1) * half;
            if (cx < region.width() && cy < region.height()) descend(cx, cy, half, kept);
        }
    }

    /// Squares of the size that threads share, each with the segments that matter in it.
    struct Part {
        int x0, y0;
        std::vector<int> near;
    };
    void split(int x0, int y0, int size, int smallest, const std::vector<int>& near,
               std::vector<Part>& parts) const {
        if (!any_inside(x0, y0, size)) return;
        if (size <= smallest) {
            parts.push_back({x0, y0, near});
            return;
        }
        const int half = size / 2;
        for (int k = 0; k < 4; ++k) {
            const int cx = x0 + (k & 1) * half, cy = y0 + (k >> 1) * half;
            if (cx < region.width() && cy < region.height())
                split(cx, cy, half, smallest, candidates(cx, cy, half, near), parts);
        }
    }
    /// Those of `near` that can be nearest to some pixel of a square.
    std::vector<int> candidates(int x0, int y0, int size, const std::vector<int>& near) const {
        const Vec2 centre{region.x0 + x0 + size / 2.0, region.y0 + y0 + size / 2.0};
        std::vector<double> d(near.size());
        double best = std::numeric_limits<double>::infinity();
        for (std::size_t i = 0; i < near.size(); ++i)
            best = std::min(best, d[i] = distance_to(edge.segments[near[i]], centre));
        const double keep = best + size * std::numbers::sqrt2 + 0.25;
        std::vector<int> kept;
        for (std::size_t i = 0; i < near.size(); ++i)
            if (d[i] <= keep) kept.push_back(near[i]);
        return kept;
    }

    void fill(int x0, int y0, int size) const {
        for (int y = std::max(y0, 0); y < std::min(y0 + size, region.height()); ++y)
            for (const auto& [from, to] : inside[y])
                for (int x = std::max(from, x0); x < std::min(to, x0 + size); ++x) out(x, y) = limit;
    }

    void measure(int x0, int y0, Vec2 centre, const std::vector<int>& near) const {
        std::vector<ChordLine> chords(near.size());
        for (std::size_t i = 0; i < near.size(); ++i) {
            const Segment& s = edge.segments[near[i]];
            const Vec2 d = s.b - s.a;
            const double len2 = dot(d, d);
            chords[i] = {static_cast<float>(s.a.x - centre.x), static_cast<float>(s.a.y - centre.y),
                         static_cast<float>(d.x), static_cast<float>(d.y),
                         len2 > 0 ? static_cast<float>(1 / len2) : 0.0f};
        }
        alignas(64) std::array<float, leaf> distance;
        alignas(64) std::array<std::int32_t, leaf> nearest;
        for (int y = std::max(y0, 0); y < std::min(y0 + leaf, region.height()); ++y) {
            bool measured = false;
            for (const auto& [from, to] : inside[y]) {
                const int a = std::max(from, x0), b = std::min({to, x0 + leaf, region.width()});
                if (b <= a) continue;
                if (!measured) {
                    nearest_chords(chords, static_cast<float>(region.x0 + x0 + 0.5 - centre.x),
                                   static_cast<float>(region.y0 + y + 0.5 - centre.y), distance, nearest);
                    measured = true;
                }
                float* row = out.row(y);
                for (int x = a; x < b; ++x) {
                    float v = distance[x - x0];
                    const Segment& s = edge.segments[near[nearest[x - x0]]];
                    if (s.curve >= 0)
                        v = static_cast<float>(refined_distance(s, edge.curves[s.curve],
                                                                {region.x0 + x + 0.5, region.y0 + y + 0.5}));
                    row[x] = std::min(v, limit);
                }
            }
        }
    }
};

} // namespace

Plane distance_inside(const Polyline& edge, const Spans& inside, Region region, float limit) {
    Plane out(region.width(), region.height(), 0.0f);
    if (edge.segments.empty() || region.empty()) {
        // No edge at all: the inside is everywhere and endless.
        for (int y = 0; y < region.height(); ++y)
            for (const auto& [from, to] : inside[y]) std::fill(out.row(y) + from, out.row(y) + to, limit);
        return out;
    }
    std::vector<int> all(edge.segments.size());
    for (std::size_t i = 0; i < all.size(); ++i) all[i] = static_cast<int>(i);

    // Squares of eight leaves are shared out among the threads.
    constexpr int square = leaf * 8;
    int root = square;
    while (root < std::max(region.width(), region.height()) + leaf) root *= 2;
    const Search search{edge, inside, region, limit, out};
    std::vector<Search::Part> parts;
    // Leaves lie on the canvas's own grid: where a place is measured from does not hang on what is asked for.
    const auto behind_grid = [](int at) { return -(((at % leaf) + leaf) % leaf); };
    search.split(behind_grid(region.x0), behind_grid(region.y0), root, square, all, parts);
    parallel_blocks(0, static_cast<int>(parts.size()), 1,
                    [&](int i, int) { search.descend(parts[i].x0, parts[i].y0, square, parts[i].near); });
    return out;
}

Polyline edge_of_coverage(const Field& coverage, Region region) {
    Polyline out;
    const int w = region.width(), h = region.height();
    const Rows rows(coverage, w);
    std::vector<std::vector<Segment>> by_row(h);
    const auto at = [&](int x, int y) { return x < 0 || y < 0 || x >= w || y >= h ? 0.0f : rows(y)[x]; };
    parallel_rows(0, h, [&](int y) {
        const float *row = rows(y), *above = rows(std::max(0, y - 1)), *below = rows(std::min(h - 1, y + 1));
        for (int x = 0; x < w; ++x) {
            // Nearly all pixels are empty, or full among full ones.
            const float c = row[x];
            if (c <= 0.02f) continue;
            if (c >= 0.98f && x > 0 && y > 0 && x + 1 < w && y + 1 < h &&
                std::min({row[x - 1], row[x + 1], above[x], below[x]}) > 0.02f)
                continue;
            const float l = at(x - 1, y), r = at(x + 1, y), t = at(x, y - 1), b = at(x, y + 1);
            const bool partial = c > 0.02f && c < 0.98f;
            // A full pixel beside an empty one: the edge runs between them.
            const bool hard = c >= 0.98f && (l <= 0.02f || r <= 0.02f || t <= 0.02f || b <= 0.02f);
            if (!partial && !hard) continue;
            // Gradient by the rotation-friendly 3×3 kernel (1, √2, 1).
            constexpr float k = std::numbers::sqrt2_v<float>;
            const float lt = at(x - 1, y - 1), rt = at(x + 1, y - 1), lb = at(x - 1, y + 1),
                        rb = at(x + 1, y + 1);
            Vec2 g{(rt + k * r + rb) - (lt + k * l + lb), (lb + k * b + rb) - (lt + k * t + rt)};
            const double len = length(g);
            if (len < 1e-6) continue;
            g = (1 / len) * g;
            // Signed distance from the centre to a straight edge with normal g that leaves area c.
            const double gx = std::max(std::abs(g.x), std::abs(g.y)),
                         gy = std::min(std::abs(g.x), std::abs(g.y));
            const double corner = 0.5 * gy / gx; // area up to which the edge cuts only a corner
            double d = 0;
            if (c < corner)
                d = 0.5 * (gx + gy) - std::sqrt(2 * gx * gy * c);
            else if (c < 1 - corner)
                d = (0.5 - c) * gx;
            else
                d = -0.5 * (gx + gy) + std::sqrt(2 * gx * gy * (1 - c));
            const Vec2 p = Vec2{region.x0 + x + 0.5, region.y0 + y + 0.5} + d * g;
            const Vec2 along = 0.75 * Vec2{-g.y, g.x};
            by_row[y].push_back({p - along, p + along, -1});
        }
    });
    for (const auto& row : by_row) out.segments.insert(out.segments.end(), row.begin(), row.end());
    for (const Segment& s : out.segments) out.bounds.add(s.a), out.bounds.add(s.b);
    return out;
}

} // namespace bathylux
