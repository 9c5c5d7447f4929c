#include "core/piece/edit.h"

#include <algorithm>
#include <set>

#include "core/error.h"
#include "core/piece/lights.h"
#include "core/piece/sources.h"

namespace bathylux {

namespace {

void collect_ids(const Element& e, std::set<std::string>& out) {
    out.insert(e.id);
    for (const Element& c : e.elements) collect_ids(c, out);
}

/// New ids where the old ones are taken; copies of a thing are named after it.
void freshen(Piece& piece, Element& e, std::set<std::string>& taken) {
    if (e.id.empty() || taken.contains(e.id)) {
        const std::string base = e.id.empty() ? std::string(e.source.kind().id)
                                              : e.id.substr(0, e.id.find_last_not_of("0123456789-") + 1);
        e.id = free_id(piece, base.empty() ? "element" : base);
        for (int n = 2; taken.contains(e.id); ++n) e.id = base + "-" + std::to_string(n);
    }
    taken.insert(e.id);
    for (Element& c : e.elements) freshen(piece, c, taken);
}

std::set<std::string> taken_ids(const Piece& piece) {
    std::set<std::string> out;
    for (const Element& e : piece.elements) collect_ids(e, out);
    for (const Light& l : piece.lights) out.insert(l.id);
    for (const Take& t : piece.takes)
        for (const Light& l : t.lights) out.insert(l.id);
    return out;
}

std::vector<Element>::iterator at(std::vector<Element>& list, std::string_view id) {
    return std::find_if(list.begin(), list.end(), [&](const Element& e) { return e.id == id; });
}

/// Calls `work` for every light of the piece and of its takes.
template <class F> void each_light(Piece& piece, const F& work) {
    for (Light& l : piece.lights) work(l);
    for (Take& t : piece.takes)
        for (Light& l : t.lights) work(l);
}

/// Lengths in px among the parameters of a step, source or light, times a factor.
void scale_lengths(Described& what, double factor) {
    for (const Parameter& p : what.kind().parameters)
        if (p.unit == Unit::px) what = what.with(p, held(p, std::get<double>(what.get(p)) * factor));
}

} // namespace

std::string add_element(Piece& piece, Element element, std::string_view above) {
    auto taken = taken_ids(piece);
    freshen(piece, element, taken);
    const std::string id = element.id;
    if (auto* list = above.empty() ? nullptr : find_siblings(piece.elements, above))
        list->insert(at(*list, above) + 1, std::move(element));
    else
        piece.elements.push_back(std::move(element));
    return id;
}

Ids outermost(const Piece& piece, const Ids& ids) {
    Ids out;
    const std::set<std::string> named(ids.begin(), ids.end());
    const std::function<void(const std::vector<Element>&)> walk = [&](const std::vector<Element>& list) {
        for (const Element& e : list) {
            if (named.contains(e.id))
                out.push_back(e.id);
            else
                walk(e.elements);
        }
    };
    walk(piece.elements);
    return out;
}

Ids duplicate(Piece& piece, const Ids& ids) {
    Ids out;
    for (const std::string& id : outermost(piece, ids)) {
        Element copy = *find_element(piece.elements, id);
        if (!copy.name.empty() && !copy.name.ends_with(" copy")) copy.name += " copy";
        out.push_back(add_element(piece, std::move(copy), id));
    }
    return out;
}

void remove(Piece& piece, const Ids& ids) {
    for (const std::string& id : outermost(piece, ids))
        if (auto* list = find_siblings(piece.elements, id)) list->erase(at(*list, id));
    // What was a map of others is one no longer.
    const std::function<void(std::vector<Element>&)> forget = [&](std::vector<Element>& list) {
        for (Element& e : list) {
            const auto gone = [&](const std::optional<MapRef>& m) {
                return m && !find_element(std::as_const(piece.elements), m->element);
            };
            if (gone(e.mix.mask)) e.mix.mask.reset();
            for (Step& s : e.steps)
                if (gone(s.map)) s.map.reset();
            if (e.surface) std::erase_if(e.surface->maps, [&](const SurfaceMap& m) { return gone(m.map); });
            forget(e.elements);
        }
    };
    forget(piece.elements);
}

bool move(Piece& piece, const Ids& ids, std::string_view group, int index) {
    const Ids moved = outermost(piece, ids);
    std::vector<Element>* target = &piece.elements;
    if (!group.empty()) {
        Element* g = find_element(piece.elements, group);
        if (!g || !g->is_group()) return false;
        for (const std::string& id : moved) {
            std::set<std::string> inside;
            collect_ids(*find_element(piece.elements, id), inside);
            if (inside.contains(std::string(group))) return false;
        }
        target = &g->elements;
    }
    if (moved.empty()) return false;
    // The place is remembered by the neighbour that stays.
    std::string before;
    for (std::size_t i = static_cast<std::size_t>(std::max(0, index)); i < target->size(); ++i)
        if (std::find(moved.begin(), moved.end(), (*target)[i].id) == moved.end()) {
            before = (*target)[i].id;
            break;
        }
    std::vector<Element> taken;
    for (const std::string& id : moved) {
        auto* list = find_siblings(piece.elements, id);
        const auto e = at(*list, id);
        taken.push_back(std::move(*e));
        list->erase(e);
    }
    target = group.empty() ? &piece.elements : &find_element(piece.elements, group)->elements;
    const auto place = before.empty() ? target->end() : at(*target, before);
    target->insert(place, std::make_move_iterator(taken.begin()), std::make_move_iterator(taken.end()));
    return true;
}

std::string group(Piece& piece, const Ids& ids) {
    const Ids gathered = outermost(piece, ids);
    if (gathered.empty()) return {};
    Element g;
    g.id = free_id(piece, "group");
    g.name = "Group";
    g.source = Described(source_kind("group"));
    g.placement.x = piece.canvas.width / 2;
    g.placement.y = piece.canvas.height / 2;
    const std::string id = add_element(piece, std::move(g), gathered.back());
    // Only siblings can be gathered without changing how they look.
    const auto* list = find_siblings(piece.elements, id);
    Ids siblings;
    for (const std::string& i : gathered)
        if (std::any_of(list->begin(), list->end(), [&](const Element& e) { return e.id == i; }))
            siblings.push_back(i);
    move(piece, siblings, id, 0);
    return id;
}

Ids ungroup(Piece& piece, std::string_view id) {
    const Element* found = find_element(piece.elements, id);
    if (!found || !found->is_group()) return {};
    const Element g = *found;
    const double u = g.placement.scale_u, v = g.placement.scale_v, factor = std::sqrt(std::abs(u * v));
    const bool even = std::abs(std::abs(u) - std::abs(v)) < 1e-4;
    const Affine outer =
        g.placement.matrix() * Affine::translation(-piece.canvas.width / 2, -piece.canvas.height / 2);
    std::vector<Element> children = g.elements;
    Ids out;
    for (Element& c : children) {
        const bool square = std::abs(std::fmod(c.placement.turn, 90.0f)) < 1e-4;
        if (!even && !square)
            throw Error(in_quotes(g.name.empty() ? g.id : g.name) +
                        " is stretched more one way than the other; set its two scales alike before taking "
                        "it apart.");
        const Affine all = outer * c.placement.matrix();
        c.placement.x = static_cast<float>(all.e);
        c.placement.y = static_cast<float>(all.f);
        // The length of the u axis is the scale across; its direction the turn; handedness goes to v.
        const double su = std::hypot(all.a, all.b), sv = std::hypot(all.c, all.d);
        c.placement.turn = static_cast<float>(std::atan2(-all.b, all.a) / radians_per_degree);
        c.placement.scale_u = static_cast<float>(su);
        c.placement.scale_v = static_cast<float>(all.determinant() < 0 ? -sv : sv);
        // A child that is a group scales its own children by its placement already.
        if (std::abs(factor - 1) > 1e-6)
            for (Step& s : c.steps) scale_lengths(s.what, factor);
        out.push_back(c.id);
    }
    auto* list = find_siblings(piece.elements, id);
    const auto place = list->erase(at(*list, id));
    list->insert(place, children.begin(), children.end());
    return out;
}

void shift_all(Piece& piece, double dx, double dy) {
    const auto fx = static_cast<float>(dx), fy = static_cast<float>(dy);
    for (Element& e : piece.elements) e.placement.x += fx, e.placement.y += fy;
    each_light(piece, [&](Light& l) {
        if (!l.tied.empty()) return; // it goes with its element
        if (const auto lamp = lamp_of(l.what)) {
            l.what = l.what.with("x", double(lamp->x) + dx).with("y", double(lamp->y) + dy);
            if (const auto* s = l.what.as<SpotLight>())
                l.what = l.what.with("target_x", double(s->target_x) + dx)
                             .with("target_y", double(s->target_y) + dy);
        }
    });
    for (float& g : piece.guides_x) g += fx;
    for (float& g : piece.guides_y) g += fy;
    if (piece.section)
        piece.section = SectionLine{piece.section->a + Vec2{dx, dy}, piece.section->b + Vec2{dx, dy}};
}

void crop(Piece& piece, Region frame) {
    if (frame.empty()) return;
    // A group's origin is the middle of the canvas: what it holds keeps its place if it moves with that
    // middle.
    const double mx = (frame.width() - piece.canvas.width) / 2.0,
                 my = (frame.height() - piece.canvas.height) / 2.0;
    piece.canvas.width = static_cast<float>(frame.width());
    piece.canvas.height = static_cast<float>(frame.height());
    shift_all(piece, -frame.x0, -frame.y0);
    const std::function<void(Element&)> inside = [&](Element& e) {
        for (Element& c : e.elements) {
            c.placement.x += static_cast<float>(mx), c.placement.y += static_cast<float>(my);
            inside(c);
        }
    };
    for (Element& e : piece.elements) inside(e);
}

void resize(Piece& piece, double factor) {
    const double w = std::round(piece.canvas.width * factor), h = std::round(piece.canvas.height * factor);
    const auto f = static_cast<float>(factor);
    const float old_w = piece.canvas.width, old_h = piece.canvas.height;
    for (Element& e : piece.elements) {
        e.placement.x *= f, e.placement.y *= f;
        e.placement.scale_u *= f, e.placement.scale_v *= f;
        for (Step& s : e.steps) scale_lengths(s.what, factor);
    }
    each_light(piece, [&](Light& l) {
        const Described before = l.what;
        scale_lengths(l.what, factor);
        // Places about an element grow with its scale.
        if (!l.tied.empty())
            for (const char* place : {"x", "y", "target_x", "target_y"})
                if (const Parameter* p = before.kind().find(place)) l.what = l.what.with(*p, before.get(*p));
    });
    for (float& g : piece.guides_x) g *= f;
    for (float& g : piece.guides_y) g *= f;
    if (piece.section) piece.section = SectionLine{factor * piece.section->a, factor * piece.section->b};
    piece.canvas.width = static_cast<float>(std::max(1.0, w));
    piece.canvas.height = static_cast<float>(std::max(1.0, h));
    piece.canvas.px_per_mm *= f;
    // Children of groups are told from the middle of the canvas, which moved.
    const float dx = (piece.canvas.width - old_w) / 2, dy = (piece.canvas.height - old_h) / 2;
    const std::function<void(Element&)> inside = [&](Element& e) {
        for (Element& c : e.elements) {
            c.placement.x += dx, c.placement.y += dy;
            inside(c);
        }
    };
    for (Element& e : piece.elements) inside(e);
}

} // namespace bathylux
