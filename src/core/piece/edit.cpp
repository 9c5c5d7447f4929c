#include "core/piece/edit.h"

#include <algorithm>
#include <map>
#include <set>

#include "core/colour/ramp.h"
#include "core/error.h"
#include "core/make/gradient_source.h"
#include "core/piece/pose.h"
#include "core/piece/references.h"

namespace bathylux {

namespace {

void collect_ids(const Element& e, std::set<std::string>& out) {
    out.insert(e.id);
    for (const Element& c : e.elements) collect_ids(c, out);
}

using Renamed = std::map<std::string, std::string>;

/// New ids where the old ones are missing or taken; copies of a thing are named after it.
void freshen(const Piece& piece, Element& e, std::set<std::string>& taken, Renamed& renamed) {
    const std::string before = e.id;
    if (e.id.empty() || taken.contains(e.id)) {
        const std::string base = e.id.empty() ? std::string(e.source.kind().id)
                                              : e.id.substr(0, e.id.find_last_not_of("0123456789-") + 1);
        e.id = free_id(piece, base.empty() ? "element" : base);
        const std::string stem = e.id.substr(0, e.id.find_last_not_of("0123456789-") + 1);
        for (int n = 2; taken.contains(e.id); ++n)
            e.id = (stem.empty() ? "element" : stem) + "-" + std::to_string(n);
    }
    taken.insert(e.id);
    if (!before.empty()) renamed.emplace(before, e.id);
    Steps steps = std::move(e.steps);
    e.steps.clear();
    for (const Step& s : steps) add_step(e, s);
    for (auto& c : e.elements) c = c.with([&](Element& child) { freshen(piece, child, taken, renamed); });
}

std::set<std::string> taken_ids(const Piece& piece) {
    std::set<std::string> out;
    for_each_element(piece.elements, [&](const Element& e) { out.insert(e.id); });
    for_each_light(piece, [&](const Light& l) { out.insert(l.id); });
    return out;
}

template <class List> auto at(List& list, std::string_view id) {
    return std::find_if(list.begin(), list.end(), [&](const Element& e) { return e.id == id; });
}

/// Lengths in px among the parameters of a step, source or light, times a factor.
void scale_lengths(Described& what, double factor) {
    for (const Parameter& p : what.kind().parameters)
        if (p.unit == Unit::px) what = what.with(p, held(p, std::get<double>(what.get(p)) * factor));
    // A ramp's ends are lengths where it goes by height.
    if (const auto* ramp = what.as<Ramp>(); ramp && ramp->of == RampOf::height)
        what = what.with("low", ramp->low * factor).with("high", ramp->high * factor);
}
/// Heights that a source has by itself: its placement does not reach them.
void scale_heights(Described& source, double factor) {
    for (const Parameter& p : source.kind().parameters)
        if (p.said == Said::up_down)
            source = source.with(p, held(p, std::get<double>(source.get(p)) * factor));
}
bool tiles_canvas(const Element& e) { return e.kind().tiles && e.kind().tiles(e.source.data()); }
void scale_steps(Steps& steps, double factor) {
    for (auto& s : steps) s = s.with([&](Step& step) { scale_lengths(step.what, factor); });
}
void scale_steps(Element& e, double factor) {
    scale_steps(e.steps, factor);
    if (!e.surface) return;
    e.surface->thickness *= static_cast<float>(factor);
    e.surface->attenuation_distance *= static_cast<float>(factor);
}
void scale_solid(Solid& solid, double factor) {
    const auto scale = [&](void* of, std::span<const Parameter> parameters) {
        for (const Parameter& p : parameters)
            if (p.unit == Unit::px) p.set(of, held(p, std::get<double>(p.get(of)) * factor));
    };
    scale(&solid.body, Body::parameters);
    scale(&solid.ground, GroundPlane::parameters);
    scale(&solid.camera, Camera::parameters);
    for (KeptCamera& c : solid.cameras) scale(&c.camera, Camera::parameters);
}
/// The elements right on the canvas.
void change_top(Piece& piece, const std::function<void(Element&)>& work) {
    for (auto& e : piece.elements) e = e.with(work);
}
/// All that groups hold, at any depth.
void change_inside_groups(Piece& piece, const std::function<void(Element&)>& work) {
    for (auto& e : piece.elements) e = e.with([&](Element& top) { change_all(top.elements, work); });
}

} // namespace

Ids add_elements(Piece& piece, std::vector<Element> elements, std::string_view above) {
    auto taken = taken_ids(piece);
    Renamed renamed;
    for (Element& e : elements) freshen(piece, e, taken, renamed);
    Ids ids;
    std::string before(above);
    for (Element& e : elements) {
        rename_references(e, [&](const std::string& id) {
            const auto found = renamed.find(id);
            return found == renamed.end() ? id : found->second;
        });
        const std::string id = e.id;
        if (before.empty() || !find_siblings(piece, before))
            piece.elements.emplace_back(std::move(e));
        else
            change_list(piece, group_of(piece, before),
                        [&](Elements& list) { list.insert(at(list, before) + 1, std::move(e)); });
        if (!before.empty()) before = id;
        ids.push_back(id);
    }
    return ids;
}

std::string add_element(Piece& piece, Element element, std::string_view above) {
    std::vector<Element> one;
    one.push_back(std::move(element));
    return add_elements(piece, std::move(one), above).front();
}

std::string add_step(Element& element, Step step, int after) {
    if (step.id.empty() || find_step(element.steps, step.id))
        step.id = free_step_id(element.steps, step.what.kind().id);
    const std::string id = step.id;
    const auto place = after == at_end     ? element.steps.end()
                       : after == at_front ? element.steps.begin()
                                           : element.steps.begin() + after + 1;
    element.steps.insert(place, std::move(step));
    return id;
}

int place_for(const Element& element, const StepKind& kind) {
    // By hand, or with an outline of their own: shapes, not pictures of them.
    const bool reshapes =
        kind.group == "bend" && (kind.drifts || kind.whole_without_outline || kind.id == "melt");
    if (!reshapes) return at_end;
    for (std::size_t i = 0; i < element.steps.size(); ++i)
        if (element.steps[i]->kind().group == "give depth")
            return i == 0 ? at_front : static_cast<int>(i) - 1;
    return at_end;
}

Ids outermost(const Piece& piece, const Ids& ids) {
    Ids out;
    const std::set<std::string> named(ids.begin(), ids.end());
    const std::function<void(const Elements&)> walk = [&](const Elements& list) {
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
    const Ids originals = outermost(piece, ids);
    std::vector<Element> copies;
    for (const std::string& id : originals) {
        Element copy = *find_element(piece.elements, id);
        if (!copy.name.empty() && !copy.name.ends_with(" copy")) copy.name += " copy";
        copies.push_back(std::move(copy));
    }
    const Ids out = add_elements(piece, std::move(copies));
    // Each right in front of its original.
    for (std::size_t i = 0; i < out.size(); ++i) {
        const Element copy = *find_element(piece.elements, out[i]);
        piece.elements.erase(at(piece.elements, out[i]));
        change_list(piece, group_of(piece, originals[i]),
                    [&](Elements& list) { list.insert(at(list, originals[i]) + 1, copy); });
    }
    return out;
}

void remove(Piece& piece, const Ids& ids) {
    for (const std::string& id : outermost(piece, ids))
        change_list(piece, group_of(piece, id), [&](Elements& list) {
            if (const auto e = at(list, id); e != list.end()) list.erase(e);
        });
    // What was a map of others is one no longer.
    const Elements left = piece.elements;
    change_all(piece.elements, [&](Element& e) {
        forget_lost_maps(e, [&](const std::string& id) { return find_element(left, id) != nullptr; });
    });
}

bool move(Piece& piece, const Ids& ids, std::string_view group, int index) {
    const Ids moved = outermost(piece, ids);
    const Element* into = group.empty() ? nullptr : find_element(piece.elements, group);
    if (moved.empty() || (!group.empty() && (!into || !into->is_group()))) return false;
    for (const std::string& id : moved) {
        std::set<std::string> inside;
        collect_ids(*find_element(piece.elements, id), inside);
        if (inside.contains(std::string(group))) return false;
    }
    // The place is remembered by the neighbour that stays.
    const Elements& target = into ? into->elements : piece.elements;
    std::string before;
    for (std::size_t i = static_cast<std::size_t>(std::max(0, index)); i < target.size(); ++i)
        if (std::find(moved.begin(), moved.end(), target[i]->id) == moved.end()) {
            before = target[i]->id;
            break;
        }
    Piece trial = piece;
    Elements taken;
    for (const std::string& id : moved)
        change_list(trial, group_of(trial, id), [&](Elements& list) {
            const auto e = at(list, id);
            taken.push_back(*e);
            list.erase(e);
        });
    change_list(trial, group, [&](Elements& list) {
        const auto place = before.empty() ? list.end() : at(list, before);
        list.insert(place, taken.begin(), taken.end());
    });
    if (!cycle_in(trial).empty()) return false;
    piece = std::move(trial);
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
    const Elements list = *find_siblings(piece, id);
    Ids siblings;
    for (const std::string& i : gathered)
        if (at(list, i) != list.end()) siblings.push_back(i);
    if (!move(piece, siblings, id, 0)) {
        remove(piece, {id});
        throw Error("These cannot be put in one group: one of them would then be read by itself.");
    }
    return id;
}

namespace {

Ids ungroup_still(Piece& piece, std::string_view id) {
    const Element* found = find_element(piece.elements, id);
    if (!found || !found->is_group()) return {};
    const Element g = *found;
    const std::string called = in_quotes(g.name.empty() ? g.id : g.name);
    if (!g.placement.motions.empty())
        throw Error(called + " moves as a whole; take its keys and links away before taking it apart.");
    const double u = g.placement.scale_u, v = g.placement.scale_v, factor = std::sqrt(std::abs(u * v));
    const bool even = std::abs(std::abs(u) - std::abs(v)) < 1e-4;
    const Affine outer =
        g.placement.matrix() * Affine::translation(-piece.canvas.width / 2, -piece.canvas.height / 2);
    std::vector<Element> children;
    for (const Element& c : g.elements) children.push_back(c);
    Ids out;
    for (Element& c : children) {
        const auto& moving = c.placement.motions;
        if (std::abs(std::fmod(g.placement.turn, 360.0f)) > 1e-4 &&
            (moving.contains("x") || moving.contains("y")))
            throw Error(called + " is turned, and " + in_quotes(c.name.empty() ? c.id : c.name) +
                        " moves in it; set the group's turn to 0 before taking it apart.");
        const bool square = std::abs(std::fmod(c.placement.turn, 90.0f)) < 1e-4;
        if (!even && !square)
            throw Error(called +
                        " is stretched more one way than the other; set its two scales alike before taking "
                        "it apart.");
        const Affine all = outer * c.placement.matrix();
        c.placement.x = static_cast<float>(all.e);
        c.placement.y = static_cast<float>(all.f);
        // The length of the u axis is the scale across; its direction the turn; handedness goes to v. What is
        // mirrored across stays so: between keys it may go through nothing.
        const double side = c.placement.scale_u < 0 ? -1 : 1, su = side * std::hypot(all.a, all.b),
                     sv = side * std::hypot(all.c, all.d);
        // As many times round as it was, so that what turns goes on the same way.
        const double turn = std::atan2(-side * all.b, side * all.a) / radians_per_degree,
                     about = g.placement.turn + (u * v < 0 ? -1.0 : 1.0) * c.placement.turn;
        c.placement.turn = static_cast<float>(turn + 360 * std::round((about - turn) / 360 + 1e-3));
        c.placement.scale_u = static_cast<float>(su);
        c.placement.scale_v = static_cast<float>(all.determinant() < 0 ? -sv : sv);
        c.mix.visible = c.mix.visible && g.mix.visible;
        // A child that is a group scales its own children by its placement already.
        if (std::abs(factor - 1) > 1e-6) scale_steps(c, factor), scale_heights(c.source, factor);
        out.push_back(c.id);
    }
    change_list(piece, group_of(piece, id), [&](Elements& list) {
        const auto place = list.erase(at(list, id));
        list.insert(place, children.begin(), children.end());
    });
    return out;
}

} // namespace

Ids ungroup(Piece& piece, std::string_view id) {
    Ids out;
    change_throughout(piece, [&](Piece& p) { out = ungroup_still(p, id); });
    return out;
}

namespace {

void scale_still(Element& e, double factor) {
    // What fills the canvas has lengths of its own; the rest is placed larger.
    if (e.kind().fills && !e.kind().by_hand)
        scale_lengths(e.source, factor);
    else {
        e.placement.scale_u *= static_cast<float>(factor), e.placement.scale_v *= static_cast<float>(factor);
        scale_heights(e.source, factor);
    }
    scale_steps(e, factor);
}

} // namespace

void scale_element(Element& e, double factor) {
    if (factor == 1) return;
    Piece alone;
    alone.elements.emplace_back(e);
    change_throughout(alone, [&](Piece& p) {
        p.elements.front() = p.elements.front().with([&](Element& only) { scale_still(only, factor); });
    });
    e = *alone.elements.front();
}

namespace {

void shift_light(Light& l, Vec2 by) {
    for (const Parameter& p : l.what.kind().parameters)
        if (p.said == Said::across_canvas || p.said == Said::down_canvas)
            l.what = l.what.with(p, std::get<double>(l.what.get(p)) +
                                        (p.said == Said::across_canvas ? by.x : by.y));
}

/// All its lengths larger by a factor; where it stands about an element, it may keep that place.
void grow_light(Light& l, double factor, bool keeps_place) {
    const Described before = l.what;
    scale_lengths(l.what, factor);
    if (!keeps_place) return;
    for (const Parameter& p : before.kind().parameters)
        if (p.said == Said::across_canvas || p.said == Said::down_canvas)
            l.what = l.what.with(p, before.get(p));
}

/// Everything on the canvas moved by (dx, dy).
void shift_all(Piece& piece, double dx, double dy) {
    const auto fx = static_cast<float>(dx), fy = static_cast<float>(dy);
    change_top(piece, [&](Element& e) { e.placement.x += fx, e.placement.y += fy; });
    change_all_lights(piece, [&](Light& l) {
        if (!find_element(piece.elements, l.tied)) shift_light(l, {dx, dy}); // else it goes with that
    });
    for (float& g : piece.guides_x) g += fx;
    for (float& g : piece.guides_y) g += fy;
    if (piece.section)
        piece.section = SectionLine{piece.section->a + Vec2{dx, dy}, piece.section->b + Vec2{dx, dy}};
}

} // namespace

void lay_lights(Lights& lights, Ambient& ambient, double factor, Vec2 from, Vec2 to) {
    Piece alone;
    alone.lights = lights, alone.ambient = ambient;
    change_throughout(alone, [&](Piece& p) {
        change_all_lights(p, [&](Light& l) {
            grow_light(l, factor, !l.tied.empty());
            if (l.tied.empty()) shift_light(l, to - factor * from);
        });
        p.ambient.radius *= static_cast<float>(factor);
    });
    lights = alone.lights, ambient = alone.ambient;
}

namespace {

/// What has the canvas's own size keeps it where only part of the canvas stays; a wider one is filled.
void keep_canvas_size(Piece& piece, Region frame) {
    const Canvas& c = piece.canvas;
    if (frame.x0 < 0 || frame.y0 < 0 || frame.x1 > c.width || frame.y1 > c.height) return;
    change_all(piece.elements, [&](Element& e) {
        const auto* gradient = e.source.as<GradientSource>();
        if (!gradient) return;
        if (gradient->width == 0) e.source = e.source.with("width", double{c.width});
        if (gradient->height == 0) e.source = e.source.with("height", double{c.height});
    });
}

void crop_still(Piece& piece, Region frame) {
    keep_canvas_size(piece, frame);
    // A group's origin is the middle of the canvas: what it holds keeps its place if it moves with that
    // middle.
    const double mx = (frame.width() - piece.canvas.width) / 2.0,
                 my = (frame.height() - piece.canvas.height) / 2.0;
    piece.canvas.width = static_cast<float>(frame.width());
    piece.canvas.height = static_cast<float>(frame.height());
    shift_all(piece, -frame.x0, -frame.y0);
    change_inside_groups(piece, [&](Element& c) {
        c.placement.x += static_cast<float>(mx), c.placement.y += static_cast<float>(my);
    });
}

/// Whether an element has the canvas's own size, across or down, whatever that is; a twin as what it shows.
bool canvas_sized(const Piece& piece, const Element& element) {
    const Element* shown = shown_by(piece, element);
    const auto* gradient = shown ? shown->source.as<GradientSource>() : nullptr;
    return gradient && (gradient->width == 0 || gradient->height == 0);
}

void resize_still(Piece& piece, double factor) {
    const double w = std::round(piece.canvas.width * factor), h = std::round(piece.canvas.height * factor);
    const auto f = static_cast<float>(factor);
    const float old_w = piece.canvas.width, old_h = piece.canvas.height;
    // What has the canvas's own size has the new one's already: its other side is made longer.
    std::set<std::string> grown;
    for_each_element(piece.elements, [&](const Element& e) {
        if (canvas_sized(piece, e)) grown.insert(e.id);
    });
    change_top(piece, [&](Element& e) {
        e.placement.x *= f, e.placement.y *= f;
        scale_steps(e, factor);
        if (tiles_canvas(e)) return;
        if (!grown.contains(e.id)) e.placement.scale_u *= f, e.placement.scale_v *= f;
        scale_heights(e.source, factor);
    });
    change_inside_groups(piece, [&](Element& c) {
        if (grown.contains(c.id)) c.placement.scale_u /= f, c.placement.scale_v /= f;
    });
    change_all(piece.elements, [&](Element& e) {
        if (tiles_canvas(e) || (grown.contains(e.id) && e.source.as<GradientSource>()))
            scale_lengths(e.source, factor);
    });
    scale_steps(piece.finish, factor);
    piece.surface.thickness *= f, piece.surface.attenuation_distance *= f;
    piece.ambient.radius *= f;
    for (Mood& m : piece.moods) m.ambient.radius *= f;
    change_all_lights(piece, [&](Light& l) {
        // Places about an element grow with its scale.
        const Element* about = find_element(piece.elements, l.tied);
        const bool grows =
            about && !grown.contains(l.tied) && !(tiles_canvas(*about) && group_of(piece, l.tied).empty());
        grow_light(l, factor, grows);
    });
    if (piece.solid) scale_solid(*piece.solid, factor);
    for (float& g : piece.guides_x) g *= f;
    for (float& g : piece.guides_y) g *= f;
    if (piece.section) piece.section = SectionLine{factor * piece.section->a, factor * piece.section->b};
    piece.canvas.width = static_cast<float>(std::max(1.0, w));
    piece.canvas.height = static_cast<float>(std::max(1.0, h));
    piece.canvas.px_per_mm *= f;
    if (auto& range = piece.canvas.height_range) range = {range->first * f, range->second * f};
    // Children of groups are told from the middle of the canvas, which moved.
    const float dx = (piece.canvas.width - old_w) / 2, dy = (piece.canvas.height - old_h) / 2;
    change_inside_groups(piece, [&](Element& c) { c.placement.x += dx, c.placement.y += dy; });
}

} // namespace

void crop(Piece& piece, Region frame) {
    if (!frame.empty()) change_throughout(piece, [&](Piece& p) { crop_still(p, frame); });
}

void resize(Piece& piece, double factor) {
    change_throughout(piece, [&](Piece& p) { resize_still(p, factor); });
}

} // namespace bathylux
