#include "core/piece/piece.h"

#include <algorithm>
#include <set>

#include "core/field/edge_names.h"
#include "core/field/hash.h"

namespace bathylux {

namespace {
constexpr std::array<std::string_view, 6> height_mode_names{"add",   "subtract", "higher",
                                                            "lower", "replace",  "carve"};
constexpr std::array<std::string_view, 3> roll_off_words{"not at all", "gentle", "film"};
constexpr std::array<std::string_view, 3> roll_off_names{"none", "gentle", "film"};
constexpr double far = 1e6;
} // namespace

constexpr std::array<Parameter, 6> Placement::parameters{
    number<&Placement::x>("x", "Across", Unit::px, {0, 4000, -far, far}, "Centre from the canvas's left edge")
        .as(Said::across_canvas),
    number<&Placement::y>("y", "Down", Unit::px, {0, 4000, -far, far}, "Centre from the canvas's top edge")
        .as(Said::down_canvas),
    number<&Placement::turn>("turn", "Turn", Unit::degrees, {-180, 180}, "Counter-clockwise as seen"),
    number<&Placement::scale_u>("scale_u", "Scale across", Unit::ratio, {0.05, 4, -1000, 1000},
                                "Along the source's own width; negative mirrors")
        .as(Said::percent),
    number<&Placement::scale_v>("scale_v", "Scale along", Unit::ratio, {0.05, 4, -1000, 1000},
                                "Along the source's own height; negative mirrors")
        .as(Said::percent),
    choice<&Placement::edge, edge_names>("edge", "Past the rim", "What a picture shows past its own rim")
        .reads(edge_words),
};

constexpr std::array<Parameter, 1> Step::parameters{
    number<&Step::share>("share", "Share", Unit::ratio, {0, 1, 0, 1}, "How much of what the step does counts")
        .as(Said::percent),
};

constexpr std::array<Parameter, 6> Mix::parameters{
    choice<&Mix::blend, blend_names>("blend", "Blend", "How the colour joins the colour below")
        .reads(blend_words),
    number<&Mix::opacity>("opacity", "Opacity", Unit::ratio, {0, 1, 0, 1},
                          "Of the colour; height is not touched")
        .as(Said::percent),
    choice<&Mix::height, height_mode_names>("height", "Height", "How the height joins the height below"),
    toggle<&Mix::visible>("visible", "Visible", "Switched off, the element gives nothing")
        .ranked(Rank::hidden),
    toggle<&Mix::linear>("linear", "Blend in linear light", "Blends light rather than encoded values"),
    toggle<&Mix::clip>("clip", "Clip to below", "Shows only where the element below it shows"),
};

constexpr std::array<Parameter, 15> Surface::parameters{
    number<&Surface::roughness>("roughness", "Roughness", Unit::ratio, {0, 1, 0, 1}, "0 polished, 1 chalky"),
    number<&Surface::metallic>("metallic", "Metallic", Unit::ratio, {0, 1, 0, 1},
                               "0 paint or stone, 1 bare metal"),
    number<&Surface::specular>("specular", "Specular", Unit::ratio, {0, 1, 0, 1},
                               "How strongly what is no metal reflects"),
    number<&Surface::coat>("coat", "Clear coat", Unit::ratio, {0, 1, 0, 1}, "A film of varnish over it"),
    number<&Surface::coat_roughness>("coat_roughness", "Coat roughness", Unit::ratio, {0, 1, 0, 1},
                                     "0 a mirror, 1 satin")
        .only_when("coat", ">0"),
    number<&Surface::sheen>("sheen", "Sheen", Unit::ratio, {0, 1, 0, 1}, "The soft rim of cloth and felt"),
    number<&Surface::sheen_roughness>("sheen_roughness", "Sheen roughness", Unit::ratio, {0, 1, 0, 1},
                                      "0 at the very rim only, 1 all over")
        .only_when("sheen", ">0"),
    number<&Surface::sheen_tint>("sheen_tint", "Sheen tint", Unit::ratio, {0, 1, 0, 1},
                                 "0 white, 1 the colour of the cloth")
        .only_when("sheen", ">0"),
    number<&Surface::own_color>("own_color", "Own colour", Unit::ratio, {0, 1, 0, 1},
                                "How much the base colour replaces the art's"),
    bathylux::color<&Surface::color>("color", "Base colour", "What the material itself is coloured")
        .only_when("own_color", ">0"),
    number<&Surface::transmission>("transmission", "Seen through", Unit::ratio, {0, 1, 0, 1},
                                   "How much of what lies below shows through it"),
    number<&Surface::ior>("ior", "Bends", Unit::none, {1, 2.5, 1, 10},
                          "Index of refraction: water 1.33, glass 1.5, crystal 1.7")
        .only_when("transmission", ">0"),
    number<&Surface::thickness>("thickness", "Thickness", Unit::px, {0, 120, 0, 100000},
                                "How much of it lies below its own relief")
        .only_when("transmission", ">0"),
    bathylux::color<&Surface::attenuation_color>("attenuation_color", "Colour in depth",
                                                 "What light becomes on its way through it")
        .only_when("transmission", ">0"),
    number<&Surface::attenuation_distance>("attenuation_distance", "Within", Unit::px, {0, 400, 0, 100000},
                                           "The way after which light has that colour; 0: clear all through")
        .only_when("transmission", ">0"),
};

const SurfaceMap* Surface::map_of(std::string_view parameter) const {
    for (const SurfaceMap& m : maps)
        if (m.map && m.parameter == parameter) return &m;
    return nullptr;
}

constexpr std::array<Parameter, 6> Canvas::parameters{
    whole<&Canvas::width>("width", "Width", {16, 8192, 1, 16384}, "Pixels across"),
    whole<&Canvas::height>("height", "Height", {16, 8192, 1, 16384}, "Pixels down"),
    number<&Canvas::px_per_mm>("px_per_mm", "Pixels per mm", Unit::none, {1, 48, 0.001, 10000},
                               "Ties pixels to real lengths"),
    bathylux::color<&Canvas::background>("background", "Ground", "Colour beneath all elements"),
    number<&Canvas::draft>("draft", "Least draft", Unit::degrees, {0, 30, 0, 89},
                           "How far a pressing die's walls must lean from upright; 0: no die"),
    number<&Canvas::mesh>("mesh", "Finest detail", Unit::none, {0, 2, 0, 1000},
                          "Mesh or dot, in mm, that the relief will be made with; 0: not stated"),
};

constexpr std::array<Parameter, 5> Ambient::parameters{
    bathylux::color<&Ambient::color>("color", "Colour", "Colour of the ambient light"),
    number<&Ambient::intensity>("intensity", "Ambient", Unit::none, {0, 1, 0, 1000},
                                "Light from everywhere at once"),
    toggle<&Ambient::occlusion>("occlusion", "Grooves darken",
                                "Places that see less of the sky get less ambient light"),
    number<&Ambient::strength>("strength", "By how much", Unit::ratio, {0, 1, 0, 1},
                               "1: as much as the sky they do not see")
        .only_when("occlusion", "true"),
    number<&Ambient::radius>("radius", "Looked at within", Unit::px, {0, 400, 0, 100000},
                             "How far the relief hides the sky; 0: as far as the canvas goes")
        .only_when("occlusion", "true"),
};

constexpr std::array<Parameter, 5> Piece::parameters{
    number<&Piece::exposure>("exposure", "Exposure", Unit::stops, {-4, 4, -20, 20},
                             "Brightens or darkens the lit picture, in stops"),
    toggle<&Piece::keep_flat_color>("keep_flat_color", "Keep flat colour",
                                    "Flat ground shows its own colour exactly"),
    choice<&Piece::roll_off, roll_off_names>("roll_off", "Roll off",
                                             "How bright light is held back from clipping where it is shown")
        .reads(roll_off_words),
    number<&Piece::relight>("relight", "Light over flat", Unit::ratio, {0, 1, 0, 1},
                            "How strongly the lit picture lies over the flat one"),
    choice<&Piece::relight_blend, blend_names>("relight_blend", "Laid over by",
                                               "How the lit picture lies over the flat one")
        .reads(blend_words),
};

Affine Placement::matrix() const {
    return Affine::translation(x, y) * Affine::turning(turn) * Affine::scaling(scale_u, scale_v);
}

namespace {

void add(Hash& h, std::span<const Parameter> parameters, const void* from) {
    for (const Parameter& p : parameters) add_to(h, p.get(from));
}
/// Which of several things move, and how.
void add(Hash& h, std::initializer_list<const Motions*> all) {
    int which = 0;
    for (const Motions* m : all) {
        ++which;
        if (!m->empty()) h << which, add_to(h, *m);
    }
}
void add(Hash& h, const std::optional<MapRef>& map) {
    h << map.has_value();
    if (map) h << content_hash(*map);
}

} // namespace

std::uint64_t content_hash(const Surface& surface) {
    Hash h;
    add(h, Surface::parameters, &surface);
    for (const SurfaceMap& m : surface.maps) {
        h << m.parameter << m.black;
        add(h, m.map);
    }
    h << surface.rest;
    add_to(h, surface.motions);
    return h.value();
}

std::uint64_t content_hash(const Step& step) {
    Hash h;
    h << step.id << step.on << step.share << step.what.hash() << step.rest;
    add(h, step.map);
    add_to(h, step.motions);
    return h.value();
}

std::uint64_t content_hash(const Element& e) {
    Hash h;
    h << e.id << e.name << e.source.hash() << e.source_rest << e.locked << e.rest;
    add(h, Placement::parameters, &e.placement);
    h << e.placement.rest;
    add(h, Mix::parameters, &e.mix);
    h << e.mix.rest;
    add(h, e.mix.mask);
    add(h, {&e.source_motions, &e.placement.motions, &e.mix.motions});
    h << e.surface.has_value();
    if (e.surface) h << content_hash(*e.surface);
    for (const auto& s : e.steps) h << s.hash();
    h << e.elements.size();
    for (const auto& c : e.elements) h << c.hash();
    return h.value();
}

std::uint64_t content_hash(const Light& l) {
    Hash h;
    h << l.id << l.name << l.on << l.what.hash() << l.rest << l.alone << l.tied << static_cast<int>(l.stands);
    add_to(h, l.motions);
    return h.value();
}

namespace {

void add(Hash& h, const Ambient& a) {
    add(h, Ambient::parameters, &a);
    h << a.rest;
    add_to(h, a.motions);
}

} // namespace

std::uint64_t content_hash(const Solid& s) {
    Hash h;
    add(h, Body::parameters, &s.body);
    add(h, Camera::parameters, &s.camera);
    add(h, GroundPlane::parameters, &s.ground);
    h << content_hash(s.surface) << s.rest << s.camera_rest << s.ground_rest << s.cameras.size();
    for (const KeptCamera& c : s.cameras) {
        h << c.name << c.rest;
        add(h, Camera::parameters, &c.camera);
    }
    add(h, {&s.motions, &s.camera_motions, &s.ground_motions});
    return h.value();
}

std::uint64_t content_hash(const Piece& p) {
    Hash h;
    add(h, Canvas::parameters, &p.canvas);
    h << static_cast<int>(p.canvas.edge) << p.canvas.rest << p.canvas.height_range.has_value();
    if (p.canvas.height_range) h << p.canvas.height_range->first << p.canvas.height_range->second;
    h << p.elements.size();
    for (const auto& e : p.elements) h << e.hash();
    h << content_hash(p.surface) << p.lights.size();
    for (const auto& l : p.lights) h << l.hash();
    add(h, p.ambient);
    add(h, Piece::parameters, &p);
    for (const auto& s : p.finish) h << s.hash();
    for (const Mood& m : p.moods) {
        h << m.id << m.name << m.exposure << m.keep_flat_color << m.rest << m.lights.size();
        add(h, m.ambient);
        for (const auto& l : m.lights) h << l.hash();
    }
    h << p.solid.has_value();
    if (p.solid) h << content_hash(*p.solid);
    h << p.mood << p.section.has_value();
    if (p.section) h << p.section->a.x << p.section->a.y << p.section->b.x << p.section->b.y;
    h << p.guides_x.size();
    for (float g : p.guides_x) h << g;
    for (float g : p.guides_y) h << g;
    h << p.newer << p.rest;
    add_to(h, p.motions);
    if (p.time) h << p.time->rate.frames << p.time->rate.seconds << p.time->frames << p.time->loop;
    return h.value();
}

const Element* find_element(const Elements& elements, std::string_view id) {
    for (const Element& e : elements) {
        if (e.id == id) return &e;
        if (const Element* found = find_element(e.elements, id)) return found;
    }
    return nullptr;
}

const Steps* steps_of(const Piece& piece, std::string_view owner) {
    if (owner == finish_id) return &piece.finish;
    const Element* e = find_element(piece.elements, owner);
    return e ? &e->steps : nullptr;
}

int clipped_to(const Elements& list, std::size_t index) {
    if (!list[index]->mix.clip) return -1;
    int k = static_cast<int>(index);
    while (k >= 0 && list[static_cast<std::size_t>(k)]->mix.clip) --k;
    return k;
}

int index_of_step(const Steps& steps, std::string_view id) {
    for (std::size_t i = 0; i < steps.size(); ++i)
        if (steps[i]->id == id) return static_cast<int>(i);
    return -1;
}
const Step* find_step(const Steps& steps, std::string_view id) {
    const int i = index_of_step(steps, id);
    return i < 0 ? nullptr : &*steps[i];
}

const Light* find_light(const Piece& piece, std::string_view id) {
    for (const Light& l : piece.lights)
        if (l.id == id) return &l;
    return nullptr;
}

namespace {

/// The group (null: the canvas) whose list holds that element, and the list.
std::pair<const Element*, const Elements*> holder(const Element* group, const Elements& list,
                                                  std::string_view id) {
    for (const Element& e : list) {
        if (e.id == id) return {group, &list};
        if (const auto found = holder(&e, e.elements, id); found.second) return found;
    }
    return {};
}

} // namespace

const Elements* find_siblings(const Piece& piece, std::string_view id) {
    return holder(nullptr, piece.elements, id).second;
}
std::string group_of(const Piece& piece, std::string_view id) {
    const Element* group = holder(nullptr, piece.elements, id).first;
    return group ? group->id : std::string();
}

void for_each_element(const Elements& elements, const std::function<void(const Element&)>& visit) {
    for (const Element& e : elements) {
        visit(e);
        for_each_element(e.elements, visit);
    }
}

void for_each_light(const Piece& piece, const std::function<void(const Light&)>& visit) {
    for (const Light& l : piece.lights) visit(l);
    for (const Mood& m : piece.moods)
        for (const Light& l : m.lights) visit(l);
}

bool change(Elements& elements, std::string_view id, const std::function<void(Element&)>& work) {
    for (auto& node : elements) {
        if (node->id == id) {
            node = node.with(work);
            return true;
        }
        if (!find_element(node->elements, id)) continue;
        node = node.with([&](Element& e) { change(e.elements, id, work); });
        return true;
    }
    return false;
}

bool change(Piece& piece, std::string_view id, const std::function<void(Element&)>& work) {
    if (id != finish_id) return change(piece.elements, id, work);
    Element finish = finish_element(piece);
    work(finish);
    // What does not work on the lit picture does not come to lie over it.
    std::erase_if(finish.steps, [](const Step& s) { return !find_finish_kind(s.kind().id); });
    piece.finish = std::move(finish.steps);
    return true;
}

Element finish_element(const Piece& piece) {
    Element out;
    out.id = finish_id, out.name = "Finish";
    out.source = Described(source_kind("group"));
    out.steps = piece.finish;
    return out;
}

bool change_steps(Piece& piece, std::string_view owner, const std::function<void(Steps&)>& work) {
    if (owner != finish_id) return change(piece, owner, [&](Element& e) { work(e.steps); });
    work(piece.finish);
    return true;
}

bool change_step(Piece& piece, std::string_view owner, std::string_view step,
                 const std::function<void(Step&)>& work) {
    bool found = false;
    change_steps(piece, owner, [&](Steps& steps) {
        const int i = index_of_step(steps, step);
        if (i < 0) return;
        steps[i] = steps[i].with(work);
        found = true;
    });
    return found;
}

bool change_light(Piece& piece, std::string_view id, const std::function<void(Light&)>& work) {
    for (auto& node : piece.lights)
        if (node->id == id) {
            node = node.with(work);
            return true;
        }
    return false;
}

void change_all(Elements& elements, const std::function<void(Element&)>& work) {
    for (auto& node : elements)
        node = node.with([&](Element& e) {
            change_all(e.elements, work);
            work(e);
        });
}

void change_all_lights(Piece& piece, const std::function<void(Light&)>& work) {
    for (auto& node : piece.lights) node = node.with(work);
    for (Mood& m : piece.moods)
        for (auto& node : m.lights) node = node.with(work);
}

bool change_list(Piece& piece, std::string_view group, const std::function<void(Elements&)>& work) {
    if (group.empty()) {
        work(piece.elements);
        return true;
    }
    return change(piece, group, [&](Element& e) { work(e.elements); });
}

void use_mood(Piece& piece, std::string_view id) {
    const auto find = [&](std::string_view which) {
        return std::find_if(piece.moods.begin(), piece.moods.end(),
                            [&](const Mood& m) { return m.id == which; });
    };
    const auto next = find(id), now = find(piece.mood);
    if (next == piece.moods.end() || next == now) return;
    if (now != piece.moods.end()) {
        now->lights = std::move(piece.lights), now->ambient = piece.ambient;
        now->exposure = piece.exposure, now->keep_flat_color = piece.keep_flat_color;
    }
    piece.lights = std::move(next->lights), piece.ambient = next->ambient;
    piece.exposure = next->exposure, piece.keep_flat_color = next->keep_flat_color;
    // Its place in the list keeps only its name.
    next->lights.clear(), next->ambient = {}, next->exposure = 0, next->keep_flat_color = false;
    piece.mood = next->id;
}

namespace {

std::string free_among(const std::set<std::string>& taken, std::string_view wish) {
    std::string base;
    for (char c : wish) {
        const auto lower = static_cast<char>(c >= 'A' && c <= 'Z' ? c - 'A' + 'a' : c);
        if ((lower >= 'a' && lower <= 'z') || (lower >= '0' && lower <= '9') || lower == '_')
            base += lower;
        else if (!base.empty() && base.back() != '-')
            base += '-';
        if (base.size() >= 24) break;
    }
    while (!base.empty() && base.back() == '-') base.pop_back();
    if (base.empty()) base = "element";
    std::string id = base;
    for (int n = 2; taken.contains(id); ++n) id = base + "-" + std::to_string(n);
    return id;
}

} // namespace

std::string free_id(const Piece& piece, std::string_view wish) {
    // Names that a path of --set begins with are taken.
    std::set<std::string> taken{"canvas", "ambient", "surface", "exposure", std::string(finish_id), "mood"};
    for_each_element(piece.elements, [&](const Element& e) { taken.insert(e.id); });
    for_each_light(piece, [&](const Light& l) { taken.insert(l.id); });
    for (const Mood& m : piece.moods) taken.insert(m.id);
    return free_among(taken, wish);
}

std::string free_step_id(const Steps& steps, std::string_view wish) {
    // Names that stand beside steps in a path of --set are taken.
    std::set<std::string> taken{"source", "placement", "mix", "surface"};
    for (const Step& s : steps) taken.insert(s.id);
    return free_among(taken, wish);
}

} // namespace bathylux
