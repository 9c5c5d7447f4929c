#include "core/paint/push.h"

#include <algorithm>
#include <cmath>

#include "core/field/between.h"

namespace bathylux {

namespace {

constexpr double least = 0.05;  // of the determinant
constexpr float softest = 0.5f; // hardness beyond which a rim would tear

/// A drift over a region, painting px.
struct DriftPart {
    Region region;
    Plane x, y;

    DriftPart(const Painting& p, Region r) : region(r), x(r.width(), r.height()), y(r.width(), r.height()) {
        const auto k = static_cast<float>(p.density());
        for (int ty = floor_div(r.y0, Painting::side); ty <= floor_div(r.y1 - 1, Painting::side); ++ty)
            for (int tx = floor_div(r.x0, Painting::side); tx <= floor_div(r.x1 - 1, Painting::side); ++tx) {
                const Painting::Tile* t = p.tile(tx, ty);
                const Region part = intersect(r, {tx * Painting::side, ty * Painting::side,
                                                  (tx + 1) * Painting::side, (ty + 1) * Painting::side});
                for (int j = part.y0; j < part.y1; ++j)
                    for (int i = part.x0; i < part.x1; ++i) {
                        const auto at = static_cast<std::size_t>((j - ty * Painting::side) * Painting::side +
                                                                 i - tx * Painting::side);
                        x(i - r.x0, j - r.y0) = t ? k * t->height[at] : 0.0f;
                        y(i - r.x0, j - r.y0) = t ? k * t->hidden[at] : 0.0f;
                    }
            }
    }
    DriftPart(Region r) : region(r), x(r.width(), r.height()), y(r.width(), r.height()) {}

    /// Between the middles of px, held at the rim.
    Vec2 at(Vec2 p) const { return between(x, y, p - Vec2{double(region.x0), double(region.y0)}); }
};

double least_determinant(const DriftPart& d) {
    double out = 1e30;
    for (int j = 0; j + 1 < d.region.height(); ++j)
        for (int i = 0; i + 1 < d.region.width(); ++i)
            for (int k = 0; k < 4; ++k) {
                const int b = k >> 1, a = k & 1; // the row of the difference across, the column of that down
                const double xx = 1 - (d.x(i + 1, j + b) - d.x(i, j + b)),
                             yx = -(d.y(i + 1, j + b) - d.y(i, j + b)),
                             xy = -(d.x(i + a, j + 1) - d.x(i + a, j)),
                             yy = 1 - (d.y(i + a, j + 1) - d.y(i + a, j));
                out = std::min(out, xx * yy - xy * yx);
            }
    return out;
}

/// What the press would make of a drift, at a strength.
DriftPart pressed(const DriftPart& was, Region area, const Brush& brush, Vec2 at, double flow, Vec2 by) {
    const double radius = std::max(1.0, brush.size / 2.0);
    const auto share = [&](Vec2 p) {
        return flow * falloff(static_cast<float>(length(p - at) / radius), std::min(brush.hardness, softest));
    };
    // A shift steeper than this would fold by itself.
    const double most = 0.3 * radius, way = length(by);
    const Vec2 step = way > most ? (most / way) * by : by;
    DriftPart out(area);
    const int rim = std::clamp(static_cast<int>(radius / 6), 1, 8);
    for (int j = 0; j < area.height(); ++j)
        for (int i = 0; i < area.width(); ++i) {
            const Vec2 p{area.x0 + i + 0.5, area.y0 + j + 0.5}, r = p - at;
            const double k = share(p);
            Vec2 d = was.at(p);
            if (k > 0) switch (brush.work) {
                case BrushWork::push: d = k * step + was.at(p - k * step); break;
                case BrushWork::swell:
                case BrushWork::thin: {
                    const Vec2 by_size = (brush.work == BrushWork::swell ? 0.14 * k : -0.14 * k) * r;
                    d = by_size + was.at(p - by_size);
                    break;
                }
                case BrushWork::turn: {
                    const double a = 0.2 * k, c = std::cos(a), s = std::sin(a);
                    const Vec2 from{c * r.x - s * r.y, s * r.x + c * r.y}, shift = r - from;
                    d = shift + was.at(p - shift);
                    break;
                }
                case BrushWork::smooth_out: {
                    Vec2 mean{};
                    double n = 0;
                    for (int b = -rim; b <= rim; b += std::max(1, rim / 2))
                        for (int a = -rim; a <= rim; a += std::max(1, rim / 2))
                            mean = mean + was.at(p + Vec2{double(a), double(b)}), ++n;
                    d = d + k * ((1 / n) * mean - d);
                    break;
                }
                default: d = (1 - k) * d; // settle
                }
            out.x(i, j) = static_cast<float>(d.x), out.y(i, j) = static_cast<float>(d.y);
        }
    return out;
}

} // namespace

Region push_dab(Painting& painting, const Brush& brush, Vec2 at, float strength, Vec2 by) {
    double flow = std::clamp(double(brush.flow) * strength, 0.0, 1.0);
    const double radius = std::max(1.0, brush.size / 2.0);
    if (flow <= 0 || (brush.work == BrushWork::push && by == Vec2{})) return {};
    const Region inner = covering(Box{at.x - radius, at.y - radius, at.x + radius, at.y + radius}),
                 area = grow(inner, 2);
    const DriftPart was(painting, grow(area, static_cast<int>(std::ceil(0.3 * radius)) + 12));
    DriftPart now(area);
    for (int tries = 0;; ++tries) {
        now = pressed(was, area, brush, at, flow, by);
        if (least_determinant(now) > least) break;
        if (tries == 6) return {};
        flow /= 2;
    }
    const auto k = static_cast<float>(1 / painting.density());
    painting.change(inner, [&](Painting::Tile& tile, int x0, int y0) {
        const Region part = intersect(inner, {x0, y0, x0 + Painting::side, y0 + Painting::side});
        for (int y = part.y0; y < part.y1; ++y)
            for (int x = part.x0; x < part.x1; ++x) {
                const auto i = static_cast<std::size_t>((y - y0) * Painting::side + x - x0);
                tile.height[i] = k * now.x(x - area.x0, y - area.y0);
                tile.hidden[i] = k * now.y(x - area.x0, y - area.y0);
            }
        tile.hides = true;
    });
    return inner;
}

double least_jacobian(const Painting& painting, Region region) {
    return region.empty() ? 1 : least_determinant(DriftPart(painting, grow(region, 1)));
}

} // namespace bathylux
