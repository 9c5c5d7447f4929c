#include "core/shape/offset.h"

#include <map>
#include <polyclipping/clipper.hpp>

namespace bathylux {

namespace {

constexpr double grid = 1024;      // units a px
constexpr double arc = grid / 250; // how far a flattened arc may stray
constexpr double miter_limit = 4;

ClipperLib::Paths to_clipper(const Contours& contours) {
    ClipperLib::Paths out;
    for (const auto& c : contours) {
        ClipperLib::Path path;
        for (Vec2 p : c) path.emplace_back(std::llround(p.x * grid), std::llround(p.y * grid));
        if (path.size() > 2) out.push_back(std::move(path));
    }
    return out;
}

Contours from_clipper(const ClipperLib::Paths& paths) {
    Contours out;
    for (const auto& path : paths) {
        out.emplace_back();
        for (const auto& p : path)
            out.back().push_back({static_cast<double>(p.X) / grid, static_cast<double>(p.Y) / grid});
    }
    return out;
}

} // namespace

Contours contours_of(const Polyline& fill) {
    // Pieces that follow one another make a chain; the rest are sewn together where their ends meet.
    std::map<std::pair<long long, long long>, std::vector<int>> starts;
    const auto key = [](Vec2 p) { return std::pair{std::llround(p.x * grid), std::llround(p.y * grid)}; };
    std::vector<char> used(fill.segments.size(), 0);
    for (std::size_t i = 0; i < fill.segments.size(); ++i)
        starts[key(fill.segments[i].a)].push_back(static_cast<int>(i));
    Contours raw;
    for (std::size_t first = 0; first < fill.segments.size(); ++first) {
        if (used[first]) continue;
        std::vector<Vec2> path;
        int i = static_cast<int>(first);
        while (i >= 0 && !used[i]) {
            used[i] = 1;
            path.push_back(fill.segments[i].a);
            const Vec2 end = fill.segments[i].b;
            const int after = i + 1;
            if (after < static_cast<int>(used.size()) && !used[after] && fill.segments[after].a == end) {
                i = after;
                continue;
            }
            i = -1;
            const auto [x, y] = key(end);
            for (long long dy = -2; dy <= 2 && i < 0; ++dy)
                for (long long dx = -2; dx <= 2 && i < 0; ++dx)
                    if (const auto found = starts.find({x + dx, y + dy}); found != starts.end())
                        for (int next : found->second)
                            if (!used[next]) i = next;
        }
        if (path.size() > 2) raw.push_back(std::move(path));
    }
    ClipperLib::Paths simple;
    ClipperLib::SimplifyPolygons(to_clipper(raw), simple,
                                 fill.rule == FillRule::evenodd ? ClipperLib::pftEvenOdd
                                                                : ClipperLib::pftNonZero);
    return from_clipper(simple);
}

Contours contours_of(const Field& coverage, Region r) {
    // Cells between pixel centres, a rim of nothing around; every crossing is an edge from one cell side to
    // another.
    const int w = r.width(), h = r.height();
    const Rows rows(coverage, w);
    const auto at = [&](int x, int y) { return x < 0 || y < 0 || x >= w || y >= h ? 0.0f : rows(y)[x]; };
    Polyline out;
    for (int y = -1; y < h; ++y)
        for (int x = -1; x < w; ++x) {
            const float v[4] = {at(x, y), at(x + 1, y), at(x + 1, y + 1), at(x, y + 1)};
            int code = 0;
            for (int k = 0; k < 4; ++k) code |= (v[k] >= 0.5f) << k;
            if (code == 0 || code == 15) continue;
            const auto cross = [&](int side) {
                const int a = side, b = (side + 1) % 4;
                const double t = (0.5 - v[a]) / (v[b] - v[a]);
                constexpr Vec2 corner[4] = {{0, 0}, {1, 0}, {1, 1}, {0, 1}};
                const Vec2 p = corner[a] + t * (corner[b] - corner[a]);
                return Vec2{r.x0 + x + 0.5 + p.x, r.y0 + y + 0.5 + p.y};
            };
            const auto edge = [&](int from, int to) { out.segments.push_back({cross(from), cross(to), -1}); };
            // Sides: 0 top, 1 right, 2 bottom, 3 left; the inside on the right hand (y down).
            switch (code) {
            case 1: edge(0, 3); break;
            case 2: edge(1, 0); break;
            case 3: edge(1, 3); break;
            case 4: edge(2, 1); break;
            case 6: edge(2, 0); break;
            case 7: edge(2, 3); break;
            case 8: edge(3, 2); break;
            case 9: edge(0, 2); break;
            case 11: edge(1, 2); break;
            case 12: edge(3, 1); break;
            case 13: edge(0, 1); break;
            case 14: edge(3, 0); break;
            case 5:
            case 10: {
                const bool joined = v[0] + v[1] + v[2] + v[3] >= 2; // saddle: by the mean of the four
                if (code == 5)
                    joined ? (edge(0, 1), edge(2, 3)) : (edge(0, 3), edge(2, 1));
                else
                    joined ? (edge(1, 2), edge(3, 0)) : (edge(1, 0), edge(3, 2));
                break;
            }
            default: break;
            }
        }
    return contours_of(out);
}

Contours offset(const Contours& shape, double by, Join join) {
    ClipperLib::ClipperOffset work(miter_limit, arc);
    work.AddPaths(to_clipper(shape), join == Join::miter ? ClipperLib::jtMiter : ClipperLib::jtRound,
                  ClipperLib::etClosedPolygon);
    ClipperLib::Paths out;
    work.Execute(out, by * grid);
    return from_clipper(out);
}

namespace {

Contours clipped(const Contours& a, const Contours& b, ClipperLib::ClipType how) {
    ClipperLib::Clipper work;
    work.AddPaths(to_clipper(a), ClipperLib::ptSubject, true);
    work.AddPaths(to_clipper(b), ClipperLib::ptClip, true);
    ClipperLib::Paths out;
    work.Execute(how, out, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
    return from_clipper(out);
}

} // namespace

Contours united(const Contours& a, const Contours& b) { return clipped(a, b, ClipperLib::ctUnion); }
Contours without(const Contours& a, const Contours& b) { return clipped(a, b, ClipperLib::ctDifference); }

Polyline polyline_of(const Contours& contours) {
    Polyline out;
    for (const auto& c : contours)
        for (std::size_t i = 0; i < c.size(); ++i) {
            out.segments.push_back({c[i], c[(i + 1) % c.size()], -1});
            out.bounds.add(c[i]);
        }
    return out;
}

} // namespace bathylux
