#include "app/document/placing.h"

namespace bathylux {

namespace {

/// A placement whose matrix is, as nearly as scale and turn can say it, `wanted` (parent px).
Placement placement_from(const Placement& old, const Affine& wanted) {
    Placement out = old;
    out.x = static_cast<float>(wanted.e);
    out.y = static_cast<float>(wanted.f);
    const double su = std::hypot(wanted.a, wanted.b), sv = std::hypot(wanted.c, wanted.d);
    // Of the two ways to say a mirrored placement, the one that keeps the signs it had.
    const bool u_negative = old.scale_u < 0;
    const double sign = u_negative ? -1 : 1;
    out.turn = static_cast<float>(std::atan2(-sign * wanted.b, sign * wanted.a) / radians_per_degree);
    out.scale_u = static_cast<float>(sign * su);
    out.scale_v = static_cast<float>((wanted.determinant() < 0) != u_negative ? -sv : sv);
    return out;
}

/// Every part under a map of the canvas.
std::vector<Placement> under(const Placing& p, const Affine& map) {
    std::vector<Placement> out;
    for (const auto& part : p.parts)
        out.push_back(placement_from(part.placement,
                                     part.parent.inverse() * map * part.parent * part.placement.matrix()));
    return out;
}

constexpr std::array<Vec2, 8> corners{{{-1, -1}, {0, -1}, {1, -1}, {1, 0}, {1, 1}, {0, 1}, {-1, 1}, {-1, 0}}};

} // namespace

Vec2 Placing::handle(int i, double turnDistance) const {
    if (i < 8) return frame(corners[i]);
    const Vec2 top = frame({0, -1}), d = top - centre();
    const double len = std::max(length(d), 1e-9);
    return top + (turnDistance / len) * d;
}

Box Placing::bounds() const { return transformed(Box{-1, -1, 1, 1}, frame); }

Placing placing_of(const Scene& scene, const std::vector<std::string>& ids) {
    Placing out;
    Box all;
    for (const std::string& id : ids) {
        const auto parent = parent_placed(*scene.piece, id);
        const Element* e = find_element(scene.piece->elements, id);
        if (!parent || !e) continue;
        out.parts.push_back({id, e->placement, parent->to_device});
        all.add(element_box(scene, *e, *parent));
        if (ids.size() == 1 && !e->is_group()) {
            const Box box = own_box(scene, *e);
            if (box.empty()) continue;
            out.frame = parent->to_device * e->placement.matrix() *
                        Affine::translation(box.centre().x, box.centre().y) *
                        Affine::scaling(std::max(box.width() / 2, 0.5), std::max(box.height() / 2, 0.5));
            out.single = true;
        }
    }
    if (!out.single && !out.empty()) {
        if (all.empty()) all.add(Vec2{out.parts[0].placement.x, out.parts[0].placement.y});
        out.frame = Affine::translation(all.centre().x, all.centre().y) *
                    Affine::scaling(std::max(all.width() / 2, 1.0), std::max(all.height() / 2, 1.0));
    }
    return out;
}

std::vector<Placement> moved(const Placing& p, Vec2 by) { return under(p, Affine::translation(by.x, by.y)); }

std::vector<Placement> turned(const Placing& p, double angle, Vec2 pivot) {
    return under(p, Affine::translation(pivot.x, pivot.y) * Affine::turning(angle) *
                        Affine::translation(-pivot.x, -pivot.y));
}

std::vector<Placement> scaled(const Placing& p, int handle, Vec2 to, bool locked, bool centred) {
    const Vec2 corner = corners[handle], opposite = centred ? Vec2{0, 0} : Vec2{-corner.x, -corner.y};
    const Vec2 at = p.frame.inverse()(to);
    // How much further from the fixed point than before, along either side of the frame.
    const auto ratio = [](double now, double fixed, double was) {
        return std::abs(was - fixed) < 1e-9 ? 1.0 : (now - fixed) / (was - fixed);
    };
    double u = corner.x != 0 ? ratio(at.x, opposite.x, corner.x) : 1,
           v = corner.y != 0 ? ratio(at.y, opposite.y, corner.y) : 1;
    const auto kept = [](double s) { return std::abs(s) < 0.01 ? std::copysign(0.01, s) : s; };
    u = kept(u), v = kept(v);
    if (corner.x != 0 && corner.y != 0 && (locked || !p.single)) {
        // The pointer's place projected on the diagonal.
        const Vec2 fixed = p.frame(opposite), was = p.frame(corner) - fixed, now = to - fixed;
        u = v = kept(dot(now, was) / std::max(dot(was, was), 1e-9));
    } else if (!p.single) {
        u = v = corner.x != 0 ? u : v;
    }
    const Affine scale = p.frame * Affine::translation(opposite.x, opposite.y) * Affine::scaling(u, v) *
                         Affine::translation(-opposite.x, -opposite.y) * p.frame.inverse();
    return under(p, scale);
}

std::vector<Placement> flipped(const Placing& p, bool across) {
    if (!p.single) {
        const Vec2 c = p.centre();
        return under(p, Affine::translation(c.x, c.y) * Affine::scaling(across ? -1 : 1, across ? 1 : -1) *
                            Affine::translation(-c.x, -c.y));
    }
    Placement out = p.parts[0].placement;
    (across ? out.scale_u : out.scale_v) *= -1;
    return {out};
}

std::vector<Placement> aligned(const Placing& p, const std::vector<Box>& extents, const Box& to,
                               AlignTo how) {
    std::vector<Placement> out;
    for (std::size_t i = 0; i < p.parts.size(); ++i) {
        const Box& b = extents[i];
        Vec2 by;
        switch (how) {
        case AlignTo::left: by.x = to.x0 - b.x0; break;
        case AlignTo::centre: by.x = to.centre().x - b.centre().x; break;
        case AlignTo::right: by.x = to.x1 - b.x1; break;
        case AlignTo::top: by.y = to.y0 - b.y0; break;
        case AlignTo::middle: by.y = to.centre().y - b.centre().y; break;
        case AlignTo::bottom: by.y = to.y1 - b.y1; break;
        }
        const Vec2 inner = p.parts[i].parent.inverse().direction(by);
        Placement moved_one = p.parts[i].placement;
        moved_one.x += static_cast<float>(inner.x);
        moved_one.y += static_cast<float>(inner.y);
        out.push_back(moved_one);
    }
    return out;
}

} // namespace bathylux
