#include "core/piece/piece.h"

#include <algorithm>
#include <set>

namespace bathylux {

namespace {
constexpr std::array<std::string_view, 4> edge_names{"none", "clamp", "repeat", "mirrored_repeat"};
constexpr std::array<std::string_view, 6> height_mode_names{"add",   "subtract", "higher",
                                                            "lower", "replace",  "carve"};
constexpr std::array<std::string_view, 4> map_of_names{"alpha", "tone", "height", "slope"};
constexpr std::array<std::string_view, 3> roll_off_names{"none", "gentle", "film"};
constexpr double far = 1e6;
} // namespace

constexpr std::array<Parameter, 6> Placement::parameters{
    number<&Placement::x>("x", "Across", Unit::px, {0, 4000, -far, far},
                          "Centre from the canvas's left edge"),
    number<&Placement::y>("y", "Down", Unit::px, {0, 4000, -far, far}, "Centre from the canvas's top edge"),
    number<&Placement::turn>("turn", "Turn", Unit::degrees, {-180, 180}, "Counter-clockwise as seen"),
    number<&Placement::scale_u>("scale_u", "Scale across", Unit::ratio, {0.05, 4, -1000, 1000},
                                "Along the source's own width; negative mirrors"),
    number<&Placement::scale_v>("scale_v", "Scale along", Unit::ratio, {0.05, 4, -1000, 1000},
                                "Along the source's own height; negative mirrors"),
    choice<&Placement::edge, edge_names>("edge", "Past the rim", "What a picture shows past its own rim"),
};

constexpr std::array<Parameter, 5> MapRef::parameters{
    text<&MapRef::element>("element", "Element", "The id of the element it is taken from"),
    choice<&MapRef::of, map_of_names>("of", "Reads",
                                      "What is read off it: coverage, brightness, height, slope"),
    number<&MapRef::low>("low", "From", Unit::ratio, {0, 1}, "The value that counts as none"),
    number<&MapRef::high>("high", "To", Unit::ratio, {0, 1}, "The value that counts in full"),
    toggle<&MapRef::sink>("sink", "Swapped", "Bright hides and dark shows"),
};

constexpr std::array<Parameter, 6> Mix::parameters{
    choice<&Mix::blend, blend_names>("blend", "Blend", "How the colour joins the colour below"),
    number<&Mix::opacity>("opacity", "Opacity", Unit::ratio, {0, 1, 0, 1},
                          "Of the colour; height is not touched"),
    choice<&Mix::height, height_mode_names>("height", "Height", "How the height joins the height below"),
    toggle<&Mix::visible>("visible", "Visible", "Switched off, the element gives nothing"),
    toggle<&Mix::linear>("linear", "Blend in linear light", "Blends light rather than encoded values"),
    toggle<&Mix::clip>("clip", "Clip to below", "Shows only where the element below it shows"),
};

constexpr std::array<Parameter, 10> Surface::parameters{
    number<&Surface::roughness>("roughness", "Roughness", Unit::ratio, {0, 1, 0, 1}, "0 polished, 1 chalky"),
    number<&Surface::metallic>("metallic", "Metallic", Unit::ratio, {0, 1, 0, 1},
                               "0 paint or stone, 1 bare metal"),
    number<&Surface::specular>("specular", "Specular", Unit::ratio, {0, 1, 0, 1},
                               "How strongly what is no metal reflects"),
    number<&Surface::coat>("coat", "Clear coat", Unit::ratio, {0, 1, 0, 1}, "A film of varnish over it"),
    number<&Surface::coat_roughness>("coat_roughness", "Coat roughness", Unit::ratio, {0, 1, 0, 1},
                                     "0 a mirror, 1 satin"),
    number<&Surface::sheen>("sheen", "Sheen", Unit::ratio, {0, 1, 0, 1}, "The soft rim of cloth and felt"),
    number<&Surface::sheen_roughness>("sheen_roughness", "Sheen roughness", Unit::ratio, {0, 1, 0, 1},
                                      "0 at the very rim only, 1 all over"),
    number<&Surface::sheen_tint>("sheen_tint", "Sheen tint", Unit::ratio, {0, 1, 0, 1},
                                 "0 white, 1 the colour of the cloth"),
    number<&Surface::own_color>("own_color", "Own colour", Unit::ratio, {0, 1, 0, 1},
                                "How much the base colour replaces the art's"),
    bathylux::color<&Surface::color>("color", "Base colour", "What the material itself is coloured"),
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
                               "1: as much as the sky they do not see"),
    number<&Ambient::radius>("radius", "Looked at within", Unit::px, {0, 400, 0, 100000},
                             "How far the relief hides the sky; 0: as far as the canvas goes"),
};

constexpr std::array<Parameter, 5> Piece::parameters{
    number<&Piece::exposure>("exposure", "Exposure", Unit::stops, {-4, 4, -20, 20},
                             "Brightens or darkens the lit picture, in stops"),
    toggle<&Piece::keep_flat_color>("keep_flat_color", "Keep flat colour",
                                    "Flat ground shows its own colour exactly"),
    choice<&Piece::roll_off, roll_off_names>("roll_off", "Roll off",
                                             "How bright light is held back from clipping where it is shown"),
    number<&Piece::relight>("relight", "Light over flat", Unit::ratio, {0, 1, 0, 1},
                            "How strongly the lit picture lies over the flat one"),
    choice<&Piece::relight_blend, blend_names>("relight_blend", "Laid over by",
                                               "How the lit picture lies over the flat one"),
};

Affine Placement::matrix() const {
    return Affine::translation(x, y) * Affine::turning(turn) * Affine::scaling(scale_u, scale_v);
}

const Element* find_element(const std::vector<Element>& elements, std::string_view id) {
    for (const Element& e : elements) {
        if (e.id == id) return &e;
        if (const Element* found = find_element(e.elements, id)) return found;
    }
    return nullptr;
}

Element* find_element(std::vector<Element>& elements, std::string_view id) {
    return const_cast<Element*>(find_element(std::as_const(elements), id));
}

std::vector<Element>* find_siblings(std::vector<Element>& elements, std::string_view id) {
    for (Element& e : elements) {
        if (e.id == id) return &elements;
        if (auto* found = find_siblings(e.elements, id)) return found;
    }
    return nullptr;
}

void for_each_element(const std::vector<Element>& elements,
                      const std::function<void(const Element&)>& visit) {
    for (const Element& e : elements) {
        visit(e);
        for_each_element(e.elements, visit);
    }
}

void use_take(Piece& piece, std::string_view id) {
    const auto find = [&](std::string_view which) {
        return std::find_if(piece.takes.begin(), piece.takes.end(),
                            [&](const Take& t) { return t.id == which; });
    };
    const auto next = find(id), now = find(piece.take);
    if (next == piece.takes.end() || next == now) return;
    if (now != piece.takes.end()) {
        now->lights = std::move(piece.lights), now->ambient = piece.ambient;
        now->exposure = piece.exposure, now->keep_flat_color = piece.keep_flat_color;
    }
    piece.lights = std::move(next->lights), piece.ambient = next->ambient;
    piece.exposure = next->exposure, piece.keep_flat_color = next->keep_flat_color;
    next->lights.clear();
    piece.take = next->id;
}

std::string free_id(const Piece& piece, std::string_view wish) {
    std::string base;
    for (char c : wish) {
        const auto lower = static_cast<char>(c >= 'A' && c <= 'Z' ? c - 'A' + 'a' : c);
        if ((lower >= 'a' && lower <= 'z') || (lower >= '0' && lower <= '9'))
            base += lower;
        else if (!base.empty() && base.back() != '-')
            base += '-';
        if (base.size() >= 24) break;
    }
    while (!base.empty() && base.back() == '-') base.pop_back();
    if (base.empty()) base = "element";
    std::set<std::string> taken;
    for_each_element(piece.elements, [&](const Element& e) {
        taken.insert(e.id);
        for (const Step& s : e.steps) taken.insert(s.id);
    });
    for (const Light& l : piece.lights) taken.insert(l.id);
    for (const Take& t : piece.takes) {
        taken.insert(t.id);
        for (const Light& l : t.lights) taken.insert(l.id);
    }
    std::string id = base;
    for (int n = 2; taken.contains(id); ++n) id = base + "-" + std::to_string(n);
    return id;
}

} // namespace bathylux
