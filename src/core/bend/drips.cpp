#include "core/bend/drips.h"

#include <algorithm>
#include <cmath>

#include "core/field/parallel.h"
#include "core/make/noise.h"
#include "core/step/reshaped.h"

namespace bathylux {

namespace {

double area_of(const Contours& shape) {
    double sum = 0;
    for (const auto& c : shape)
        for (std::size_t i = 0; i < c.size(); ++i) sum += cross(c[i], c[(i + 1) % c.size()]);
    return sum / 2;
}

/// A stretch of edge that faces the way drips run.
struct Lip {
    Vec2 a, b;
    double up_to; // how much of all lips lies before its end
};

/// In an order that hangs on where they lie among each other, not on how the contours begin or how large it
/// all is.
std::vector<Lip> lips_of(const Contours& shape, Vec2 way) {
    const double side = area_of(shape) < 0 ? -1 : 1;
    const auto down = [&](Vec2 p) { return dot(p, way); };
    const auto along = [&](Vec2 p) { return cross(p, way); };
    double top = 1e300, bottom = -1e300;
    for (const auto& c : shape)
        for (Vec2 p : c) top = std::min(top, down(p)), bottom = std::max(bottom, down(p));
    const double row = std::max(1e-9, (bottom - top) / 8);
    struct Ordered {
        long long row;
        double place;
        const std::vector<Vec2>* contour;
    };
    std::vector<Ordered> order;
    for (const auto& c : shape) {
        double low = 1e300, left = 1e300;
        for (Vec2 p : c) low = std::min(low, down(p)), left = std::min(left, along(p));
        order.push_back({std::llround((low - top) / row), left, &c});
    }
    std::sort(order.begin(), order.end(), [](const Ordered& a, const Ordered& b) {
        return a.row != b.row ? a.row < b.row : a.place < b.place;
    });
    std::vector<Lip> out;
    double sum = 0;
    for (const Ordered& o : order) {
        const auto& c = *o.contour;
        const std::size_t n = c.size();
        const auto first = static_cast<std::size_t>(
            std::min_element(c.begin(), c.end(), [&](Vec2 a, Vec2 b) { return along(a) < along(b); }) -
            c.begin());
        for (std::size_t i = 0; i < n; ++i) {
            const Vec2 a = c[(first + i) % n], b = c[(first + i + 1) % n], d = b - a;
            const double l = bathylux::length(d);
            if (!(l > 0)) continue;
            const Vec2 outwards{side * d.y / l, -side * d.x / l};
            const double faces = dot(outwards, way) - 0.35;
            if (faces > 0) out.push_back({a, b, sum += l * faces});
        }
    }
    return out;
}

/// Half the width of a drip, `s` from the edge.
struct Shape {
    double length, width, bead;
    double half(double s) const {
        const double r = bead / 2, middle = std::max(0.0, length - r), u = std::clamp(s / length, 0.0, 1.0);
        const double out = std::clamp((s - (middle - r)) / std::max(1e-6, r), 0.0, 1.0);
        // A fillet at the edge, a neck that thins, faded out where the bead takes over.
        const double neck = (width / 2 * (0.5 + 0.5 * (1 - u) * (1 - u)) +
                             0.3 * width * std::exp(-std::max(0.0, s) / (0.5 * width))) *
                            (r > 0 ? 1 - out * out * (3 - 2 * out) : std::sqrt(std::max(0.0, 1 - u)));
        const double drop = std::sqrt(std::max(0.0, r * r - (s - middle) * (s - middle)));
        return std::pow(std::pow(neck, 4) + std::pow(drop, 4), 0.25);
    }
};

/// Where a drip's edge is drawn through, from its root to its end: close together where it is rounded, far
/// apart between.
std::vector<double> drawn_through(const Shape& drip) {
    const double drop = std::max(0.0, drip.length - 1.5 * drip.bead), fillet = std::min(3 * drip.width, drop);
    std::vector<double> out{0};
    const auto until = [&](double end, int most) {
        const double from = out.back();
        const int n = std::clamp(static_cast<int>((end - from) * 2), 1, most);
        for (int k = 1; end > from && k <= n; ++k) out.push_back(from + (end - from) * k / n);
    };
    until(fillet, 160), until(drop, 160), until(drip.length, 320);
    return out;
}

/// All as one, two by two: what two share is gone before others come to it, and work can stop in between.
Contours all_united(std::vector<Contours> parts) {
    while (parts.size() > 1) {
        std::vector<Contours> next;
        for (std::size_t i = 0; i < parts.size(); i += 2) {
            stop_here();
            next.push_back(i + 1 < parts.size() ? united(parts[i], parts[i + 1]) : std::move(parts[i]));
        }
        parts = std::move(next);
    }
    return parts.empty() ? Contours{} : std::move(parts.front());
}

} // namespace

Contours drips_from(const Drips& d, const Contours& shape, double unit) {
    Contours out;
    const Vec2 way{std::cos(d.angle * radians_per_degree), -std::sin(d.angle * radians_per_degree)},
        aside{-way.y, way.x};
    const auto lips = lips_of(shape, way);
    const int count = static_cast<int>(d.count);
    if (lips.empty() || count <= 0 || !(d.length > 0)) return out;
    const double all = lips.back().up_to;
    for (int i = 0; i < count; ++i) {
        const auto chance = [&](int k) { return lattice_value(i, k, static_cast<std::uint32_t>(d.seed)); };
        const double u = (i + 0.5 + 0.7 * (chance(0) - 0.5)) / count * all;
        const auto lip =
            std::lower_bound(lips.begin(), lips.end(), u, [](const Lip& l, double v) { return l.up_to < v; });
        if (lip == lips.end()) continue;
        const double before = lip == lips.begin() ? 0 : (lip - 1)->up_to;
        const Vec2 root = lip->a + ((u - before) / (lip->up_to - before)) * (lip->b - lip->a);
        const Shape drip{unit * d.length * (1 - d.vary * 0.85 * chance(1)),
                         std::max(0.5, unit * d.width * (1 - d.vary * 0.5 * chance(2))),
                         unit * d.bead * (1 - d.vary * 0.5 * chance(3))};
        const double in = drip.width / 2;
        std::vector<Vec2> left, right;
        const auto edge = [&](double s) {
            const double h = drip.half(std::max(0.0, s));
            left.push_back(root + s * way + h * aside);
            right.push_back(root + s * way + -h * aside);
        };
        edge(-in);
        for (const double s : drawn_through(drip)) edge(s);
        left.insert(left.end(), right.rbegin(), right.rend());
        if (area_of({left}) < 0) std::reverse(left.begin(), left.end());
        out.push_back(std::move(left));
    }
    return out;
}

Bundle Drips::apply(const Bundle& below, const Context& context) const {
    if (count < 1) return below;
    Contours shape = contours_of(below);
    if (area_of(shape) < 0)
        for (auto& c : shape) std::reverse(c.begin(), c.end());
    std::vector<Contours> parts;
    for (auto& drip : drips_from(*this, shape, context.length)) parts.push_back({std::move(drip)});
    const Contours drips = all_united(std::move(parts));
    Hash named;
    named << "drips" << (below.silhouette ? below.silhouette->hash : below.coverage_hash) << context.length
          << count << length << width << bead << vary << seed << angle;
    return reshaped(below, context, united(shape, drips), (length + bead) * context.length, named.value());
}

std::string Drips::says() const {
    return said(count) + ", up to " + said(length) + " px, beads " + said(bead) + " px";
}

} // namespace bathylux
