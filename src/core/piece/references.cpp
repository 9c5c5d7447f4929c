#include "core/piece/references.h"

#include <algorithm>
#include <map>

#include "core/error.h"
#include "core/piece/lights.h"
#include "core/piece/sources.h"
#include "core/relief/by_hand.h"

namespace bathylux {

std::vector<std::string> maps_of(const Element& e) {
    std::vector<std::string> out;
    if (e.mix.mask) out.push_back(e.mix.mask->element);
    for (const Step& s : e.steps)
        if (s.map) out.push_back(s.map->element);
    if (e.surface)
        for (const SurfaceMap& m : e.surface->maps)
            if (m.map) out.push_back(m.map->element);
    return out;
}

namespace {

/// Calls `work` for every described part that may name files and holds no strokes.
template <class F> void each_part(Element& e, const F& work) {
    if (!e.source.is("paint")) work(e.source);
    for (Step& s : e.steps)
        if (!s.what.is("by_hand")) work(s.what);
}

} // namespace

void rename_files(Element& element, const std::function<std::string(const std::string&)>& rename) {
    each_part(element, [&](Described& d) {
        for (const Parameter& p : d.kind().parameters) {
            if (p.type == Parameter::Type::file) {
                const auto name = std::get<std::string>(d.get(p));
                if (name.empty()) continue;
                if (const std::string now = rename(name); now != name) d = d.with(p, now);
            } else if (p.type == Parameter::Type::files) {
                auto names = std::get<std::vector<std::string>>(d.get(p));
                for (std::string& n : names) n = rename(n);
                d = d.with(p, names);
            }
        }
    });
}

std::vector<std::string> files_of(const Element& element) {
    std::vector<std::string> out;
    Element copy = element;
    copy.elements.clear();
    rename_files(copy, [&](const std::string& name) {
        out.push_back(name);
        return name;
    });
    return out;
}

namespace {

/// Calls `work` with every sky that shows a file.
template <class P, class F> void each_panorama(P& piece, const F& work) {
    const auto look = [&](auto& lights) {
        for (auto& l : lights)
            if (const auto* sky = l.what.template as<SkyLight>(); sky && !sky->file.empty())
                work(l, sky->file);
    };
    look(piece.lights);
    for (auto& t : piece.takes) look(t.lights);
}

} // namespace

std::vector<std::string> light_files(const Piece& piece) {
    std::vector<std::string> out;
    each_panorama(piece, [&](const Light&, const std::string& file) { out.push_back(file); });
    return out;
}

void rename_light_files(Piece& piece, const std::function<std::string(const std::string&)>& rename) {
    each_panorama(piece,
                  [&](Light& l, const std::string& file) { l.what = l.what.with("file", rename(file)); });
}

std::vector<std::pair<std::string, double>> strokes_of(const Element& e) {
    std::vector<std::pair<std::string, double>> out;
    if (const auto* p = e.source.as<PaintSource>(); p && !p->file.empty())
        out.emplace_back(p->file, p->density);
    for (const Step& s : e.steps)
        if (const auto* h = s.what.as<ByHand>(); h && !h->file.empty()) out.emplace_back(h->file, h->density);
    return out;
}

void rename_strokes(Element& e, const std::string& from, const std::string& to) {
    const auto rename = [&](Described& d) {
        if (std::get<std::string>(d.get("file")) == from) d = d.with("file", to);
    };
    if (e.source.is("paint")) rename(e.source);
    for (Step& s : e.steps)
        if (s.what.is("by_hand")) rename(s.what);
}

namespace {

/// Depth first (Tarjan 1972): an element met again while it is still being walked closes a circle.
struct Walk {
    const Piece& piece;
    enum class State { fresh, open, done };
    std::map<std::string, State, std::less<>> states{};
    std::vector<const Element*> trail{};

    /// The circle found, first element repeated at its end; empty when there is none.
    std::vector<const Element*> visit(const Element& e) {
        State& state = states[e.id];
        if (state == State::done) return {};
        trail.push_back(&e);
        if (state == State::open) {
            const auto first =
                std::find_if(trail.begin(), trail.end() - 1, [&](const Element* o) { return o->id == e.id; });
            return {first, trail.end()};
        }
        state = State::open;
        for (const Element& c : e.elements)
            if (auto found = visit(c); !found.empty()) return found;
        for (const std::string& id : maps_of(e))
            if (const Element* map = find_element(piece.elements, id))
                if (auto found = visit(*map); !found.empty()) return found;
        states[e.id] = State::done;
        trail.pop_back();
        return {};
    }
};

} // namespace

std::string cycle_in(const Piece& piece) {
    Walk walk{piece};
    for (const Element& e : piece.elements) {
        const auto circle = walk.visit(e);
        if (circle.empty()) continue;
        std::string names;
        for (const Element* c : circle)
            names += (names.empty() ? "" : " reads ") + in_quotes(c->name.empty() ? c->id : c->name);
        return "Elements read one another in a circle: " + names + ". Take one of these maps or masks away.";
    }
    return {};
}

void refuse_cycles(const Piece& piece) {
    if (const std::string found = cycle_in(piece); !found.empty()) throw Error(found);
}

std::vector<std::string> users_of(const Piece& piece, std::string_view id) {
    std::vector<std::string> out;
    for_each_element(piece.elements, [&](const Element& e) {
        const auto maps = maps_of(e);
        if (std::find(maps.begin(), maps.end(), id) != maps.end()) out.push_back(e.id);
    });
    return out;
}

bool may_read(const Piece& piece, std::string_view element, std::string_view map) {
    Piece trial = piece;
    Element* e = find_element(trial.elements, element);
    if (!e || !find_element(std::as_const(trial.elements), map)) return false;
    e->mix.mask = MapRef{std::string(map), MapOf::alpha, 0, 1, false, {}};
    return cycle_in(trial).empty();
}

} // namespace bathylux
