#pragma once
#include <array>
#include <cstdint>
#include <vector>

#include "core/field/geometry.h"

namespace bathylux {

/// One smooth piece of an outline, P(t). Lines and Béziers: t from 0 to 1 over the control points `p`.
/// Elliptical arcs stay what they are: P(t) = p0 + p1 cos t + p2 sin t, t from `t0` to `t1` radians.
struct Curve {
    enum class Kind : std::uint8_t { line, quadratic, cubic, arc };
    Kind kind = Kind::line;
    std::array<Vec2, 4> p{};
    double t0 = 0, t1 = 1;

    Vec2 at(double t) const;
    Vec2 first_derivative(double t) const;
    Vec2 second_derivative(double t) const;
    Curve transformed(const Affine& map) const;
};

enum class FillRule : std::uint8_t { nonzero, evenodd };

/// A filled shape: closed contours of curves, each starting where the one before it ends.
struct Outline {
    std::vector<std::vector<Curve>> contours;
    FillRule rule = FillRule::nonzero;

    bool empty() const { return contours.empty(); }
    /// Box of the control points; contains the shape.
    Box bounds() const;
    Outline transformed(const Affine& map) const;
};

/// Builds contours the way every drawing program does. An unfinished contour is closed with a line.
class OutlineBuilder {
  public:
    void move_to(Vec2 p);
    void line_to(Vec2 p);
    void quadratic_to(Vec2 c, Vec2 p);
    void cubic_to(Vec2 c1, Vec2 c2, Vec2 p);
    /// Arc of an ellipse with the given centre and half axes, from angle t0 to t1 (radians).
    void arc(Vec2 centre, Vec2 axis_u, Vec2 axis_v, double t0, double t1);
    void close();
    Outline finish(FillRule rule = FillRule::nonzero);

  private:
    Outline outline_;
    std::vector<Curve> contour_;
    Vec2 start_, pen_;
};

/// Rectangle about the origin, with circular corners of radius `corner` (cut to half the shorter side).
Outline rectangle_outline(double width, double height, double corner);
/// Ellipse about the origin.
Outline ellipse_outline(double width, double height);

/// A short straight piece of the flattened outline; where it came from a curve, which one and between
/// which of its parameters, so that a nearest point can be refined on the curve itself.
struct Segment {
    Vec2 a, b;
    int curve = -1;
    double t0 = 0, t1 = 1;
};

/// An outline as segments that keep within `tolerance` of the curves. The inside lies on the side told
/// by the fill rule; direction is kept.
struct Polyline {
    std::vector<Segment> segments;
    std::vector<Curve> curves;
    FillRule rule = FillRule::nonzero;
    Box bounds;
};
Polyline flatten(const Outline& outline, double tolerance);

/// Only the pieces that part inside from outside: where contours overlap, segments are cut at their
/// crossings and what runs through the inside is dropped. All pieces run with the inside on the same hand,
/// so that boundaries may be put together and taken the boundary of again (a union).
/// Where edges lie on one another, and that does not come out whole, it is told on Clipper's grid (see
/// contours_of), without curves.
Polyline boundary_of(const Polyline& polyline);

} // namespace bathylux
