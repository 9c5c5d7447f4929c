#include "core/piece/references.h"

#include <algorithm>
#include <map>
#include <set>

#include "core/error.h"
#include "core/piece/group.h"
#include "core/piece/twin.h"

namespace bathylux {

namespace {

/// Calls `work` for every map of an element: its mask, its steps' and its surface's.
void each_map(const Element& e, const std::function<void(const std::optional<MapRef>&)>& work) {
    work(e.mix.mask);
    for (const Step& s : e.steps) work(s.map);
    if (e.surface)
        for (const SurfaceMap& m : e.surface->maps) work(m.map);
}
void change_maps(Element& e, const std::function<void(std::optional<MapRef>&)>& work) {
    work(e.mix.mask);
    for (auto& s : e.steps)
        if (s->map) s = s.with([&](Step& step) { work(step.map); });
    if (e.surface)
        for (SurfaceMap& m : e.surface->maps) work(m.map);
}

/// Calls `work` for every described part of an element.
void each_part(const Element& e, const std::function<void(const Described&)>& work) {
    work(e.source);
    for (const Step& s : e.steps) work(s.what);
}
void change_parts(Element& e, const std::function<void(Described&)>& work) {
    work(e.source);
    for (auto& s : e.steps) s = s.with([&](Step& step) { work(step.what); });
}

/// Calls `work` for everything of an element that moves.
void change_motions(Element& e, const std::function<void(Motions&)>& work) {
    for (Motions* m : {&e.source_motions, &e.placement.motions, &e.mix.motions}) work(*m);
    if (e.surface) work(e.surface->motions);
    for (auto& s : e.steps)
        if (!s->motions.empty()) s = s.with([&](Step& step) { work(step.motions); });
    change_maps(e, [&](std::optional<MapRef>& m) {
        if (m) work(m->motions);
    });
}

/// The ids of elements that a described part reads by its parameters, replaced.
void rename_read(Described& d, const std::function<std::string(const std::string&)>& rename) {
    for (const Parameter& p : d.kind().parameters) {
        if (p.type == Parameter::Type::element) {
            if (const auto id = std::get<std::string>(d.get(p)); !id.empty()) d = d.with(p, rename(id));
        } else if (p.type == Parameter::Type::map) {
            auto map = map_in(d, p);
            if (!map || map->element.empty()) continue;
            map->element = rename(map->element);
            rename_links(map->motions, rename);
            d = d.with(p, map);
        }
    }
}

bool is_by_hand(const Described& d) { return d.kind().by_hand; }

/// The files a described part names, replaced.
void rename_in(Described& d, const std::function<std::string(const std::string&)>& rename) {
    for (const Parameter& p : d.kind().parameters) {
        if (p.type == Parameter::Type::file) {
            const auto name = std::get<std::string>(d.get(p));
            if (name.empty()) continue;
            if (const std::string now = rename(name); now != name) d = d.with(p, now);
        } else if (p.type == Parameter::Type::files) {
            const auto before = std::get<std::vector<std::string>>(d.get(p));
            auto names = before;
            for (std::string& n : names) n = rename(n);
            if (names != before) d = d.with(p, names);
        }
    }
}

std::string called(const Element& e) { return in_quotes(e.name.empty() ? e.id : e.name); }

} // namespace

std::vector<std::string> read_by(const Element& e) {
    std::vector<std::string> out;
    each_map(e, [&](const std::optional<MapRef>& m) {
        if (reads(m) && !m->element.empty()) out.push_back(m->element);
    });
    each_part(e, [&](const Described& d) {
        Described copy = d;
        rename_read(copy, [&](const std::string& id) { return out.push_back(id), id; });
    });
    return out;
}

void rename_references(Element& e, const std::function<std::string(const std::string&)>& rename) {
    change_maps(e, [&](std::optional<MapRef>& m) {
        if (m && !m->element.empty()) m->element = rename(m->element);
    });
    change_parts(e, [&](Described& d) { rename_read(d, rename); });
    change_motions(e, [&](Motions& motions) { rename_links(motions, rename); });
    for (auto& c : e.elements) c = c.with([&](Element& child) { rename_references(child, rename); });
}

namespace {

bool is_lost(const std::optional<MapRef>& m, const std::function<bool(const std::string&)>& there) {
    return m && !m->element.empty() && !there(m->element);
}

} // namespace

void forget_lost_maps(Element& e, const std::function<bool(const std::string&)>& there) {
    const auto lost = [&](const std::optional<MapRef>& m) { return is_lost(m, there); };
    if (lost(e.mix.mask)) e.mix.mask.reset();
    for (auto& s : e.steps)
        if (lost(s->map)) s = s.with([](Step& step) { step.map.reset(); });
    if (e.surface) std::erase_if(e.surface->maps, [&](const SurfaceMap& m) { return lost(m.map); });
}

void forget_lost(Element& e, const std::function<bool(const std::string&)>& there) {
    forget_lost_maps(e, there);
    change_parts(e, [&](Described& d) {
        for (const Parameter& p : d.kind().parameters)
            if (p.type == Parameter::Type::map && is_lost(map_in(d, p), there))
                d = d.with(p, std::optional<MapRef>());
            else if (p.type == Parameter::Type::element)
                if (const auto id = std::get<std::string>(d.get(p)); !id.empty() && !there(id))
                    d = d.with(p, std::string());
    });
    for (auto& c : e.elements) c = c.with([&](Element& child) { forget_lost(child, there); });
}

void rename_links(Motions& motions, const std::function<std::string(const std::string&)>& rename) {
    for (auto& [name, motion] : motions)
        if (auto* link = std::get_if<Link>(&motion)) {
            const auto dot = link->to.find('.');
            if (dot != std::string::npos) link->to = rename(link->to.substr(0, dot)) + link->to.substr(dot);
        }
}

void rename_files(Element& element, const std::function<std::string(const std::string&)>& rename) {
    change_parts(element, [&](Described& d) {
        if (!is_by_hand(d)) rename_in(d, rename);
    });
}

std::vector<std::string> files_of(const Element& element) {
    std::vector<std::string> out;
    each_part(element, [&](const Described& d) {
        Described copy = d;
        if (!is_by_hand(d))
            rename_in(copy, [&](const std::string& name) { return out.push_back(name), name; });
    });
    return out;
}

std::vector<std::string> loose_files(const Piece& piece) {
    std::vector<std::string> out;
    for_each_light(piece, [&](const Light& l) {
        Described copy = l.what;
        rename_in(copy, [&](const std::string& name) { return out.push_back(name), name; });
    });
    if (piece.solid && !piece.solid->body.file.empty()) out.push_back(piece.solid->body.file);
    return out;
}

void rename_loose_files(Piece& piece, const std::function<std::string(const std::string&)>& rename) {
    change_all_lights(piece, [&](Light& l) { rename_in(l.what, rename); });
    if (piece.solid && !piece.solid->body.file.empty())
        piece.solid->body.file = rename(piece.solid->body.file);
}

void rename_all_files(Piece& piece, const std::function<std::string(const std::string&)>& rename) {
    change_all(piece.elements, [&](Element& e) { rename_files(e, rename); });
    rename_loose_files(piece, rename);
}

std::vector<StrokesFile> strokes_of(const Element& e) {
    std::vector<StrokesFile> out;
    each_part(e, [&](const Described& d) {
        if (!is_by_hand(d)) return;
        for (const char* which : {"file", "ink"})
            if (const Parameter* p = d.kind().find(which))
                if (auto file = std::get<std::string>(d.get(*p)); !file.empty()) {
                    const Parameter* rise = p->id == "file" ? d.kind().find("rise") : nullptr;
                    out.push_back({std::move(file), std::get<double>(d.get("density")),
                                   rise ? std::get<double>(d.get(*rise)) : 1});
                }
    });
    return out;
}

void rename_strokes(Element& e, const std::string& from, const std::string& to) {
    change_parts(e, [&](Described& d) {
        for (const char* which : {"file", "ink"})
            if (const Parameter* p = is_by_hand(d) ? d.kind().find(which) : nullptr;
                p && std::get<std::string>(d.get(*p)) == from)
                d = d.with(*p, to);
    });
}

namespace {

/// Depth first (Tarjan 1972): an element met again while it is still being walked closes a circle. Every
/// element is walked once.
class Walk {
  public:
    explicit Walk(const Piece& piece) {
        for_each_element(piece.elements, [&](const Element& e) { by_id_[e.id] = &e; });
    }

    /// The circle found, first element repeated at its end; empty when there is none.
    std::vector<const Element*> visit(const Element& e) {
        State& state = states_[e.id];
        if (state == State::done) return {};
        trail_.push_back(&e);
        if (state == State::open) {
            const auto first = std::find_if(trail_.begin(), trail_.end() - 1,
                                            [&](const Element* o) { return o->id == e.id; });
            return {first, trail_.end()};
        }
        state = State::open;
        for (const Element& c : e.elements)
            if (auto found = visit(c); !found.empty()) return found;
        for (const std::string& id : read_by(e))
            if (const auto map = by_id_.find(id); map != by_id_.end())
                if (auto found = visit(*map->second); !found.empty()) return found;
        states_[e.id] = State::done;
        trail_.pop_back();
        return {};
    }

  private:
    enum class State { fresh, open, done };
    std::map<std::string, const Element*, std::less<>> by_id_;
    std::map<std::string, State, std::less<>> states_;
    std::vector<const Element*> trail_;
};

std::vector<const Element*> circle_in(const Piece& piece) {
    Walk walk(piece);
    for (const Element& e : piece.elements)
        if (auto circle = walk.visit(e); !circle.empty()) return circle;
    return {};
}

} // namespace

std::string cycle_in(const Piece& piece) {
    const auto circle = circle_in(piece);
    if (circle.empty()) return {};
    std::string names;
    for (const Element* c : circle) names += (names.empty() ? "" : " reads ") + called(*c);
    return "Elements read one another in a circle: " + names + ". Take one of these maps or masks away.";
}

void refuse_cycles(const Piece& piece) {
    if (const std::string found = cycle_in(piece); !found.empty()) throw Error(found);
}

namespace {

/// A circle through a twin, a step's own map or a group lit by itself cannot be opened by taking a map away:
/// what would be seen then is something else. Throws Error that names an element of it and the member that
/// closes it.
void refuse_followed(const std::vector<const Element*>& circle) {
    for (std::size_t i = 0; i + 1 < circle.size(); ++i) {
        const Element &e = *circle[i], &next = *circle[i + 1];
        const auto* twin = e.source.as<TwinSource>();
        const auto* group = e.source.as<GroupSource>();
        const bool follows = twin && twin->of == next.id;
        std::string by; // a step of it that goes by the next
        for (const Step& s : e.steps) {
            Described copy = s.what;
            rename_read(copy, [&](const std::string& id) {
                if (id == next.id) by = std::string(s.kind().id);
                return id;
            });
        }
        if (!by.empty())
            throw Error(
                "Element " + in_quotes(e.id) + ": its step " + in_quotes(by) + " goes by " +
                in_quotes(next.id) + ", and that leads back to it. Let it go by something else" +
                (next.id == e.id ? ", or, left empty, by the element as it is before the step." : "."));
        if (!follows && !(group && group->lit)) continue;
        std::string names;
        for (const Element* c : circle) names += (names.empty() ? "" : " reads ") + called(*c);
        throw Error(
            "Element " + in_quotes(e.id) + ": " +
            (follows ? "\"of\" follows " + in_quotes(next.id) : std::string("\"lit\" needs its elements")) +
            ", and that leads back to it: " + names + ". Let it follow or read something else.");
    }
}

} // namespace

std::vector<std::string> open_circles(Piece& piece) {
    std::vector<std::string> told;
    for (auto circle = circle_in(piece); !circle.empty(); circle = circle_in(piece)) {
        refuse_followed(circle);
        // The last link that is a map, seen from where the walk began, closes the circle.
        std::string user, map, says;
        for (std::size_t i = circle.size() - 1; i > 0 && user.empty(); --i) {
            const auto read = read_by(*circle[i - 1]);
            if (std::find(read.begin(), read.end(), circle[i]->id) == read.end()) continue;
            user = circle[i - 1]->id, map = circle[i]->id;
            says = called(*circle[i - 1]) + " reads " + called(*circle[i]);
        }
        if (user.empty()) break; // nothing that could be switched off; cannot be
        change(piece, user, [&](Element& e) {
            change_maps(e, [&](std::optional<MapRef>& m) {
                if (m && m->element == map) m->on = false;
            });
        });
        told.push_back(says);
    }
    return told;
}

const Element* shown_by(const Piece& piece, const Element& element) {
    const Element* e = &element;
    // As long as they are not followed in a circle.
    for (int i = 0; e && i < 64; ++i) {
        const auto* twin = e->source.as<TwinSource>();
        if (!twin) return e;
        e = find_element(piece.elements, twin->of);
    }
    return nullptr;
}

std::vector<std::string> users_of(const Piece& piece, std::string_view id) {
    std::vector<std::string> out;
    for_each_element(piece.elements, [&](const Element& e) {
        const auto read = read_by(e);
        if (std::find(read.begin(), read.end(), id) != read.end()) out.push_back(e.id);
    });
    if (std::any_of(piece.finish.begin(), piece.finish.end(),
                    [&](const Step& s) { return reads(s.map) && s.map->element == id; }))
        out.emplace_back(finish_id);
    return out;
}

bool may_read(const Piece& piece, std::string_view element, std::string_view map) {
    if (!find_element(piece.elements, map)) return false;
    Piece trial = piece;
    const bool there = change(trial, element, [&](Element& e) {
        e.mix.mask = MapRef{std::string(map), MapOf::alpha};
    });
    return there && cycle_in(trial).empty();
}

} // namespace bathylux
