#pragma once
#include <vector>

#include "core/solid/body.h"
#include "core/solid/vec3.h"

namespace bathylux {

/// A point of a bare surface: where, which way it faces, and how both change along its coordinates (per px).
struct SurfacePoint {
    Vec3 place, normal;
    Vec3 place_a, place_b, normal_a, normal_b;
};

/// A piece of a body's surface over the coordinates a (to the right as seen from outside) and b (down), px
/// along the surface: flat, or a straight line or arc turned about an axis.
struct Patch {
    double a0 = 0, a1 = 0, b0 = 0, b1 = 0;
    int least_a = 1, least_b = 1; // cells that a and b are cut into at the least
    bool bare = false;            // never covered by the canvas

    // Flat: place = origin + a right − b up. Turned: about the axis `up` through the origin, by the angle
    // a ÷ per_turn from `outward` towards `right`; swept along `right` where per_turn is 0.
    Vec3 origin, right, up, outward;
    bool flat = true;
    double per_turn = 1;
    // Its profile: (distance from the axis, up) = (r0, y0) + (b − b0) (dr, dy), or an arc about (r0, y0) of
    // the radius `arc` that starts at the angle `from` (radians, from outward up) and falls.
    double r0 = 0, y0 = 0, dr = 0, dy = -1, arc = 0, from = 0;

    /// Its parts that hang on a or b alone, for who asks for a grid of points.
    struct Turn {
        double a = 0, cosine = 1, sine = 0;
    };
    struct Profile {
        double b = 0;
        double r = 0, y = 0, nr = 0, ny = 0;         // place and normal: from the axis, up
        double r_b = 0, y_b = 0, nr_b = 0, ny_b = 0; // how they change along b
    };
    Turn turn(double a) const;
    Profile profile(double b) const;
    SurfacePoint at(const Turn& turn, const Profile& profile) const;
    SurfacePoint at(double a, double b) const { return at(turn(a), profile(b)); }
};

/// The patches a body is made of, px; none for a mesh. `width`, `height`: the canvas's.
/// Edges that are not round get a radius no one sees, so that the skin stays in one piece when it is shifted.
std::vector<Patch> patches_of(const Body& body, double width, double height);

} // namespace bathylux
