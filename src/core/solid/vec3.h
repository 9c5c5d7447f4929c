#pragma once
#include <cmath>
#include <numbers>

namespace bathylux {

/// Half a turn, radians.
inline constexpr double half_circle = std::numbers::pi;

/// A point or direction in the solid's space: px, x right, y up, z towards the viewer, the origin at the
/// canvas's middle.
struct Vec3 {
    double x = 0, y = 0, z = 0;
    friend Vec3 operator+(Vec3 a, Vec3 b) { return {a.x + b.x, a.y + b.y, a.z + b.z}; }
    friend Vec3 operator-(Vec3 a, Vec3 b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
    friend Vec3 operator-(Vec3 a) { return {-a.x, -a.y, -a.z}; }
    friend Vec3 operator*(double s, Vec3 a) { return {s * a.x, s * a.y, s * a.z}; }
    friend bool operator==(const Vec3&, const Vec3&) = default;
};
inline double dot(Vec3 a, Vec3 b) { return a.x * b.x + a.y * b.y + a.z * b.z; }
inline Vec3 cross(Vec3 a, Vec3 b) {
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
inline double length(Vec3 a) { return std::sqrt(dot(a, a)); }
/// a itself where it has no length.
inline Vec3 normalized(Vec3 a) {
    const double l = length(a);
    return l > 0 ? (1 / l) * a : a;
}

} // namespace bathylux
