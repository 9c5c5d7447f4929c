#include "core/piece/codec.h"

#include <algorithm>
#include <set>

#include "core/error.h"
#include "core/piece/lights.h"
#include "core/piece/references.h"
#include "core/piece/sources.h"
#include "core/steps.h"

namespace bathylux {

namespace {

std::string shown(std::string_view text) { return in_quotes(text); }

/// Adds where in the piece it happened to what an inner reader found.
template <class F> auto within(const std::string& where, F&& read) {
    try {
        return read();
    } catch (const Error& e) {
        throw Error(where + ": " + e.what());
    }
}

const Json& object(const Json& json, const char* what) {
    if (!json.is_object()) throw Error(std::string(what) + " must be an object in braces.");
    return json;
}

/// Reads the described parameters of `target` out of `json`; hands back what else was there.
Json read_parameters(void* target, std::span<const Parameter> parameters, const Json& json,
                     std::set<std::string> taken = {}) {
    Json rest = Json::object();
    for (const auto& [key, value] : json.items()) {
        const auto p = std::find_if(parameters.begin(), parameters.end(),
                                    [&](const Parameter& q) { return q.id == key; });
        if (p != parameters.end())
            p->set(target, value_from_json(*p, value));
        else if (!taken.contains(key))
            rest[key] = value;
    }
    return rest;
}

void write_parameters(const void* from, std::span<const Parameter> parameters, Json& json) {
    for (const Parameter& p : parameters) json[std::string(p.id)] = to_json(p.get(from));
}

void write_rest(const Json& rest, Json& json) {
    if (rest.is_object())
        for (const auto& [key, value] : rest.items()) json[key] = value;
}

/// Parameters of a described thing; `taken`: members its owner reads itself.
Described read_described(const Kind& kind, const Json& json, std::set<std::string> taken, Json& rest) {
    Described out(kind);
    rest = Json::object();
    taken.insert("kind");
    for (const auto& [key, value] : json.items()) {
        if (const Parameter* p = kind.find(key))
            out = out.with(*p, value_from_json(*p, value));
        else if (!taken.contains(key))
            rest[key] = value;
    }
    return out;
}

std::string kind_of(const Json& json, const char* what) {
    object(json, what);
    if (!json.contains("kind") || !json["kind"].is_string())
        throw Error(std::string(what) + " needs a \"kind\".");
    return json["kind"].get<std::string>();
}

Error unknown_kind(const char* what, const std::string& kind) {
    return Error("This version of Bathylux knows no " + std::string(what) + " of kind " + shown(kind) + ".");
}

std::string string_member(const Json& json, const char* key) {
    if (!json.contains(key)) return {};
    if (!json[key].is_string()) throw Error(shown(key) + " takes text.");
    return json[key].get<std::string>();
}

bool bool_member(const Json& json, const char* key, bool otherwise) {
    if (!json.contains(key)) return otherwise;
    if (!json[key].is_boolean()) throw Error(shown(key) + " takes true or false.");
    return json[key].get<bool>();
}

float coordinate(const Json& json, const char* what) {
    if (!json.is_number() || !std::isfinite(json.get<double>()) || std::abs(json.get<double>()) > 1e6)
        throw Error(std::string(what) + " takes numbers between -1000000 and 1000000.");
    return json.get<float>();
}

Canvas canvas_from_json(const Json& json) {
    object(json, "The canvas");
    Canvas out;
    for (const char* side : {"width", "height"}) {
        if (!json.contains(side)) throw Error("The canvas needs a width and a height.");
        const Json& v = json[side];
        if (!v.is_number() || v.get<double>() != std::round(v.get<double>()) || v.get<double>() < 1 ||
            v.get<double>() > most_canvas_side)
            throw Error("The canvas's " + std::string(side) + " must be a whole number from 1 to " +
                        std::to_string(most_canvas_side) + ".");
    }
    out.rest = read_parameters(&out, Canvas::parameters, json, {"height_range", "edge"});
    if (json.contains("height_range") && json["height_range"] != "auto") {
        const Json& r = json["height_range"];
        if (!r.is_array() || r.size() != 2) throw Error("\"height_range\" takes \"auto\" or [low, high].");
        out.height_range = {coordinate(r[0], "\"height_range\""), coordinate(r[1], "\"height_range\"")};
        if (out.height_range->first >= out.height_range->second)
            throw Error("\"height_range\" must rise from low to high.");
    }
    const std::string edge = string_member(json, "edge");
    if (edge == "repeat")
        out.edge = Edge::repeat;
    else if (!edge.empty() && edge != "clamp")
        throw Error("The canvas's \"edge\" takes clamp or repeat, not " + shown(edge) + ".");
    return out;
}

Json to_json(const Canvas& c) {
    Json out = Json::object();
    write_parameters(&c, Canvas::parameters, out);
    if (c.height_range)
        out["height_range"] = {to_json(Value(double(c.height_range->first))),
                               to_json(Value(double(c.height_range->second)))};
    if (c.edge == Edge::repeat) out["edge"] = "repeat";
    write_rest(c.rest, out);
    return out;
}

MapRef map_from_json(const Json& json, const char* what) {
    MapRef out;
    out.rest = read_parameters(&out, MapRef::parameters, object(json, what));
    if (out.element.empty()) throw Error(std::string(what) + " names no \"element\".");
    return out;
}

Json to_json(const MapRef& map) {
    Json out = Json::object();
    write_parameters(&map, MapRef::parameters, out);
    write_rest(map.rest, out);
    return out;
}

} // namespace

Surface surface_from_json(const Json& json, const char* what) {
    Surface out;
    out.rest = read_parameters(&out, Surface::parameters, object(json, what), {"maps"});
    if (!json.contains("maps")) return out;
    for (const auto& [key, value] : object(json["maps"], "A surface's \"maps\"").items()) {
        const bool known =
            std::any_of(Surface::parameters.begin(), Surface::parameters.end(),
                        [&](const Parameter& p) { return p.id == key && p.type == Parameter::Type::number; });
        if (!known) throw Error("a surface has nothing called " + shown(key) + " that a map could drive.");
        SurfaceMap m{key, 0, map_from_json(value, "A surface's map")};
        if (value.contains("black")) {
            m.black = std::clamp(coordinate(value["black"], "\"black\""), 0.0f, 1.0f);
            m.map->rest.erase("black");
        }
        out.maps.push_back(std::move(m));
    }
    return out;
}

Json to_json(const Surface& s) {
    Json out = Json::object();
    write_parameters(&s, Surface::parameters, out);
    Json maps = Json::object();
    for (const SurfaceMap& m : s.maps)
        if (m.map) {
            maps[m.parameter] = to_json(*m.map);
            maps[m.parameter]["black"] = to_json(Value(double(m.black)));
        }
    if (!maps.empty()) out["maps"] = maps;
    write_rest(s.rest, out);
    return out;
}

Step step_from_json(const Json& json) {
    const std::string kind = kind_of(json, "A step");
    const StepKind* k = find_step_kind(kind);
    if (!k) throw unknown_kind("step", kind);
    return within("step " + shown(kind), [&] {
        Step out;
        out.id = string_member(json, "id");
        out.on = bool_member(json, "on", true);
        out.what = read_described(*k, json, {"id", "on", "map"}, out.rest);
        if (json.contains("map")) out.map = map_from_json(json["map"], "A step's \"map\"");
        return out;
    });
}

Json to_json(const Step& step) {
    Json out = Json::object();
    out["kind"] = step.what.kind().id;
    if (!step.id.empty()) out["id"] = step.id;
    if (!step.on) out["on"] = false;
    write_parameters(step.what.data(), step.what.kind().parameters, out);
    if (step.map) out["map"] = to_json(*step.map);
    write_rest(step.rest, out);
    return out;
}

Element element_from_json(const Json& json, const Canvas& canvas) {
    object(json, "An element");
    Element out;
    out.id = string_member(json, "id");
    out.name = string_member(json, "name");
    const std::string called = !out.id.empty() ? out.id : out.name;
    return within("Element " + shown(called), [&] {
        if (!json.contains("source")) throw Error("it has no \"source\".");
        const std::string kind = kind_of(json["source"], "A source");
        const Kind* source = find_source_kind(kind);
        if (!source) throw unknown_kind("source", kind);
        out.source = read_described(*source, json["source"], {}, out.source_rest);

        out.placement.x = canvas.width / 2;
        out.placement.y = canvas.height / 2;
        if (json.contains("placement"))
            out.placement.rest = read_parameters(&out.placement, Placement::parameters,
                                                 object(json["placement"], "The placement"));
        if (json.contains("mix")) {
            const Json& mix = object(json["mix"], "The mixing");
            out.mix.rest = read_parameters(&out.mix, Mix::parameters, mix, {"mask"});
            if (mix.contains("mask") && !mix["mask"].is_null())
                out.mix.mask = map_from_json(mix["mask"], "A \"mask\"");
        }
        if (json.contains("surface")) {
            out.surface = surface_from_json(json["surface"], "The surface");
        }
        if (json.contains("steps")) {
            if (!json["steps"].is_array()) throw Error("\"steps\" takes a list.");
            if (json["steps"].size() > most_steps)
                throw Error("it has more than " + std::to_string(most_steps) + " steps.");
            for (const Json& s : json["steps"]) out.steps.push_back(step_from_json(s));
        }
        if (json.contains("elements")) {
            if (!out.is_group()) throw Error("only a group has elements of its own.");
            if (!json["elements"].is_array()) throw Error("\"elements\" takes a list.");
            for (const Json& e : json["elements"]) out.elements.push_back(element_from_json(e, canvas));
        }
        out.rest = Json::object();
        static const std::set<std::string> known{"id",  "name",    "source", "placement",
                                                 "mix", "surface", "steps",  "elements"};
        for (const auto& [key, value] : json.items())
            if (!known.contains(key)) out.rest[key] = value;
        return out;
    });
}

Json to_json(const Element& e) {
    Json out = Json::object();
    out["id"] = e.id;
    if (!e.name.empty()) out["name"] = e.name;
    Json source = Json::object();
    source["kind"] = e.source.kind().id;
    write_parameters(e.source.data(), e.source.kind().parameters, source);
    write_rest(e.source_rest, source);
    out["source"] = source;
    Json placement = Json::object(), mix = Json::object();
    write_parameters(&e.placement, Placement::parameters, placement);
    write_rest(e.placement.rest, placement);
    out["placement"] = placement;
    write_parameters(&e.mix, Mix::parameters, mix);
    if (e.mix.mask) mix["mask"] = to_json(*e.mix.mask);
    write_rest(e.mix.rest, mix);
    out["mix"] = mix;
    if (e.surface) {
        out["surface"] = to_json(*e.surface);
    }
    out["steps"] = Json::array();
    for (const Step& s : e.steps) out["steps"].push_back(to_json(s));
    if (e.is_group()) {
        out["elements"] = Json::array();
        for (const Element& c : e.elements) out["elements"].push_back(to_json(c));
    }
    write_rest(e.rest, out);
    return out;
}

Light light_from_json(const Json& json) {
    const std::string kind = kind_of(json, "A light");
    const Kind* k = find_light_kind(kind);
    if (!k) throw unknown_kind("light", kind);
    return within("Light " + shown(string_member(json, "id")), [&] {
        Light out;
        out.id = string_member(json, "id");
        out.name = string_member(json, "name");
        out.on = bool_member(json, "on", true);
        out.alone = bool_member(json, "alone", false);
        out.tied = string_member(json, "tied");
        out.what = read_described(*k, json, {"id", "name", "on", "alone", "tied"}, out.rest);
        // A panorama that is named is what the sky shows.
        if (const auto* sky = out.what.as<SkyLight>(); sky && !sky->file.empty() && !json.contains("scene"))
            out.what = out.what.with("scene", std::string("file"));
        return out;
    });
}

Json to_json(const Light& light) {
    Json out = Json::object();
    out["id"] = light.id;
    if (!light.name.empty()) out["name"] = light.name;
    out["kind"] = light.what.kind().id;
    if (!light.on) out["on"] = false;
    if (light.alone) out["alone"] = true;
    if (!light.tied.empty()) out["tied"] = light.tied;
    write_parameters(light.what.data(), light.what.kind().parameters, out);
    write_rest(light.rest, out);
    return out;
}

namespace {

std::vector<Light> lights_from_json(const Json& json) {
    std::vector<Light> out;
    if (!json.contains("lights")) return out;
    if (!json["lights"].is_array()) throw Error("\"lights\" takes a list.");
    if (json["lights"].size() > most_lights)
        throw Error("The piece has more than " + std::to_string(most_lights) + " lights.");
    for (const Json& l : json["lights"]) out.push_back(light_from_json(l));
    return out;
}

Take take_from_json(const Json& json) {
    Take out;
    out.id = string_member(object(json, "A take"), "id");
    out.name = string_member(json, "name");
    if (out.id.empty()) throw Error("A take needs an \"id\".");
    return within("Take " + shown(out.id), [&] {
        out.lights = lights_from_json(json);
        if (json.contains("ambient"))
            out.ambient.rest = read_parameters(&out.ambient, Ambient::parameters,
                                               object(json["ambient"], "The ambient light"));
        if (json.contains("exposure"))
            out.exposure = std::clamp(coordinate(json["exposure"], "\"exposure\""), -20.0f, 20.0f);
        out.keep_flat_color = bool_member(json, "keep_flat_color", false);
        out.rest = Json::object();
        static const std::set<std::string> known{"id",      "name",     "lights",
                                                 "ambient", "exposure", "keep_flat_color"};
        for (const auto& [key, value] : json.items())
            if (!known.contains(key)) out.rest[key] = value;
        return out;
    });
}

} // namespace

Piece piece_from_json(const Json& json) {
    object(json, "The piece");
    if (!json.contains("bathylux") || !json["bathylux"].is_number_integer() ||
        json["bathylux"].get<std::int64_t>() < 1)
        throw Error("This is not a Bathylux piece: it does not start with \"bathylux\" and a version.");
    Piece out;
    out.newer = json["bathylux"].get<std::int64_t>() > format_version;
    if (!json.contains("canvas")) throw Error("The piece has no canvas.");
    out.canvas = canvas_from_json(json["canvas"]);
    if (json.contains("elements")) {
        if (!json["elements"].is_array()) throw Error("\"elements\" takes a list.");
        for (const Json& e : json["elements"]) out.elements.push_back(element_from_json(e, out.canvas));
    }
    if (json.contains("surface")) out.surface = surface_from_json(json["surface"], "The surface");
    out.lights = lights_from_json(json);
    if (json.contains("ambient"))
        out.ambient.rest =
            read_parameters(&out.ambient, Ambient::parameters, object(json["ambient"], "The ambient light"));
    if (json.contains("takes")) {
        if (!json["takes"].is_array() || json["takes"].size() > most_takes)
            throw Error("\"takes\" takes a list of at most " + std::to_string(most_takes) + ".");
        for (const Json& t : json["takes"]) out.takes.push_back(take_from_json(t));
        out.take = string_member(json, "take");
        if (!out.takes.empty() &&
            std::none_of(out.takes.begin(), out.takes.end(), [&](const Take& t) { return t.id == out.take; }))
            throw Error("\"take\" names no take of the piece: " + shown(out.take) + ".");
    }
    if (json.contains("finish")) {
        if (!json["finish"].is_array()) throw Error("\"finish\" takes a list.");
        for (const Json& f : json["finish"]) throw unknown_kind("finish", kind_of(f, "A finish"));
    }
    if (json.contains("section")) {
        const Json& s = json["section"];
        if (!s.is_array() || s.size() != 4) throw Error("\"section\" takes [x, y, x, y].");
        out.section = SectionLine{{coordinate(s[0], "\"section\""), coordinate(s[1], "\"section\"")},
                                  {coordinate(s[2], "\"section\""), coordinate(s[3], "\"section\"")}};
    }
    if (json.contains("guides")) {
        const Json& g = object(json["guides"], "\"guides\"");
        for (const auto& [key, to] : {std::pair{"x", &out.guides_x}, {"y", &out.guides_y}})
            if (g.contains(key)) {
                if (!g[key].is_array() || g[key].size() > 1000)
                    throw Error("\"guides\" takes lists of numbers.");
                for (const Json& v : g[key]) to->push_back(coordinate(v, "\"guides\""));
            }
    }
    out.rest = read_parameters(&out, Piece::parameters, json,
                               {"bathylux", "canvas", "elements", "surface", "lights", "ambient", "finish",
                                "section", "guides", "takes", "take"});

    // Ids are how everything is found again: unique, and never empty.
    std::set<std::string> ids;
    int count = 0;
    for_each_element(out.elements, [&](const Element& e) {
        if (++count > most_elements)
            throw Error("The piece has more than " + std::to_string(most_elements) + " elements.");
        if (!e.id.empty() && !ids.insert(e.id).second)
            throw Error("Two elements have the id " + shown(e.id) + ".");
    });
    for (const Light& l : out.lights)
        if (!l.id.empty() && !ids.insert(l.id).second)
            throw Error("The id " + shown(l.id) + " is used twice.");
    std::set<std::string> takes;
    for (const Take& t : out.takes)
        if (!takes.insert(t.id).second) throw Error("Two takes have the id " + shown(t.id) + ".");
    const std::function<void(std::vector<Element>&)> name_all = [&](std::vector<Element>& list) {
        for (Element& e : list) {
            if (e.id.empty()) e.id = free_id(out, e.name.empty() ? e.source.kind().id : e.name);
            name_all(e.elements);
        }
    };
    name_all(out.elements);
    for (Light& l : out.lights)
        if (l.id.empty()) l.id = free_id(out, l.what.kind().id);
    for (Take& t : out.takes)
        for (Light& l : t.lights)
            if (l.id.empty()) l.id = free_id(out, l.what.kind().id);
    refuse_cycles(out);
    return out;
}

namespace {
Json lights_to_json(const std::vector<Light>& lights) {
    Json out = Json::array();
    for (const Light& l : lights) out.push_back(to_json(l));
    return out;
}
Json to_json(const Ambient& a) {
    Json out = Json::object();
    write_parameters(&a, Ambient::parameters, out);
    write_rest(a.rest, out);
    return out;
}
} // namespace

Json to_json(const Piece& p) {
    Json out = Json::object();
    out["bathylux"] = format_version;
    out["canvas"] = to_json(p.canvas);
    out["elements"] = Json::array();
    for (const Element& e : p.elements) out["elements"].push_back(to_json(e));
    out["surface"] = to_json(p.surface);
    out["lights"] = lights_to_json(p.lights);
    out["ambient"] = to_json(p.ambient);
    if (!p.takes.empty()) {
        out["takes"] = Json::array();
        for (const Take& t : p.takes) {
            Json take = {{"id", t.id}};
            if (!t.name.empty()) take["name"] = t.name;
            if (t.id != p.take) {
                take["lights"] = lights_to_json(t.lights);
                take["ambient"] = to_json(t.ambient);
                take["exposure"] = to_json(Value(double(t.exposure)));
                take["keep_flat_color"] = t.keep_flat_color;
            }
            write_rest(t.rest, take);
            out["takes"].push_back(take);
        }
        out["take"] = p.take;
    }
    write_parameters(&p, Piece::parameters, out);
    out["finish"] = Json::array();
    const auto number = [](double v) { return to_json(Value(v)); };
    if (p.section)
        out["section"] = {number(p.section->a.x), number(p.section->a.y), number(p.section->b.x),
                          number(p.section->b.y)};
    if (!p.guides_x.empty() || !p.guides_y.empty()) {
        Json x = Json::array(), y = Json::array();
        for (float v : p.guides_x) x.push_back(number(v));
        for (float v : p.guides_y) y.push_back(number(v));
        out["guides"] = {{"x", x}, {"y", y}};
    }
    write_rest(p.rest, out);
    return out;
}

Json parse_json(std::string_view text) {
    if (text.size() > most_json_bytes) throw Error("The piece's text is larger than 64 MiB.");
    // Depth is counted before parsing, so that no parser has to recurse into a trap.
    int depth = 0;
    bool in_string = false;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const char c = text[i];
        if (in_string) {
            if (c == '\\')
                ++i;
            else if (c == '"')
                in_string = false;
        } else if (c == '"')
            in_string = true;
        else if (c == '{' || c == '[') {
            if (++depth > most_json_depth)
                throw Error("The piece is nested more than " + std::to_string(most_json_depth) + " deep.");
        } else if (c == '}' || c == ']')
            --depth;
    }
    try {
        return Json::parse(text);
    } catch (const Json::exception& e) {
        const std::string what = e.what();
        const auto at = what.find("line ");
        const auto end = what.find(':', at == std::string::npos ? 0 : at);
        throw Error("The piece is not valid JSON" + (at == std::string::npos || end == std::string::npos
                                                         ? "."
                                                         : " (at " + what.substr(at, end - at) + ")."));
    }
}

void set_parameter(Piece& piece, const std::string& path, const std::string& text) {
    std::vector<std::string> parts;
    for (std::size_t from = 0; from <= path.size();) {
        const auto dot = std::min(path.find('.', from), path.size());
        parts.push_back(path.substr(from, dot - from));
        from = dot + 1;
    }
    const auto set = [&](void* target, std::span<const Parameter> parameters, const std::string& name) {
        for (const Parameter& p : parameters)
            if (p.id == name) return p.set(target, value_from_text(p, text));
        throw Error(shown(path) + ": there is no parameter " + shown(name) + ".");
    };
    const auto set_described = [&](Described& what, const std::string& name) {
        const Parameter* p = what.kind().find(name);
        if (!p)
            throw Error(shown(path) + ": " + std::string(what.kind().id) + " has no parameter " +
                        shown(name) + ".");
        what = what.with(*p, value_from_text(*p, text));
    };
    if (parts.size() == 1 && parts[0] == "take") {
        if (std::none_of(piece.takes.begin(), piece.takes.end(), [&](const Take& t) { return t.id == text; }))
            throw Error(shown(path) + ": there is no take " + shown(text) + ".");
        return use_take(piece, text);
    }
    if (parts.size() == 1) return set(&piece, Piece::parameters, parts[0]);
    if (parts.size() == 2) {
        if (parts[0] == "canvas") return set(&piece.canvas, Canvas::parameters, parts[1]);
        if (parts[0] == "ambient") return set(&piece.ambient, Ambient::parameters, parts[1]);
        if (parts[0] == "surface") return set(&piece.surface, Surface::parameters, parts[1]);
        for (Light& l : piece.lights)
            if (l.id == parts[0]) return set_described(l.what, parts[1]);
        throw Error(shown(path) + ": there is no light " + shown(parts[0]) + ".");
    }
    if (parts.size() == 4)
        if (Element* e = find_element(piece.elements, parts[0])) {
            std::optional<MapRef>* map = parts[1] == "mix" && parts[2] == "mask" ? &e->mix.mask : nullptr;
            for (Step& s : e->steps)
                if (!map && parts[2] == "map" && (s.id == parts[1] || s.what.kind().id == parts[1]))
                    map = &s.map;
            if (map) {
                if (!*map) map->emplace();
                set(&**map, MapRef::parameters, parts[3]);
                return refuse_cycles(piece);
            }
        }
    Element* e = parts.size() == 3 ? find_element(piece.elements, parts[0]) : nullptr;
    if (!e) throw Error(shown(path) + ": there is no element " + shown(parts[0]) + ".");
    if (parts[1] == "placement") return set(&e->placement, Placement::parameters, parts[2]);
    if (parts[1] == "mix") return set(&e->mix, Mix::parameters, parts[2]);
    if (parts[1] == "surface") {
        if (!e->surface) e->surface = piece.surface;
        return set(&*e->surface, Surface::parameters, parts[2]);
    }
    if (parts[1] == "source") return set_described(e->source, parts[2]);
    for (const bool by_id : {true, false})
        for (Step& s : e->steps)
            if (by_id ? s.id == parts[1] : s.what.kind().id == parts[1]) {
                if (parts[2] == "on" && (text == "true" || text == "false")) {
                    s.on = text == "true";
                    return;
                }
                return set_described(s.what, parts[2]);
            }
    throw Error(shown(path) + ": element " + shown(parts[0]) + " has no step " + shown(parts[1]) + ".");
}

namespace {

Json describe_parameter(const Parameter& p, const void* defaults) {
    static constexpr const char* types[] = {"number", "whole", "toggle",  "choice",  "text", "file",
                                            "font",   "color", "profile", "numbers", "files"};
    static constexpr const char* units[] = {"", "px", "degrees", "ratio", "stops"};
    Json out = {{"id", p.id}, {"name", p.name}, {"type", types[static_cast<int>(p.type)]}, {"help", p.help}};
    if (p.type == Parameter::Type::number || p.type == Parameter::Type::whole) {
        out["unit"] = units[static_cast<int>(p.unit)];
        out["range"] = {p.range.low, p.range.high};
        if (std::isfinite(p.range.floor)) out["least"] = p.range.floor;
        if (std::isfinite(p.range.ceiling)) out["most"] = p.range.ceiling;
    }
    if (!p.choices.empty()) out["choices"] = std::vector<std::string>(p.choices.begin(), p.choices.end());
    out["default"] = to_json(p.get(defaults));
    return out;
}

Json describe_kind(const Kind& kind) {
    const auto defaults = kind.make();
    Json out = {{"kind", kind.id}, {"name", kind.name}, {"help", kind.help}, {"parameters", Json::array()}};
    for (const Parameter& p : kind.parameters)
        out["parameters"].push_back(describe_parameter(p, defaults.get()));
    return out;
}

} // namespace

Json describe_everything() {
    Json out = {{"bathylux", format_version},
                {"sources", Json::array()},
                {"steps", Json::array()},
                {"lights", Json::array()},
                {"finish", Json::array()}};
    for (const Kind& k : source_kinds()) out["sources"].push_back(describe_kind(k));
    for (const StepKind& k : step_kinds()) {
        Json step = describe_kind(k);
        step["group"] = k.group;
        out["steps"].push_back(step);
    }
    for (const Kind& k : light_kinds()) out["lights"].push_back(describe_kind(k));
    out["element"] = Json::object();
    for (const Kind& k : {describe<Placement>(), describe<Mix>(), describe<MapRef>(), describe<Surface>()})
        out["element"][std::string(k.id)] = describe_kind(k)["parameters"];
    out["piece"] = Json::object();
    for (const Kind& k : {describe<Canvas>(), describe<Surface>(), describe<Ambient>(), describe<Piece>()})
        out["piece"][std::string(k.id)] = describe_kind(k)["parameters"];
    return out;
}

} // namespace bathylux
