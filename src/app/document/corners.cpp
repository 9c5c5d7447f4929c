#include "app/document/corners.h"

namespace bathylux {

std::optional<Corners> cornersOf(const Desk& desk) {
    const Document& doc = desk.document;
    const Element* e = doc.openElement();
    const Step* s = e ? find_step(e->steps, doc.openStepId().toStdString()) : nullptr;
    const auto* perspective = s ? s->what.as<Perspective>() : nullptr;
    const auto parent = perspective ? parent_placed(doc.piece(), e->id) : std::nullopt;
    if (!parent) return std::nullopt;
    const Scene scene = desk.scene();
    Corners out{e->id, s->id, *perspective, {}, {}};
    const Placed placed = placed_within(*parent, *e);
    Context& c = out.context;
    c.length = placed.length;
    const Canvas& canvas = doc.piece().canvas;
    c.box = e->kind().fills ? Box{} : own_box(scene, *e);
    c.box_to_device = placed.to_device;
    if (c.box.empty()) {
        c.box = box_about(canvas.width, canvas.height);
        c.box_to_device = Affine::translation(canvas.width / 2, canvas.height / 2);
    }
    for (const Step& before : e->steps) {
        if (before.id == s->id) break;
        if (before.on && before.kind().boxed) c.box = before.kind().boxed(before.what.data(), c);
    }
    out.at = perspective->corners(c, true);
    return out;
}

std::optional<Perspective> Corners::moved(int corner, Vec2 to) const {
    const auto home = now.corners(context, false);
    const double k = 1 / std::max(1e-9, context.length);
    const Vec2 by = k * (to - home[static_cast<std::size_t>(corner)]);
    Perspective out = now;
    const std::array<std::pair<float Perspective::*, float Perspective::*>, 4> members{
        std::pair{&Perspective::tl_x, &Perspective::tl_y},
        {&Perspective::tr_x, &Perspective::tr_y},
        {&Perspective::br_x, &Perspective::br_y},
        {&Perspective::bl_x, &Perspective::bl_y}};
    const auto [x, y] = members[static_cast<std::size_t>(corner)];
    const auto held = [](double v) {
        return static_cast<float>(std::clamp(std::round(v * 10) / 10, -20000.0, 20000.0));
    };
    out.*x = held(by.x), out.*y = held(by.y);
    return out.stands(context) ? std::optional(out) : std::nullopt;
}

} // namespace bathylux
