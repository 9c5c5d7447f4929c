// One value of a piece, named by a path. See codec.h.
#include <algorithm>

#include "core/error.h"
#include "core/piece/codec.h"
#include "core/piece/pose.h"
#include "core/piece/references.h"

namespace bathylux {

namespace {

/// Where a value is set, and what it is set to.
struct Setting {
    const std::string& path;
    const std::string& text;

    [[noreturn]] void refuse(const std::string& why) const { throw Error(in_quotes(path) + ": " + why); }

    /// What was typed, for a parameter; what is wrong with it comes with the path.
    Value value(const Parameter& p) const {
        try {
            return value_from_text(p, text);
        } catch (const Error& e) {
            refuse(e.what());
        }
    }
    void plain(void* target, std::span<const Parameter> parameters, const std::string& name) const {
        for (const Parameter& p : parameters)
            if (p.id == name) return p.set(target, value(p));
        refuse("there is no parameter " + in_quotes(name) + ".");
    }
    void described(Described& what, const std::string& name) const {
        const Parameter* p = what.kind().find(name);
        if (!p) refuse(std::string(what.kind().id) + " has no parameter " + in_quotes(name) + ".");
        what = what.with(*p, value(*p));
    }
    bool yes() const {
        if (text == "true") return true;
        if (text != "false") refuse("it takes true or false, not " + in_quotes(text) + ".");
        return false;
    }
    void map(std::optional<MapRef>& map, const std::string& name) const {
        if (!map) map.emplace();
        plain(&*map, MapRef::parameters, name);
    }
};

std::vector<std::string> parted(const std::string& path) {
    std::vector<std::string> parts;
    for (std::size_t from = 0; from <= path.size();) {
        const auto dot = std::min(path.find('.', from), path.size());
        parts.push_back(path.substr(from, dot - from));
        from = dot + 1;
    }
    return parts;
}

void set_light(Light& l, const std::string& name, const Setting& to) {
    if (name == "on")
        l.on = to.yes();
    else if (name == "alone")
        l.alone = to.yes();
    else if (name == "tied")
        l.tied = to.text;
    else if (name == "stands") {
        const auto at = std::find(stands_names.begin(), stands_names.end(), to.text);
        if (at == stands_names.end())
            to.refuse("it takes space, body or camera, not " + in_quotes(to.text) + ".");
        l.stands = static_cast<Stands>(at - stands_names.begin());
    } else
        to.described(l.what, name);
}

/// The step of that id, else the first of that kind; −1.
int step_named(const Steps& steps, const std::string& name) {
    if (const int i = index_of_step(steps, name); i >= 0) return i;
    for (std::size_t i = 0; i < steps.size(); ++i)
        if (steps[i]->what.is(name)) return static_cast<int>(i);
    return -1;
}

/// `parts`: the step, and what of it; `whose` in words.
void set_in_step(Steps& steps, const std::string& whose, std::span<const std::string> parts,
                 const Setting& to) {
    const std::string& name = parts.back();
    const int i = step_named(steps, parts[0]);
    if (i < 0) to.refuse(whose + " has no step " + in_quotes(parts[0]) + ".");
    steps[i] = steps[i].with([&](Step& s) {
        if (parts.size() == 3 && parts[1] == "map") return to.map(s.map, name);
        if (const Parameter* p = s.what.kind().find(parts[1]);
            parts.size() == 3 && p && p->type == Parameter::Type::map) {
            auto by = map_in(s.what, *p);
            to.map(by, name);
            s.what = s.what.with(*p, by);
            return;
        }
        if (parts.size() != 2) to.refuse("there is nothing of that name.");
        if (name == "on")
            s.on = to.yes();
        else if (name == Step::parameters[0].id)
            to.plain(&s, Step::parameters, name);
        else
            to.described(s.what, name);
    });
}

/// `parts` without the element's id.
void set_in(Element& e, const Piece& piece, std::span<const std::string> parts, const Setting& to) {
    const std::string& name = parts.back();
    if (parts.size() == 3 && parts[0] == "mix" && parts[1] == "mask") return to.map(e.mix.mask, name);
    if (parts.size() == 2) {
        if (parts[0] == "placement") return to.plain(&e.placement, Placement::parameters, name);
        if (parts[0] == "mix") return to.plain(&e.mix, Mix::parameters, name);
        if (parts[0] == "source") return to.described(e.source, name);
        if (parts[0] == "surface") {
            if (!e.surface) e.surface = piece.surface;
            return to.plain(&*e.surface, Surface::parameters, name);
        }
    }
    set_in_step(e.steps, "element " + in_quotes(e.id), parts, to);
}

/// A piece without a solid gets one.
void set_in_solid(Piece& piece, std::span<const std::string> parts, const Setting& to) {
    Solid solid = piece.solid.value_or(Solid());
    const std::string& name = parts.back();
    if (parts.size() == 1)
        to.plain(&solid.body, Body::parameters, name);
    else if (parts[0] == "camera")
        to.plain(&solid.camera, Camera::parameters, name);
    else if (parts[0] == "ground")
        to.plain(&solid.ground, GroundPlane::parameters, name);
    else if (parts[0] == "surface")
        to.plain(&solid.surface, Surface::parameters, name);
    else
        to.refuse("the solid has no " + in_quotes(parts[0]) + ".");
    piece.solid = solid;
}

} // namespace

namespace {

void set_still(Piece& piece, const std::string& path, const std::string& text) {
    const Setting to{path, text};
    const auto parts = parted(path);
    if (parts.size() == 1) {
        if (parts[0] != "mood") return to.plain(&piece, Piece::parameters, parts[0]);
        if (std::none_of(piece.moods.begin(), piece.moods.end(), [&](const Mood& m) { return m.id == text; }))
            to.refuse("there is no mood " + in_quotes(text) + ".");
        return use_mood(piece, text);
    }
    if (parts.size() == 2) {
        if (parts[0] == "canvas") return to.plain(&piece.canvas, Canvas::parameters, parts[1]);
        if (parts[0] == "ambient") return to.plain(&piece.ambient, Ambient::parameters, parts[1]);
        if (parts[0] == "surface") return to.plain(&piece.surface, Surface::parameters, parts[1]);
        if (parts[0] == "solid") return set_in_solid(piece, std::span(parts).subspan(1), to);
        if (!change_light(piece, parts[0], [&](Light& l) { set_light(l, parts[1], to); }))
            to.refuse("there is no light " + in_quotes(parts[0]) + ".");
        if (parts[1] == "tied" && !text.empty() && !find_element(piece.elements, text))
            to.refuse("there is no element " + in_quotes(text) + ".");
        return;
    }
    if (parts.size() == 3 && parts[0] == "solid" && !find_element(piece.elements, "solid"))
        return set_in_solid(piece, std::span(parts).subspan(1), to);
    Piece changed = piece;
    const auto within = std::span(parts).subspan(1);
    if (parts[0] == finish_id && parts.size() <= 4)
        return set_in_step(piece.finish, "the finish", within, to);
    if (parts.size() > 4 || !change(changed, parts[0], [&](Element& e) { set_in(e, piece, within, to); }))
        to.refuse("there is no element " + in_quotes(parts[0]) + ".");
    refuse_cycles(changed);
    piece = std::move(changed);
}

} // namespace

void set_parameter(Piece& piece, const std::string& path, const std::string& text) {
    set_still(piece, path, text);
    // What is set does not move, and what follows it follows what it is set to.
    if (moves(piece)) set_motion(piece, path, std::nullopt);
}

} // namespace bathylux
