#include "core/render/tied_lights.h"

#include <algorithm>
#include <cmath>

#include "core/light/lights.h"
#include "core/render/scene.h"

namespace bathylux {

Affine frame_of(const Piece& piece, const Light& light) {
    if (light.tied.empty()) return {};
    const Element* e = find_element(piece.elements, light.tied);
    const auto parent = e ? parent_placed(piece, light.tied) : std::nullopt;
    return parent ? parent->to_device * e->placement.matrix() : Affine{};
}

namespace {

/// Degrees by which directions turn, counter-clockwise as seen.
double turn_of(const Affine& m) {
    const Vec2 along = m(Vec2{1, 0}) - m(Vec2{0, 0});
    return std::atan2(-along.y, along.x) / radians_per_degree;
}

Described moved(const Described& what, const Affine& m) {
    Described out = what;
    const auto place = [&](std::string_view x, std::string_view y) {
        const Vec2 at = m(Vec2{std::get<double>(out.get(x)), std::get<double>(out.get(y))});
        out = out.with(x, at.x).with(y, at.y);
    };
    const auto turn = [&](std::string_view angle) {
        const double a = std::get<double>(out.get(angle)) + turn_of(m);
        out = out.with(angle, std::remainder(a, 360.0));
    };
    const LightKind& kind = light_kind_of(what);
    if (kind.stands) place("x", "y");
    if (kind.aimed) place("target_x", "target_y");
    if (!kind.angle.empty()) turn(kind.angle);
    return out;
}

} // namespace

Light on_canvas(const Piece& piece, const Light& light) {
    Light out = light;
    if (!light.tied.empty()) out.what = moved(light.what, frame_of(piece, light));
    return out;
}

std::vector<Light> lights_on_canvas(const Piece& piece) {
    std::vector<Light> out;
    for (const Light& l : piece.lights) out.push_back(on_canvas(piece, l));
    return out;
}

void put_on_canvas(const Piece& piece, Light& light, const Described& what) {
    if (light.tied.empty()) {
        light.what = what;
        return;
    }
    const Affine m = frame_of(piece, light);
    if (m.invertible()) light.what = moved(what, m.inverse());
}

void tie_to(const Piece& piece, Light& light, const std::string& element) {
    const Described here = on_canvas(piece, light).what;
    const std::string before = light.tied;
    light.tied = element;
    if (!element.empty() && !frame_of(piece, light).invertible()) {
        light.tied = before;
        return;
    }
    put_on_canvas(piece, light, here);
}

void let_go_of(Piece& piece, const std::vector<std::string>& elements) {
    std::vector<std::string> gone = elements;
    for (const std::string& id : elements)
        if (const Element* e = find_element(piece.elements, id))
            for_each_element(e->elements, [&](const Element& c) { gone.push_back(c.id); });
    const auto goes = [&](const Light& l) {
        return !l.tied.empty() && std::find(gone.begin(), gone.end(), l.tied) != gone.end();
    };
    const Piece before = piece;
    change_all_lights(piece, [&](Light& l) {
        if (goes(l)) tie_to(before, l, "");
    });
}

} // namespace bathylux
