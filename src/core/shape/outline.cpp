#include "core/shape/outline.h"

#include <utility>

#include "core/shape/offset.h"

namespace bathylux {

Vec2 Curve::at(double t) const {
    const double s = 1 - t;
    switch (kind) {
    case Kind::line: return s * p[0] + t * p[1];
    case Kind::quadratic: return s * s * p[0] + 2 * s * t * p[1] + t * t * p[2];
    case Kind::cubic:
        return s * s * s * p[0] + 3 * s * s * t * p[1] + 3 * s * t * t * p[2] + t * t * t * p[3];
    case Kind::arc: return p[0] + std::cos(t) * p[1] + std::sin(t) * p[2];
    }
    return {};
}

Vec2 Curve::first_derivative(double t) const {
    const double s = 1 - t;
    switch (kind) {
    case Kind::line: return p[1] - p[0];
    case Kind::quadratic: return 2 * s * (p[1] - p[0]) + 2 * t * (p[2] - p[1]);
    case Kind::cubic:
        return 3 * s * s * (p[1] - p[0]) + 6 * s * t * (p[2] - p[1]) + 3 * t * t * (p[3] - p[2]);
    case Kind::arc: return -std::sin(t) * p[1] + std::cos(t) * p[2];
    }
    return {};
}

Vec2 Curve::second_derivative(double t) const {
    switch (kind) {
    case Kind::line: return {};
    case Kind::quadratic: return 2 * (p[2] - 2 * p[1] + p[0]);
    case Kind::cubic: return 6 * (1 - t) * (p[2] - 2 * p[1] + p[0]) + 6 * t * (p[3] - 2 * p[2] + p[1]);
    case Kind::arc: return -std::cos(t) * p[1] - std::sin(t) * p[2];
    }
    return {};
}

Curve Curve::transformed(const Affine& map) const {
    Curve out = *this;
    if (kind == Kind::arc)
        out.p = {map(p[0]), map.direction(p[1]), map.direction(p[2]), {}};
    else
        for (Vec2& q : out.p) q = map(q);
    return out;
}

Box Outline::bounds() const {
    Box box;
    for (const auto& contour : contours)
        for (const Curve& c : contour) {
            if (c.kind == Curve::Kind::arc) {
                const double rx = std::hypot(c.p[1].x, c.p[2].x), ry = std::hypot(c.p[1].y, c.p[2].y);
                box.add(c.p[0] - Vec2{rx, ry});
                box.add(c.p[0] + Vec2{rx, ry});
            } else {
                const int points = c.kind == Curve::Kind::line ? 2 : c.kind == Curve::Kind::quadratic ? 3 : 4;
                for (int i = 0; i < points; ++i) box.add(c.p[i]);
            }
        }
    return box;
}

Outline Outline::transformed(const Affine& map) const {
    Outline out;
    out.rule = rule;
    out.contours.reserve(contours.size());
    for (const auto& contour : contours) {
        auto& to = out.contours.emplace_back();
        to.reserve(contour.size());
        for (const Curve& c : contour) to.push_back(c.transformed(map));
    }
    return out;
}

void OutlineBuilder::move_to(Vec2 p) {
    close();
    start_ = pen_ = p;
}

void OutlineBuilder::line_to(Vec2 p) {
    if (p == pen_) return;
    contour_.push_back({Curve::Kind::line, {pen_, p}});
    pen_ = p;
}

void OutlineBuilder::quadratic_to(Vec2 c, Vec2 p) {
    contour_.push_back({Curve::Kind::quadratic, {pen_, c, p}});
    pen_ = p;
}

void OutlineBuilder::cubic_to(Vec2 c1, Vec2 c2, Vec2 p) {
    contour_.push_back({Curve::Kind::cubic, {pen_, c1, c2, p}});
    pen_ = p;
}

void OutlineBuilder::arc(Vec2 centre, Vec2 axis_u, Vec2 axis_v, double t0, double t1) {
    Curve c{Curve::Kind::arc, {centre, axis_u, axis_v}, t0, t1};
    if (contour_.empty())
        start_ = c.at(t0);
    else if (length(c.at(t0) - pen_) > 1e-9)
        line_to(c.at(t0));
    pen_ = c.at(t1);
    contour_.push_back(c);
}

void OutlineBuilder::close() {
    if (contour_.empty()) return;
    if (length(pen_ - start_) > 1e-9) line_to(start_);
    outline_.contours.push_back(std::move(contour_));
    contour_.clear();
    pen_ = start_;
}

Outline OutlineBuilder::finish(FillRule rule) {
    close();
    outline_.rule = rule;
    return std::move(outline_);
}

Outline rectangle_outline(double width, double height, double corner) {
    const double w = width / 2, h = height / 2;
    const double r = std::clamp(corner, 0.0, std::min(std::abs(w), std::abs(h)));
    OutlineBuilder b;
    if (r <= 0) {
        b.move_to({-w, -h}), b.line_to({w, -h}), b.line_to({w, h}), b.line_to({-w, h});
        return b.finish();
    }
    constexpr double quarter = std::numbers::pi / 2;
    const auto turn = [&](double cx, double cy, int q) {
        b.arc({cx, cy}, {r, 0}, {0, r}, q * quarter, (q + 1) * quarter);
    };
    turn(w - r, h - r, 0), turn(-w + r, h - r, 1), turn(-w + r, -h + r, 2), turn(w - r, -h + r, 3);
    return b.finish();
}

Outline ellipse_outline(double width, double height) {
    OutlineBuilder b;
    b.arc({0, 0}, {width / 2, 0}, {0, height / 2}, 0, 2 * std::numbers::pi);
    return b.finish();
}

namespace {

/// Into how many chords a curve is cut: one over dt strays at most |P''|max dt² / 8 from it.
int pieces_of(const Curve& c, double tolerance) {
    if (c.kind == Curve::Kind::line) return 1;
    const double bend = c.kind == Curve::Kind::arc
                            ? std::max(length(c.p[1]), length(c.p[2]))
                            : std::max(length(c.second_derivative(c.t0)), length(c.second_derivative(c.t1)));
    return std::clamp(static_cast<int>(std::ceil(std::abs(c.t1 - c.t0) * std::sqrt(bend / (8 * tolerance)))),
                      1, 4096);
}

} // namespace

Polyline flatten(const Outline& outline, double tolerance) {
    Polyline out;
    out.rule = outline.rule;
    for (const auto& contour : outline.contours) {
        if (contour.empty()) continue;
        // Every piece begins where the one before it ends, to the last bit, and the last ends where the
        // first began: a ray along a gap of one rounding error would count an edge too few.
        const std::size_t first = out.segments.size();
        Vec2 from = contour.front().at(contour.front().t0);
        for (const Curve& c : contour) {
            const int index = c.kind == Curve::Kind::line ? -1 : static_cast<int>(out.curves.size());
            if (index >= 0) out.curves.push_back(c);
            const int pieces = pieces_of(c, tolerance);
            const double span = c.t1 - c.t0;
            for (int i = 0; i < pieces; ++i) {
                const double u0 = c.t0 + span * i / pieces, u1 = c.t0 + span * (i + 1) / pieces;
                const Vec2 to = c.at(u1);
                out.segments.push_back({from, to, index, u0, u1});
                out.bounds.add(from);
                out.bounds.add(to);
                from = to;
            }
        }
        out.segments.back().b = out.segments[first].a;
    }
    return out;
}

namespace {

/// Segments sorted into horizontal bands, to find those that cross a height or meet a box quickly.
class EdgeBands {
  public:
    EdgeBands(const std::vector<Segment>& segments, const Box& bounds)
        : y0_(bounds.y0), count_(std::clamp(static_cast<int>(segments.size()) / 4, 1, 4096)),
          height_(std::max(bounds.height(), 1e-9) / count_), bands_(count_) {
        for (int i = 0; i < static_cast<int>(segments.size()); ++i)
            for (int k = of(std::min(segments[i].a.y, segments[i].b.y)),
                     e = of(std::max(segments[i].a.y, segments[i].b.y));
                 k <= e; ++k)
                bands_[k].push_back(i);
    }
    int of(double y) const { return std::clamp(static_cast<int>((y - y0_) / height_), 0, count_ - 1); }
    const std::vector<int>& operator[](int band) const { return bands_[band]; }

  private:
    double y0_;
    int count_;
    double height_;
    std::vector<std::vector<int>> bands_;
};

int winding(const std::vector<Segment>& segments, const EdgeBands& bands, Vec2 p) {
    int w = 0;
    for (int i : bands[bands.of(p.y)]) {
        const Segment& s = segments[i];
        if ((s.a.y <= p.y) == (s.b.y <= p.y)) continue;
        const double x = s.a.x + (p.y - s.a.y) / (s.b.y - s.a.y) * (s.b.x - s.a.x);
        if (x > p.x) w += s.b.y > s.a.y ? 1 : -1;
    }
    return w;
}

/// Exact to the curve, but where edges lie on one another: there it may leave out one piece too many, or keep
/// one twice.
Polyline cut_boundary(const Polyline& polyline) {
    const auto& segments = polyline.segments;
    if (segments.empty()) return polyline;
    const EdgeBands bands(segments, polyline.bounds);

    // Where each segment is crossed by others, as fractions along it.
    std::vector<std::vector<double>> cuts(segments.size());
    for (int i = 0; i < static_cast<int>(segments.size()); ++i) {
        const Segment& s = segments[i];
        for (int k = bands.of(std::min(s.a.y, s.b.y)), e = bands.of(std::max(s.a.y, s.b.y)); k <= e; ++k)
            for (int j : bands[k]) {
                if (j <= i) continue;
                const Segment& o = segments[j];
                if (std::max(o.a.x, o.b.x) < std::min(s.a.x, s.b.x) ||
                    std::min(o.a.x, o.b.x) > std::max(s.a.x, s.b.x))
                    continue;
                const Vec2 d = s.b - s.a, g = o.b - o.a;
                const double det = cross(d, g);
                if (std::abs(det) < 1e-15) continue;
                const double u = cross(o.a - s.a, g) / det, v = cross(o.a - s.a, d) / det;
                // Where one ends on the other, only the other is cut: the end is a corner of the boundary
                // too.
                constexpr double ends = 1e-9;
                const auto within = [=](double t) { return t > ends && t < 1 - ends; };
                const auto touches = [=](double t) { return t >= -ends && t <= 1 + ends; };
                if (within(u) && touches(v)) cuts[i].push_back(u);
                if (within(v) && touches(u)) cuts[j].push_back(v);
            }
    }

    Polyline out;
    out.rule = FillRule::nonzero;
    out.curves = polyline.curves;
    out.bounds = polyline.bounds;
    const auto filled = [&](Vec2 p) {
        const int w = winding(segments, bands, p);
        return polyline.rule == FillRule::nonzero ? w != 0 : (w & 1) != 0;
    };
    for (std::size_t i = 0; i < segments.size(); ++i) {
        const Segment& s = segments[i];
        auto& at = cuts[i];
        std::sort(at.begin(), at.end());
        at.push_back(1);
        double u0 = 0;
        for (double u1 : at) {
            const double from = std::exchange(u0, u1);
            if (u1 - from > 1e-12) {
                const Vec2 a = s.a + from * (s.b - s.a), b = s.a + u1 * (s.b - s.a), d = b - a;
                const double len = length(d);
                if (len > 0) {
                    // Look a hair to either side of the middle of the piece.
                    const Vec2 n = std::min(1e-4, len * 0.01) / len * Vec2{d.y, -d.x};
                    const Vec2 m = 0.5 * (a + b);
                    const bool left = filled(m + n), right = filled(m - n);
                    if (left == right) continue;
                    Segment kept{a, b, s.curve, s.t0 + from * (s.t1 - s.t0), s.t0 + u1 * (s.t1 - s.t0)};
                    if (left) std::swap(kept.a, kept.b), std::swap(kept.t0, kept.t1);
                    out.segments.push_back(kept);
                }
            }
        }
    }
    return out;
}

/// Whether at every height as many pieces go up as go down, and beside each there is nothing on one hand and
/// the inside once on the other.
bool holds(const Polyline& boundary) {
    const auto& segments = boundary.segments;
    std::vector<std::pair<double, int>> ends;
    ends.reserve(2 * segments.size());
    for (const Segment& s : segments) {
        const int way = s.b.y > s.a.y ? 1 : -1;
        ends.emplace_back(std::min(s.a.y, s.b.y), way);
        ends.emplace_back(std::max(s.a.y, s.b.y), -way);
    }
    std::sort(ends.begin(), ends.end());
    constexpr double a_hair = 1e-6; // what is left out there is not seen
    int open = 0;
    for (std::size_t i = 0; i + 1 < ends.size(); ++i) {
        open += ends[i].second;
        if (open != 0 && ends[i + 1].first - ends[i].first > a_hair) return false;
    }
    const EdgeBands bands(segments, boundary.bounds);
    return std::ranges::all_of(segments, [&](const Segment& s) {
        const Vec2 d = s.b - s.a;
        const double len = length(d);
        if (len < 1e-3) return true;
        const Vec2 n = std::min(1e-4, len * 0.01) / len * Vec2{d.y, -d.x}, m = 0.5 * (s.a + s.b);
        const int one = std::abs(winding(segments, bands, m + n)),
                  other = std::abs(winding(segments, bands, m - n));
        return one + other == 1;
    });
}

} // namespace

Polyline boundary_of(const Polyline& polyline) {
    Polyline exact = cut_boundary(polyline);
    return holds(exact) ? exact : polyline_of(contours_of(polyline));
}

} // namespace bathylux
