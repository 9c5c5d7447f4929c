#include "core/bend/perspective.h"

#include <cmath>

#include "core/bend/bent.h"
#include "core/bend/perspective_simd.h"
#include "core/error.h"
#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

using Matrix = std::array<double, 9>;

/// The map of the unit square's corners (0,0), (1,0), (1,1), (0,1) to four points.
Matrix from_square(const std::array<Vec2, 4>& q) {
    const Vec2 sum = q[0] - q[1] + q[2] - q[3], d1 = q[1] - q[2], d2 = q[3] - q[2];
    const double det = cross(d1, d2), g = det != 0 ? cross(sum, d2) / det : 0,
                 h = det != 0 ? cross(d1, sum) / det : 0;
    return {q[1].x - q[0].x + g * q[1].x,
            q[3].x - q[0].x + h * q[3].x,
            q[0].x,
            q[1].y - q[0].y + g * q[1].y,
            q[3].y - q[0].y + h * q[3].y,
            q[0].y,
            g,
            h,
            1};
}

Matrix adjugate(const Matrix& m) {
    return {m[4] * m[8] - m[5] * m[7], m[2] * m[7] - m[1] * m[8], m[1] * m[5] - m[2] * m[4],
            m[5] * m[6] - m[3] * m[8], m[0] * m[8] - m[2] * m[6], m[2] * m[3] - m[0] * m[5],
            m[3] * m[7] - m[4] * m[6], m[1] * m[6] - m[0] * m[7], m[0] * m[4] - m[1] * m[3]};
}

Matrix product(const Matrix& a, const Matrix& b) {
    Matrix out{};
    for (std::size_t i = 0; i < 3; ++i)
        for (std::size_t j = 0; j < 3; ++j)
            for (std::size_t k = 0; k < 3; ++k) out[3 * i + j] += a[3 * i + k] * b[3 * k + j];
    return out;
}

} // namespace

Homography Homography::between(const std::array<Vec2, 4>& from, const std::array<Vec2, 4>& to) {
    Matrix m = product(from_square(to), adjugate(from_square(from)));
    // Positive where the first corner is: this side of the horizon.
    const double at = m[6] * from[0].x + m[7] * from[0].y + m[8];
    if (at != 0)
        for (double& v : m) v /= at;
    return {m};
}

std::array<Vec2, 4> Perspective::corners(const Context& c, bool moved) const {
    const Box& b = c.box;
    std::array<Vec2, 4> out{Vec2{b.x0, b.y0}, {b.x1, b.y0}, {b.x1, b.y1}, {b.x0, b.y1}};
    const std::array<Vec2, 4> by{Vec2{tl_x, tl_y}, {tr_x, tr_y}, {br_x, br_y}, {bl_x, bl_y}};
    for (std::size_t i = 0; i < 4; ++i) {
        out[i] = c.box_to_device(out[i]);
        if (moved) out[i] = out[i] + c.length * by[i];
    }
    return out;
}

bool Perspective::stands(const Context& c) const {
    const auto was = corners(c, false), is = corners(c, true);
    const double side = cross(was[1] - was[0], was[2] - was[1]);
    if (side == 0) return true; // no box to speak of
    for (std::size_t i = 0; i < 4; ++i) {
        const Vec2 a = is[(i + 1) % 4] - is[i], b = is[(i + 2) % 4] - is[(i + 1) % 4];
        if (!(cross(a, b) * side > 1e-9 * side * side)) return false;
    }
    return true;
}

Looks Perspective::looks_at(const Context& context) const {
    const auto back = Homography::between(corners(context, true), corners(context, false));
    const Region all = grow(context.region, 1);
    Looks out{context.region, Plane(all.width(), all.height()), Plane(all.width(), all.height())};
    parallel_rows(0, all.height(), [&](int y) {
        places_in_perspective(back.h, all.x0 + 0.5, all.y0 + y + 0.5, all.width(), out.x.row(y),
                              out.y.row(y));
    });
    return out;
}

Bundle Perspective::apply(const Bundle&, const Context& context) const {
    if (context.box.empty() || !context.box_to_device.invertible() || !stands(context))
        return extended_with_nothing(context.below(context.region), context.region);
    return bent(looks_at(context), context, edge);
}

Region Perspective::lands(Region below, const Context& context) const {
    if (context.box.empty() || !context.box_to_device.invertible()) return below;
    if (!stands(context))
        throw Error("the corners of its perspective fold over. Move them so that they make a frame without "
                    "crossed or bent-in sides.");
    const Region all = bent_extent(below, Edge::repeat, context, 0, 0);
    if (edge != Edge::none || context.canvas_edge == Edge::repeat) return all;
    const auto to = Homography::between(corners(context, false), corners(context, true));
    Box out;
    for (const Vec2 p : {Vec2{double(below.x0), double(below.y0)},
                         {double(below.x1), double(below.y0)},
                         {double(below.x0), double(below.y1)},
                         {double(below.x1), double(below.y1)}}) {
        const auto [q, w] = to(p);
        if (!(w > 1e-6)) return all;
        out.add(q);
    }
    return intersect(grow(covering(out), 2), all);
}

std::string Perspective::says() const {
    int moved = 0;
    for (const auto& [x, y] : {std::pair{tl_x, tl_y}, {tr_x, tr_y}, {br_x, br_y}, {bl_x, bl_y}})
        moved += x != 0 || y != 0;
    if (moved == 0) return "no corner moved";
    return moved == 1 ? "one corner moved" : std::to_string(moved) + " corners moved";
}

} // namespace bathylux
