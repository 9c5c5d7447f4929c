#include "core/piece/codec.h"

#include <algorithm>
#include <set>

#include "core/piece/json.h"
#include "core/piece/pose.h"
#include "core/piece/references.h"

namespace bathylux {

namespace json {

const Json& object(const Json& json, const char* what) {
    if (!json.is_object()) throw Error(std::string(what) + " must be an object in braces.");
    return json;
}

Rest rest_of(const Json& json, const std::set<std::string>& taken) {
    Json rest = Json::object();
    for (const auto& [key, value] : json.items())
        if (!taken.contains(key)) rest[key] = value;
    return rest.empty() ? Rest() : text(rest);
}

Rest read_parameters(void* target, std::span<const Parameter> parameters, const Json& json,
                     const std::set<std::string>& taken, Motions* motions) {
    std::set<std::string> known = taken;
    for (const Parameter& p : parameters)
        if (const auto found = json.find(p.id); found != json.end()) {
            if (auto motion = motion_from_json(p, *found); motion && motions)
                motions->insert_or_assign(std::string(p.id), std::move(*motion));
            else
                p.set(target, value_from_json(p, *found));
            known.insert(std::string(p.id));
        }
    return rest_of(json, known);
}

void write_parameters(const void* from, std::span<const Parameter> parameters, Json& json,
                      const Motions& motions) {
    for (const Parameter& p : parameters)
        if (const auto moves = motions.find(p.id); moves != motions.end())
            json[std::string(p.id)] = to_json(moves->second);
        else if (Json value = to_json(p.get(from)); !value.is_null())
            json[std::string(p.id)] = std::move(value);
}

void write_rest(const Rest& rest, Json& json) {
    if (rest.empty()) return;
    const Json members = Json::parse(rest, nullptr, false);
    if (members.is_object())
        for (const auto& [key, value] : members.items()) json[key] = value;
}

std::string text(const Json& json, bool pretty) {
    return json.dump(pretty ? 2 : -1, ' ', false, Json::error_handler_t::replace);
}

std::string kind_of(const Json& json, const char* what) {
    object(json, what);
    if (!json.contains("kind") || !json["kind"].is_string())
        throw Error(std::string(what) + " needs a \"kind\".");
    return json["kind"].get<std::string>();
}

Error unknown_kind(const char* what, const std::string& kind) {
    return Error("This version of Bathylux knows no " + std::string(what) + " of kind " + in_quotes(kind) +
                 ".");
}

std::string string_member(const Json& json, const char* key) {
    if (!json.contains(key)) return {};
    if (!json[key].is_string()) throw Error(in_quotes(key) + " takes text.");
    return json[key].get<std::string>();
}

bool bool_member(const Json& json, const char* key, bool otherwise) {
    if (!json.contains(key)) return otherwise;
    if (!json[key].is_boolean()) throw Error(in_quotes(key) + " takes true or false.");
    return json[key].get<bool>();
}

float coordinate(const Json& json, const char* what) {
    if (!json.is_number() || !std::isfinite(json.get<double>()) || std::abs(json.get<double>()) > 1e6)
        throw Error(std::string(what) + " takes numbers between -1000000 and 1000000.");
    return json.get<float>();
}

} // namespace json

using namespace json;

namespace {

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
        throw Error("The canvas's \"edge\" takes clamp or repeat, not " + in_quotes(edge) + ".");
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
    if (json.contains("lights")) {
        if (!json["lights"].is_array()) throw Error("\"lights\" takes a list.");
        if (json["lights"].size() > most_lights)
            throw Error("The piece has more than " + std::to_string(most_lights) + " lights.");
        for (const Json& l : json["lights"]) out.lights.emplace_back(light_from_json(l));
    }
    if (json.contains("ambient"))
        out.ambient.rest =
            read_parameters(&out.ambient, Ambient::parameters, object(json["ambient"], "The ambient light"),
                            {}, &out.ambient.motions);
    if (json.contains("moods")) {
        if (!json["moods"].is_array() || json["moods"].size() > most_moods)
            throw Error("\"moods\" takes a list of at most " + std::to_string(most_moods) + ".");
        for (const Json& m : json["moods"]) out.moods.push_back(mood_from_json(m));
        out.mood = string_member(json, "mood");
        if (!out.moods.empty() &&
            std::none_of(out.moods.begin(), out.moods.end(), [&](const Mood& m) { return m.id == out.mood; }))
            throw Error("\"mood\" names no mood of the piece: " + in_quotes(out.mood) + ".");
    }
    if (json.contains("finish")) {
        if (!json["finish"].is_array()) throw Error("\"finish\" takes a list.");
        if (json["finish"].size() > most_steps)
            throw Error("The finish has more than " + std::to_string(most_steps) + " steps.");
        within("The finish", [&] {
            for (const Json& f : json["finish"]) {
                const Step step = step_from_json(f, true);
                if (!step.id.empty() && find_step(out.finish, step.id))
                    throw Error("two of its steps have the id " + in_quotes(step.id) + ".");
                out.finish.emplace_back(step);
            }
            for (auto& s : out.finish)
                if (s->id.empty())
                    s = s.with([&](Step& step) { step.id = free_step_id(out.finish, step.what.kind().id); });
            return 0;
        });
    }
    if (json.contains("solid") && !json["solid"].is_null())
        out.solid = within("The solid", [&] { return solid_from_json(json["solid"]); });
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
                                "section", "guides", "moods", "mood", "solid", "time"},
                               &out.motions);
    if (json.contains("time") && !json["time"].is_null()) out.time = timing_from_json(json["time"]);

    // Ids are how everything is found again: unique, and never empty.
    std::set<std::string> ids;
    int count = 0;
    for_each_element(out.elements, [&](const Element& e) {
        if (++count > most_elements)
            throw Error("The piece has more than " + std::to_string(most_elements) + " elements.");
        if (!e.id.empty() && !ids.insert(e.id).second)
            throw Error("Two elements have the id " + in_quotes(e.id) + ".");
    });
    for (const Light& l : out.lights)
        if (!l.id.empty() && !ids.insert(l.id).second)
            throw Error("The id " + in_quotes(l.id) + " is used twice.");
    std::set<std::string> moods;
    for (const Mood& m : out.moods)
        if (!moods.insert(m.id).second) throw Error("Two moods have the id " + in_quotes(m.id) + ".");
    change_all(out.elements, [&](Element& e) {
        if (!e.id.empty()) return;
        e.id = free_id(out, e.name.empty() ? e.source.kind().id : e.name);
        while (!ids.insert(e.id).second) e.id += "-2";
    });
    // The finish has that name for itself.
    if (ids.contains(std::string(finish_id))) {
        const std::string own = free_id(out, finish_id);
        ids.insert(own);
        const auto renamed = [&](const std::string& id) { return id == finish_id ? own : id; };
        change_all(out.elements, [&](Element& e) { e.id = renamed(e.id); });
        for (auto& e : out.elements) e = e.with([&](Element& top) { rename_references(top, renamed); });
        for (auto& s : out.finish)
            s = s.with([&](Step& step) {
                if (step.map) step.map->element = renamed(step.map->element);
            });
        change_all_lights(out, [&](Light& l) { l.id = renamed(l.id), l.tied = renamed(l.tied); });
    }
    change_all_lights(out, [&](Light& l) {
        if (!l.id.empty()) return;
        l.id = free_id(out, l.kind().wish);
        while (!ids.insert(l.id).second) l.id += "-2";
    });
    refuse_link_circles(out);
    return posed(out, 0);
}

Json to_json(const Piece& p) {
    Json out = Json::object();
    out["bathylux"] = format_version;
    out["canvas"] = to_json(p.canvas);
    out["elements"] = Json::array();
    for (const Element& e : p.elements) out["elements"].push_back(to_json(e));
    out["surface"] = to_json(p.surface);
    out["lights"] = Json::array();
    for (const Light& l : p.lights) out["lights"].push_back(to_json(l));
    out["ambient"] = Json::object();
    write_parameters(&p.ambient, Ambient::parameters, out["ambient"], p.ambient.motions);
    write_rest(p.ambient.rest, out["ambient"]);
    if (!p.moods.empty()) {
        out["moods"] = Json::array();
        for (const Mood& m : p.moods) out["moods"].push_back(to_json(m, m.id != p.mood));
        out["mood"] = p.mood;
    }
    write_parameters(&p, Piece::parameters, out, p.motions);
    if (p.time) out["time"] = to_json(*p.time);
    out["finish"] = Json::array();
    for (const Step& s : p.finish) out["finish"].push_back(to_json(s));
    const auto number = [](double v) { return to_json(Value(v)); };
    if (p.solid) out["solid"] = to_json(*p.solid);
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

Piece piece_from_text(std::string_view text) { return piece_from_json(parse_json(text)); }
std::string text_of(const Piece& piece) { return text(to_json(piece), true) + "\n"; }

std::string text_of(const Surface& surface) { return text(to_json(surface)); }
Surface surface_from_text(std::string_view text) { return surface_from_json(parse_json(text)); }
std::string text_of(const Mood& mood) { return text(to_json(mood, true)); }
Mood mood_from_text(std::string_view text) { return mood_from_json(parse_json(text)); }
std::string text_of(const Light& light) { return text(to_json(light)); }
std::string text_of(const Element& element) { return text(to_json(element)); }

std::string text_of(const Parts& parts) {
    Json out = Json::object();
    for (const Element& e : parts.elements) out["elements"].push_back(to_json(e));
    for (const Step& s : parts.steps) out["steps"].push_back(to_json(s));
    return text(out);
}

Parts parts_from_text(std::string_view text, const Canvas& canvas) {
    const Json json = object(parse_json(text), "What was copied");
    Parts out;
    const auto list = [&](const char* name, int most) {
        if (!json.contains(name)) return Json(Json::array());
        if (!json[name].is_array() || json[name].size() > static_cast<std::size_t>(most))
            throw Error(in_quotes(name) + " takes a list of at most " + std::to_string(most) + ".");
        return json[name];
    };
    for (const Json& e : list("elements", most_elements))
        out.elements.push_back(element_from_json(e, canvas));
    // Of either sort: who takes them in looks at what they are.
    for (const Json& s : list("steps", most_steps))
        out.steps.push_back(step_from_json(s, !find_step_kind(kind_of(s, "A step"))));
    return out;
}

std::optional<std::string> member_text(const Rest& rest, std::string_view name) {
    const Json members = rest.empty() ? Json() : Json::parse(rest, nullptr, false);
    const auto found = members.is_object() ? members.find(name) : members.end();
    if (!members.is_object() || found == members.end() || !found->is_string()) return std::nullopt;
    return found->get<std::string>();
}

} // namespace bathylux
