#include "core/solid/patch.h"

#include <algorithm>

namespace bathylux {

namespace {

constexpr double sharp_edge = 1e-3; // px, the least radius of an edge
constexpr Vec3 x_axis{1, 0, 0}, y_axis{0, 1, 0}, z_axis{0, 0, 1};

Patch flat_patch(Vec3 middle, Vec3 right, Vec3 up, double width, double height, double a, double b) {
    Patch p;
    p.flat = true;
    p.right = right, p.up = up, p.outward = cross(right, up);
    p.a0 = a - width / 2, p.a1 = a + width / 2, p.b0 = b - height / 2, p.b1 = b + height / 2;
    p.origin = middle - a * right + b * up;
    return p;
}

/// A line or arc turned about an axis, over a ∈ [a0, a1].
Patch turned_patch(Vec3 origin, Vec3 right, Vec3 up, double per_turn, double a0, double a1) {
    Patch p;
    p.flat = false;
    p.origin = origin, p.right = right, p.up = up, p.outward = cross(right, up);
    p.per_turn = per_turn, p.a0 = a0, p.a1 = a1;
    return p;
}
Patch straight_profile(Patch p, double b0, double r0, double y0, double r1, double y1) {
    const double length = std::hypot(r1 - r0, y1 - y0);
    p.b0 = b0, p.b1 = b0 + length;
    p.r0 = r0, p.y0 = y0;
    if (length > 0) p.dr = (r1 - r0) / length, p.dy = (y1 - y0) / length;
    return p;
}
Patch round_profile(Patch p, double b0, double r, double y, double radius, double from, double span) {
    p.b0 = b0, p.b1 = b0 + radius * span;
    p.r0 = r, p.y0 = y, p.arc = radius, p.from = from;
    p.least_b = std::max(4, static_cast<int>(std::ceil(span / (half_circle / 12))));
    return p;
}

std::vector<Patch> cylinder(const Body& body) {
    const double R = body.radius, half = body.height / 2,
                 r = std::clamp(double(body.round), sharp_edge, std::min(R, half));
    const Patch around = turned_patch({}, x_axis, y_axis, R, -half_circle * R, half_circle * R);
    const double side = half - r, edge = r * half_circle / 2;
    std::vector<Patch> out{
        straight_profile(around, -side, R, side, R, -side),
        round_profile(around, -side - edge, R - r, side, r, half_circle / 2, half_circle / 2),
        round_profile(around, side, R - r, -side, r, 0, half_circle / 2)};
    if (R > r) {
        out.push_back(straight_profile(around, 0, 0, half, R - r, half));
        out.push_back(straight_profile(around, 0, R - r, -half, 0, -half));
        out[3].bare = out[4].bare = true;
    }
    std::erase_if(out, [](const Patch& p) { return !(p.b1 > p.b0); });
    return out;
}

/// Faces, then the edges between them, then corners. Round the four sides a runs on from the middle of the
/// front; the top and bottom are reached over the front's edges.
std::vector<Patch> box(const Body& body) {
    const double r =
        std::clamp(double(body.round), sharp_edge, std::min({body.width, body.height, body.depth}) / 2.0);
    const double w = body.width / 2 - r, h = body.height / 2 - r, d = body.depth / 2 - r,
                 edge = r * half_circle / 2;
    std::vector<Patch> out;
    // The sides, to the right from the front: where each looks, and half its flat width.
    const Vec3 outward[4] = {z_axis, x_axis, -z_axis, -x_axis};
    const double half[4] = {w, d, w, d}, away[4] = {d, w, d, w};
    double a = 0; // of this side's middle
    for (int i = 0; i < 4; ++i) {
        const Vec3 out_i = outward[i], right = cross(y_axis, out_i);
        const double corner_a = a + half[i]; // where the edge to the next side begins
        out.push_back(flat_patch((away[i] + r) * out_i, right, y_axis, 2 * half[i], 2 * h, a, 0));
        // The upright edge to the next side, and the corners above and below it.
        Patch upright = turned_patch(away[i] * out_i + half[i] * right, right, y_axis, r, 0, edge);
        upright.least_a = 6;
        const auto moved = [&](Patch p) { // a begins at corner_a
            p.a0 += corner_a, p.a1 += corner_a;
            // The angle is a ÷ per_turn: turned back by what a begins with.
            const double t = -corner_a / p.per_turn;
            const Vec3 o = p.outward, s = p.right;
            p.outward = std::cos(t) * o + std::sin(t) * s, p.right = std::cos(t) * s - std::sin(t) * o;
            return p;
        };
        out.push_back(moved(straight_profile(upright, -h, r, h, r, -h)));
        Patch above = moved(round_profile(upright, -h - edge, 0, h, r, half_circle / 2, half_circle / 2)),
              below = moved(round_profile(upright, h, 0, -h, r, 0, half_circle / 2));
        out.push_back(above), out.push_back(below);
        // The level edges: turned about an axis along the side.
        for (const bool top : {true, false}) {
            Patch level;
            level.flat = false;
            level.a0 = a - half[i], level.a1 = a + half[i];
            level.b0 = top ? -h - edge : h, level.b1 = level.b0 + edge;
            level.least_b = 6;
            level.per_turn = 0;
            level.right = right, level.up = y_axis, level.outward = out_i;
            level.arc = r, level.from = top ? half_circle / 2 : 0;
            level.origin = away[i] * out_i + (top ? h : -h) * y_axis - a * right;
            out.push_back(level);
        }
        a += half[i] + edge + half[(i + 1) % 4];
    }
    out.push_back(flat_patch((h + r) * y_axis, x_axis, -z_axis, 2 * w, 2 * d, 0, -(h + edge + d)));
    out.push_back(flat_patch(-(h + r) * y_axis, x_axis, z_axis, 2 * w, 2 * d, 0, h + edge + d));
    std::erase_if(out, [](const Patch& p) { return !(p.b1 > p.b0) || !(p.a1 > p.a0); });
    return out;
}

} // namespace

Patch::Turn Patch::turn(double a) const {
    if (flat || per_turn == 0) return {a};
    return {a, std::cos(a / per_turn), std::sin(a / per_turn)};
}

Patch::Profile Patch::profile(double b) const {
    if (flat) return {b};
    if (arc > 0) {
        const double t = from - (b - b0) / arc, c = std::cos(t), s = std::sin(t);
        return {b, r0 + arc * c, y0 + arc * s, c, s, s, -c, s / arc, -c / arc};
    }
    return {b, r0 + (b - b0) * dr, y0 + (b - b0) * dy, -dy, dr, dr, dy, 0, 0};
}

SurfacePoint Patch::at(const Turn& t, const Profile& p) const {
    SurfacePoint out;
    if (flat) {
        out.place = origin + t.a * right - p.b * up;
        out.normal = outward;
        out.place_a = right, out.place_b = -up;
        return out;
    }
    if (per_turn == 0) { // swept along a straight line
        out.place = origin + t.a * right + p.r * outward + p.y * up;
        out.normal = p.nr * outward + p.ny * up;
        out.place_a = right, out.place_b = p.r_b * outward + p.y_b * up;
        out.normal_b = p.nr_b * outward + p.ny_b * up;
        return out;
    }
    const Vec3 radial = t.sine * right + t.cosine * outward, around = t.cosine * right - t.sine * outward;
    out.place = origin + p.r * radial + p.y * up;
    out.normal = p.nr * radial + p.ny * up;
    out.place_a = (p.r / per_turn) * around, out.place_b = p.r_b * radial + p.y_b * up;
    out.normal_a = (p.nr / per_turn) * around, out.normal_b = p.nr_b * radial + p.ny_b * up;
    return out;
}

std::vector<Patch> patches_of(const Body& body, double width, double height) {
    switch (body.kind) {
    case BodyKind::plane: return {flat_patch({}, x_axis, y_axis, width, height, 0, 0)};
    case BodyKind::cylinder: return cylinder(body);
    case BodyKind::sphere: {
        const double R = body.radius;
        return {round_profile(turned_patch({}, x_axis, y_axis, R, -half_circle * R, half_circle * R),
                              -R * half_circle / 2, 0, 0, R, half_circle / 2, half_circle)};
    }
    case BodyKind::box: return box(body);
    case BodyKind::mesh: break;
    }
    return {};
}

} // namespace bathylux
