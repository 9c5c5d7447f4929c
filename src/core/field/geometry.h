#pragma once
#include <algorithm>
#include <cmath>
#include <numbers>

namespace bathylux {

/// A point or direction on the canvas: x to the right, y down, in px.
struct Vec2 {
    double x = 0, y = 0;
    friend Vec2 operator+(Vec2 a, Vec2 b) { return {a.x + b.x, a.y + b.y}; }
    friend Vec2 operator-(Vec2 a, Vec2 b) { return {a.x - b.x, a.y - b.y}; }
    friend Vec2 operator*(double s, Vec2 a) { return {s * a.x, s * a.y}; }
    friend bool operator==(const Vec2&, const Vec2&) = default;
};
inline double dot(Vec2 a, Vec2 b) { return a.x * b.x + a.y * b.y; }
inline double cross(Vec2 a, Vec2 b) { return a.x * b.y - a.y * b.x; }
inline double length(Vec2 a) { return std::hypot(a.x, a.y); }

constexpr double radians_per_degree = std::numbers::pi / 180;

/// Affine map p → (a x + c y + e, b x + d y + f).
struct Affine {
    double a = 1, b = 0, c = 0, d = 1, e = 0, f = 0;

    Vec2 operator()(Vec2 p) const { return {a * p.x + c * p.y + e, b * p.x + d * p.y + f}; }
    Vec2 direction(Vec2 p) const { return {a * p.x + c * p.y, b * p.x + d * p.y}; }
    double determinant() const { return a * d - b * c; }
    /// Factor by which lengths grow on average: √|det|.
    double mean_scale() const { return std::sqrt(std::abs(determinant())); }
    /// Largest factor by which any length grows (the larger singular value).
    double max_scale() const {
        const double s = a * a + b * b + c * c + d * d, det = determinant();
        return std::sqrt((s + std::sqrt(std::max(0.0, s * s - 4 * det * det))) / 2);
    }
    bool invertible() const { return std::abs(determinant()) > 1e-12; }
    Affine inverse() const {
        const double k = 1 / determinant();
        return {d * k, -b * k, -c * k, a * k, (c * f - d * e) * k, (b * e - a * f) * k};
    }
    static Affine translation(double x, double y) { return {1, 0, 0, 1, x, y}; }
    static Affine scaling(double u, double v) { return {u, 0, 0, v, 0, 0}; }
    /// Turn counter-clockwise as seen: the u axis points along (cos t, −sin t), y being down.
    static Affine turning(double angle_degrees) {
        const double s = std::sin(angle_degrees * radians_per_degree),
                     k = std::cos(angle_degrees * radians_per_degree);
        return {k, -s, s, k, 0, 0};
    }
    friend bool operator==(const Affine&, const Affine&) = default;
};

/// p → outer(inner(p)).
inline Affine operator*(const Affine& outer, const Affine& inner) {
    return {outer.a * inner.a + outer.c * inner.b,           outer.b * inner.a + outer.d * inner.b,
            outer.a * inner.c + outer.c * inner.d,           outer.b * inner.c + outer.d * inner.d,
            outer.a * inner.e + outer.c * inner.f + outer.e, outer.b * inner.e + outer.d * inner.f + outer.f};
}

/// Axis-aligned box in real coordinates.
struct Box {
    double x0 = 1e300, y0 = 1e300, x1 = -1e300, y1 = -1e300;
    bool empty() const { return x0 > x1 || y0 > y1; }
    double width() const { return x1 - x0; }
    double height() const { return y1 - y0; }
    Vec2 centre() const { return {(x0 + x1) / 2, (y0 + y1) / 2}; }
    void add(Vec2 p) {
        x0 = std::min(x0, p.x), y0 = std::min(y0, p.y);
        x1 = std::max(x1, p.x), y1 = std::max(y1, p.y);
    }
    void add(const Box& b) {
        if (!b.empty()) add(Vec2{b.x0, b.y0}), add(Vec2{b.x1, b.y1});
    }
};

/// The box of that size about the origin.
inline Box box_about(double width, double height) { return {-width / 2, -height / 2, width / 2, height / 2}; }

inline Box transformed(const Box& box, const Affine& map) {
    Box out;
    if (box.empty()) return out;
    for (Vec2 p : {Vec2{box.x0, box.y0}, {box.x1, box.y0}, {box.x0, box.y1}, {box.x1, box.y1}})
        out.add(map(p));
    return out;
}

/// Half-open rectangle of whole pixels: pixel (i, j) covers [i, i+1) × [j, j+1).
struct Region {
    int x0 = 0, y0 = 0, x1 = 0, y1 = 0;
    int width() const { return std::max(0, x1 - x0); }
    int height() const { return std::max(0, y1 - y0); }
    bool empty() const { return x1 <= x0 || y1 <= y0; }
    long long area() const { return static_cast<long long>(width()) * height(); }
    bool contains(const Region& r) const { return r.x0 >= x0 && r.y0 >= y0 && r.x1 <= x1 && r.y1 <= y1; }
    friend bool operator==(const Region&, const Region&) = default;
};
inline Region intersect(Region a, Region b) {
    Region r{std::max(a.x0, b.x0), std::max(a.y0, b.y0), std::min(a.x1, b.x1), std::min(a.y1, b.y1)};
    return r.empty() ? Region{} : r;
}
/// a ÷ b rounded down, for b > 0.
inline int floor_div(int a, int b) { return a >= 0 ? a / b : -((b - 1 - a) / b); }
/// The least region that holds both.
inline Region united(Region a, Region b) {
    if (a.empty()) return b;
    if (b.empty()) return a;
    return {std::min(a.x0, b.x0), std::min(a.y0, b.y0), std::max(a.x1, b.x1), std::max(a.y1, b.y1)};
}
inline Region grow(Region r, int by) {
    return r.empty() ? r : Region{r.x0 - by, r.y0 - by, r.x1 + by, r.y1 + by};
}
/// A canvas, and as far about it as its larger side: nobody asks for what lies further.
inline Region about(Region canvas) { return grow(canvas, std::max(canvas.width(), canvas.height())); }
/// The whole pixels that a box touches; a box far outside the plane's range is cut to it.
inline Region covering(const Box& b) {
    if (b.empty()) return {};
    constexpr double limit = 1 << 24;
    const auto cut = [=](double v) { return static_cast<int>(std::clamp(v, -limit, limit)); };
    return {cut(std::floor(b.x0)), cut(std::floor(b.y0)), cut(std::ceil(b.x1)), cut(std::ceil(b.y1))};
}

/// What lies past an edge: nothing, the nearest value, the same again, the same mirrored.
enum class Edge { none, clamp, repeat, mirrored_repeat };

/// Index of the sample that stands for position i of a row of n, for every edge but `none` (which clamps).
inline int wrapped(int i, int n, Edge edge) {
    if (i >= 0 && i < n) return i;
    if (edge == Edge::repeat) return ((i % n) + n) % n;
    if (edge == Edge::mirrored_repeat) {
        const int m = ((i % (2 * n)) + 2 * n) % (2 * n);
        return m < n ? m : 2 * n - 1 - m;
    }
    return std::clamp(i, 0, n - 1);
}

} // namespace bathylux
