#include "random_piece.h"

#include "core/piece/edit.h"
#include "core/piece/references.h"

namespace bathylux {

Value RandomPiece::value(const Parameter& p, const Value& now, bool perspective) {
    using Type = Parameter::Type;
    switch (p.type) {
    case Type::number:
    case Type::whole: {
        double low = p.range.low, high = p.range.high;
        if (perspective) low = -1.5, high = 1.5; // corners that fold are refused
        if (p.said == Said::across_canvas) high = canvas_.width;
        if (p.said == Said::down_canvas) high = canvas_.height;
        if (p.unit == Unit::px) low = std::max(low, -200.0), high = std::min(high, 200.0);
        const double v = low + share() * (high - low);
        return p.type == Type::whole ? std::round(v) : v;
    }
    case Type::toggle: return once_in(2);
    case Type::choice: return std::string(any(p.choices));
    case Type::color: {
        const auto byte = [&] { return static_cast<float>(whole(0, 255)) / 255; };
        return Color{byte(), byte(), byte(), once_in(3) ? byte() : 1};
    }
    case Type::map: return map(true);
    case Type::element: return ids_.empty() ? std::string() : any(ids_);
    case Type::curve:
    case Type::stops: return other_values(p).front();
    default: return now;
    }
}

Described RandomPiece::described(const Kind& kind, int one_in) {
    Described out(kind);
    for (const Parameter& p : kind.parameters)
        if (once_in(one_in)) out = out.with(p, value(p, out.get(p), kind.id == "perspective"));
    return out;
}

template <class T> void RandomPiece::set_some(T& thing, int one_in) {
    for (const Parameter& p : T::parameters)
        if (once_in(one_in)) p.set(&thing, value(p, p.get(&thing), false));
}

std::optional<MapRef> RandomPiece::map(bool pairs) {
    MapRef out;
    if (!ids_.empty() && !once_in(4)) out.element = any(ids_);
    out.of = static_cast<MapOf>(whole(0, static_cast<int>(pairs ? MapOf::slopes : MapOf::worn)));
    out.low = static_cast<float>(0.4 * share()), out.high = static_cast<float>(0.6 + 0.4 * share());
    out.sink = once_in(3), out.on = !once_in(8);
    return out;
}

void RandomPiece::move_something(Described& what, Motions& motions) {
    const auto& all = what.kind().parameters;
    if (all.empty() || what.is("perspective")) return;
    const Parameter& p = any(all);
    if (p.type != Parameter::Type::number) return;
    const double from = std::get<double>(value(p, {}, false)), to = std::get<double>(value(p, {}, false));
    Keys keys{{{0, from}, {static_cast<double>(whole(4, 20)), to}}};
    keys.after = any(std::array{After::hold, After::repeat, After::bounce});
    motions[std::string(p.id)] = keys;
    what = what.with(p, from); // as it is at the first frame
}

Steps RandomPiece::steps(std::span<const StepKind> kinds, int most) {
    Element out; // numbers its steps
    for (int n = whole(0, most); n > 0; --n) {
        Step s{.what = described(any(kinds), 3)};
        if (once_in(4)) s.map = map(false);
        if (once_in(4)) s.share = static_cast<float>(share());
        if (once_in(6)) move_something(s.what, s.motions);
        s.on = !once_in(10);
        add_step(out, s);
    }
    return out.steps;
}

Element RandomPiece::element(int depth) {
    Element e;
    do e.source = described(any(source_kinds()), 4);
    while (e.is_group() && depth == 0);
    e.id = "e" + std::to_string(++made_), e.name = e.id;
    e.placement.x = static_cast<float>(share()) * canvas_.width;
    e.placement.y = static_cast<float>(share()) * canvas_.height;
    if (e.is_group()) e.placement.x = canvas_.width / 2, e.placement.y = canvas_.height / 2;
    if (once_in(2)) e.placement.turn = static_cast<float>(whole(-180, 180));
    if (once_in(2)) e.placement.scale_u = e.placement.scale_v = static_cast<float>(0.3 + 1.2 * share());
    if (once_in(5)) e.placement.scale_u = -e.placement.scale_u;
    if (once_in(5)) e.placement.edge = Edge(whole(0, 3));
    set_some(e.mix, 4);
    e.mix.visible = !once_in(8);
    if (once_in(5)) e.mix.mask = map(false);
    if (once_in(3)) set_some(e.surface.emplace(), 2);
    if (once_in(6)) move_something(e.source, e.source_motions);
    e.steps = steps(step_kinds(), 3);
    if (e.is_group())
        for (int n = whole(1, 3); n > 0; --n) e.elements.push_back(element(depth - 1));
    ids_.push_back(e.id);
    return e;
}

Light RandomPiece::light() {
    Light l;
    l.id = l.name = "l" + std::to_string(++made_);
    l.what = described(any(light_kinds()), 3);
    if (l.what.is("sky") && l.what.get("scene") == Value(std::string("file")))
        l.what = l.what.with("scene", std::string("gradient"));
    if (once_in(4) && !ids_.empty()) l.tied = any(ids_);
    if (once_in(6)) move_something(l.what, l.motions);
    return l;
}

Piece RandomPiece::piece() {
    Piece out;
    canvas_ = {};
    canvas_.width = static_cast<float>(whole(60, 150)), canvas_.height = static_cast<float>(whole(50, 110));
    if (once_in(3)) canvas_.background = std::get<Color>(value(Canvas::parameters[3], {}, false));
    if (once_in(4)) canvas_.edge = Edge::repeat;
    out.canvas = canvas_;
    for (int n = whole(1, 5); n > 0; --n) {
        out.elements.push_back(element(2));
        if (!cycle_in(out).empty()) out.elements.pop_back();
    }
    set_some(out.surface, 5);
    for (int n = whole(0, 3); n > 0; --n) out.lights.push_back(light());
    set_some(out.ambient, 3);
    if (once_in(3)) out.exposure = static_cast<float>(2 * share() - 1);
    out.roll_off = once_in(2) ? RollOff::none : out.roll_off;
    if (once_in(3)) out.relight = static_cast<float>(share());
    out.finish = steps(finish_kinds(), 2);
    return cycle_in(out).empty() ? out : piece();
}

Solid RandomPiece::solid() {
    Solid out;
    set_some(out.body, 4);
    if (out.body.kind == BodyKind::mesh) out.body.kind = BodyKind::cylinder;
    set_some(out.surface, 5);
    out.camera.turn = static_cast<float>(whole(-180, 180)),
    out.camera.tilt = static_cast<float>(whole(-80, 80));
    out.camera.distance = static_cast<float>(whole(500, 2400));
    if (once_in(4)) out.camera.field = 0;
    if (once_in(4)) out.camera.lens = static_cast<float>(whole(0, 200));
    set_some(out.ground, 3);
    return out;
}

Piece RandomPiece::changed(const Piece& piece) {
    Piece out = piece;
    canvas_ = piece.canvas;
    std::vector<std::string> ids;
    for_each_element(piece.elements, [&](const Element& e) { ids.push_back(e.id); });
    ids_ = ids;
    const auto other = [&](const Described& d) {
        if (d.kind().parameters.empty()) return d;
        const Parameter& p = any(d.kind().parameters);
        return d.with(p, value(p, d.get(p), d.is("perspective")));
    };
    const auto at = [&](auto& list,
                        const std::function<void(typename std::decay_t<decltype(list)>::value_type&)>& work) {
        if (!list.empty()) work(list[static_cast<std::size_t>(whole(0, static_cast<int>(list.size()) - 1))]);
    };
    const int what = ids.empty() ? 9 : whole(0, 9);
    if (what < 8)
        change(out, any(ids), [&](Element& e) {
            switch (what) {
            case 0: e.source = other(e.source); break;
            case 1: e.placement.x += static_cast<float>(whole(-9, 9)); break;
            case 2: set_some(e.mix, 3); break;
            case 3: set_some(e.surface ? *e.surface : e.surface.emplace(), 4); break;
            case 4: e.mix.mask = map(false); break;
            case 5: add_step(e, Step{.what = described(any(step_kinds()), 3)}, at_front); break;
            case 6:
                at(e.steps, [&](Node<Step>& s) { s = s.with([&](Step& c) { c.what = other(c.what); }); });
                break;
            default: at(e.steps, [&](Node<Step>& s) { s = s.with([&](Step& c) { c.on = !c.on; }); });
            }
        });
    else if (what == 8)
        at(out.lights, [&](Node<Light>& l) { l = l.with([&](Light& c) { c.what = other(c.what); }); });
    else
        set_some(out.ambient, 2);
    for (const auto& l : out.lights)
        if (l->what.is("sky") && l->what.get("scene") == Value(std::string("file"))) return piece;
    return cycle_in(out).empty() ? out : piece;
}

Scene scene_with_assets(Piece piece) {
    auto assets = std::make_shared<Assets>();
    for_each_element(piece.elements, [&](const Element& e) { (*assets)[e.id] = asset_for(e.kind()); });
    return {std::make_shared<const Piece>(std::move(piece)), assets};
}

Piece smallest(Piece piece, const std::function<bool(const Piece&)>& fails) {
    // Leaves out one thing after the other, for as long as that is possible.
    const auto without = [&](const std::function<bool(Piece&)>& leave_out) {
        Piece less = piece;
        if (!leave_out(less) || !fails(less)) return false;
        piece = std::move(less);
        return true;
    };
    for (bool any = true; any;) {
        any = false;
        std::vector<std::pair<std::string, std::string>> parts; // elements, and their steps
        for_each_element(piece.elements, [&](const Element& e) {
            parts.emplace_back(e.id, "");
            for (const auto& s : e.steps) parts.emplace_back(e.id, s->id);
        });
        for (const auto& [id, step] : parts)
            any |= without([&, &id = id, &step = step](Piece& p) {
                if (step.empty()) return remove(p, {id}), true;
                return change_steps(p, id, [&](Steps& s) {
                    std::erase_if(s, [&](const Node<Step>& one) { return one->id == step; });
                });
            });
        for (std::size_t i = piece.lights.size(); i-- > 0;)
            any |= without([&](Piece& p) {
                return p.lights.erase(p.lights.begin() + static_cast<std::ptrdiff_t>(i)), true;
            });
        for (std::size_t i = piece.finish.size(); i-- > 0;)
            any |= without([&](Piece& p) {
                return p.finish.erase(p.finish.begin() + static_cast<std::ptrdiff_t>(i)), true;
            });
        for (const auto& [id, step] : parts) {
            if (!step.empty()) continue;
            const auto plainer = [&](const std::function<bool(Element&)>& work) {
                any |= without([&](Piece& p) {
                    bool less = false;
                    change(p, id, [&](Element& e) { less = work(e); });
                    return less;
                });
            };
            plainer([](Element& e) { return std::exchange(e.surface, std::nullopt).has_value(); });
            plainer([](Element& e) { return std::exchange(e.mix.mask, std::nullopt).has_value(); });
            plainer([](Element& e) {
                const bool mixed = e.mix.blend != BlendMode::normal || e.mix.opacity != 1 || e.mix.clip ||
                                   e.mix.height != HeightMode::add;
                e.mix.blend = BlendMode::normal, e.mix.height = HeightMode::add;
                e.mix.opacity = 1, e.mix.clip = false;
                return mixed;
            });
            plainer([](Element& e) { return std::exchange(e.placement.turn, 0.0f) != 0; });
            plainer([](Element& e) {
                const bool scaled = e.placement.scale_u != 1;
                e.placement.scale_u = e.placement.scale_v = 1;
                return scaled;
            });
            plainer([](Element& e) { return std::exchange(e.placement.edge, Edge::none) != Edge::none; });
        }
    }
    return piece;
}

} // namespace bathylux
