// How elements, steps, surfaces and lights stand in a piece file.
#include <algorithm>

#include "core/piece/codec.h"
#include "core/piece/json.h"

namespace bathylux {

using namespace json;

namespace {

/// Parameters of a described thing; `taken`: members its owner reads itself.
Described read_described(const Kind& kind, const Json& json, std::set<std::string> taken, Rest& rest,
                         Motions& motions) {
    Described out(kind);
    taken.insert("kind");
    for (const auto& [key, value] : json.items())
        if (const Parameter* p = kind.find(key)) {
            if (auto motion = motion_from_json(*p, value))
                motions.insert_or_assign(key, std::move(*motion));
            else
                out = out.with(*p, value_from_json(*p, value));
            taken.insert(key);
        }
    rest = rest_of(json, taken);
    return out;
}

} // namespace

Surface surface_from_json(const Json& json, const char* what) {
    Surface out;
    out.rest = read_parameters(&out, Surface::parameters, object(json, what), {"maps"}, &out.motions);
    if (!json.contains("maps")) return out;
    for (const auto& [key, value] : object(json["maps"], "A surface's \"maps\"").items()) {
        const bool known =
            std::any_of(Surface::parameters.begin(), Surface::parameters.end(),
                        [&](const Parameter& p) { return p.id == key && p.type == Parameter::Type::number; });
        if (!known)
            throw Error("a surface has nothing called " + in_quotes(key) + " that a map could drive.");
        SurfaceMap m{key, 0, map_from_json(value, "A surface's map", {"black"})};
        if (value.contains("black")) {
            m.black = std::clamp(coordinate(value["black"], "\"black\""), 0.0f, 1.0f);
        }
        out.maps.push_back(std::move(m));
    }
    return out;
}

Json to_json(const Surface& s) {
    Json out = Json::object();
    write_parameters(&s, Surface::parameters, out, s.motions);
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

Step step_from_json(const Json& json, bool of_finish) {
    const std::string kind = kind_of(json, of_finish ? "A step of the finish" : "A step");
    const StepKind *k = of_finish ? find_finish_kind(kind) : find_step_kind(kind),
                   *elsewhere = of_finish ? find_step_kind(kind) : find_finish_kind(kind);
    if (!k && elsewhere)
        throw Error("A step of kind " + in_quotes(kind) +
                    (of_finish ? " works on elements; it cannot be in the finish."
                               : " works on the lit picture; it belongs to the finish."));
    if (!k) throw unknown_kind(of_finish ? "finish" : "step", kind);
    return within("step " + in_quotes(kind), [&] {
        Step out;
        out.id = string_member(json, "id");
        out.on = bool_member(json, "on", true);
        out.what = read_described(*k, json, {"id", "on", "map", "share"}, out.rest, out.motions);
        if (json.contains("share"))
            read_parameters(&out, Step::parameters, {{"share", json["share"]}}, {}, &out.motions);
        if (json.contains("map")) out.map = map_from_json(json["map"], "A step's \"map\"");
        return out;
    });
}

Json to_json(const Step& step) {
    Json out = Json::object();
    out["kind"] = step.what.kind().id;
    if (!step.id.empty()) out["id"] = step.id;
    if (!step.on) out["on"] = false;
    if (step.share != 1 || step.motions.contains("share"))
        write_parameters(&step, Step::parameters, out, step.motions);
    write_parameters(step.what.data(), step.what.kind().parameters, out, step.motions);
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
    return within("Element " + in_quotes(called), [&] {
        if (!json.contains("source")) throw Error("it has no \"source\".");
        const std::string kind = kind_of(json["source"], "A source");
        const SourceKind* source = find_source_kind(kind);
        if (!source) throw unknown_kind("source", kind);
        out.source = read_described(*source, json["source"], {}, out.source_rest, out.source_motions);

        out.placement.x = canvas.width / 2;
        out.placement.y = canvas.height / 2;
        if (json.contains("placement"))
            out.placement.rest =
                read_parameters(&out.placement, Placement::parameters,
                                object(json["placement"], "The placement"), {}, &out.placement.motions);
        if (json.contains("mix")) {
            const Json& mix = object(json["mix"], "The mixing");
            out.mix.rest = read_parameters(&out.mix, Mix::parameters, mix, {"mask"}, &out.mix.motions);
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
            for (const Json& s : json["steps"]) {
                const Step step = step_from_json(s);
                if (!step.id.empty() && find_step(out.steps, step.id))
                    throw Error("two of its steps have the id " + in_quotes(step.id) + ".");
                out.steps.push_back(step);
            }
            for (auto& s : out.steps)
                if (s->id.empty())
                    s = s.with([&](Step& step) { step.id = free_step_id(out.steps, step.what.kind().id); });
        }
        if (json.contains("elements")) {
            if (!out.is_group()) throw Error("only a group has elements of its own.");
            if (!json["elements"].is_array()) throw Error("\"elements\" takes a list.");
            for (const Json& e : json["elements"]) out.elements.push_back(element_from_json(e, canvas));
        }
        out.locked = bool_member(json, "locked", false);
        out.rest = rest_of(
            json, {"id", "name", "source", "placement", "mix", "surface", "steps", "elements", "locked"});
        return out;
    });
}

Json to_json(const Element& e) {
    Json out = Json::object();
    out["id"] = e.id;
    if (!e.name.empty()) out["name"] = e.name;
    Json source = Json::object();
    source["kind"] = e.source.kind().id;
    write_parameters(e.source.data(), e.source.kind().parameters, source, e.source_motions);
    write_rest(e.source_rest, source);
    out["source"] = source;
    Json placement = Json::object(), mix = Json::object();
    write_parameters(&e.placement, Placement::parameters, placement, e.placement.motions);
    write_rest(e.placement.rest, placement);
    out["placement"] = placement;
    write_parameters(&e.mix, Mix::parameters, mix, e.mix.motions);
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
    if (e.locked) out["locked"] = true;
    write_rest(e.rest, out);
    return out;
}

Light light_from_json(const Json& json) {
    const std::string kind = kind_of(json, "A light");
    const LightKind* k = find_light_kind(kind);
    if (!k) throw unknown_kind("light", kind);
    return within("Light " + in_quotes(string_member(json, "id")), [&] {
        Light out;
        out.id = string_member(json, "id");
        out.name = string_member(json, "name");
        out.on = bool_member(json, "on", true);
        out.alone = bool_member(json, "alone", false);
        out.tied = string_member(json, "tied");
        if (const std::string stands = string_member(json, "stands"); !stands.empty()) {
            const auto at = std::find(stands_names.begin(), stands_names.end(), stands);
            if (at == stands_names.end())
                throw Error("\"stands\" takes space, body or camera, not " + in_quotes(stands) + ".");
            out.stands = static_cast<Stands>(at - stands_names.begin());
        }
        out.what =
            read_described(*k, json, {"id", "name", "on", "alone", "tied", "stands"}, out.rest, out.motions);
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
    if (light.stands != Stands::space) out["stands"] = stands_names[static_cast<std::size_t>(light.stands)];
    write_parameters(light.what.data(), light.what.kind().parameters, out, light.motions);
    write_rest(light.rest, out);
    return out;
}

Solid solid_from_json(const Json& json) {
    object(json, "The solid");
    Solid out;
    if (json.contains("surface")) out.surface = surface_from_json(json["surface"], "The body's surface");
    if (!out.surface.maps.empty()) throw Error("the body's surface takes no maps.");
    if (json.contains("camera"))
        out.camera_rest = read_parameters(&out.camera, Camera::parameters,
                                          object(json["camera"], "The camera"), {}, &out.camera_motions);
    if (json.contains("ground"))
        out.ground_rest = read_parameters(&out.ground, GroundPlane::parameters,
                                          object(json["ground"], "The ground"), {}, &out.ground_motions);
    if (json.contains("cameras")) {
        const Json& list = json["cameras"];
        if (!list.is_array() || list.size() > most_cameras)
            throw Error("\"cameras\" takes a list of at most " + std::to_string(most_cameras) + ".");
        for (const Json& c : list) {
            KeptCamera kept;
            kept.name = string_member(object(c, "A camera"), "name");
            kept.rest = read_parameters(&kept.camera, Camera::parameters, c, {"name"});
            out.cameras.push_back(std::move(kept));
        }
    }
    out.rest = read_parameters(&out.body, Body::parameters, json, {"surface", "camera", "ground", "cameras"},
                               &out.motions);
    return out;
}

Json to_json(const Solid& s) {
    Json out = Json::object();
    write_parameters(&s.body, Body::parameters, out, s.motions);
    out["surface"] = to_json(s.surface);
    out["camera"] = Json::object(), out["ground"] = Json::object();
    write_parameters(&s.camera, Camera::parameters, out["camera"], s.camera_motions);
    write_rest(s.camera_rest, out["camera"]);
    write_parameters(&s.ground, GroundPlane::parameters, out["ground"], s.ground_motions);
    write_rest(s.ground_rest, out["ground"]);
    for (const KeptCamera& c : s.cameras) {
        Json camera = {{"name", c.name}};
        write_parameters(&c.camera, Camera::parameters, camera);
        write_rest(c.rest, camera);
        out["cameras"].push_back(camera);
    }
    write_rest(s.rest, out);
    return out;
}

Mood mood_from_json(const Json& json) {
    Mood out;
    out.id = string_member(object(json, "A mood"), "id");
    out.name = string_member(json, "name");
    if (out.id.empty()) throw Error("A mood needs an \"id\".");
    return within("Mood " + in_quotes(out.id), [&] {
        if (json.contains("lights")) {
            if (!json["lights"].is_array()) throw Error("\"lights\" takes a list.");
            if (json["lights"].size() > most_lights)
                throw Error("it has more than " + std::to_string(most_lights) + " lights.");
            for (const Json& l : json["lights"]) out.lights.emplace_back(light_from_json(l));
        }
        if (json.contains("ambient"))
            out.ambient.rest =
                read_parameters(&out.ambient, Ambient::parameters,
                                object(json["ambient"], "The ambient light"), {}, &out.ambient.motions);
        if (json.contains("exposure"))
            out.exposure = std::clamp(coordinate(json["exposure"], "\"exposure\""), -20.0f, 20.0f);
        out.keep_flat_color = bool_member(json, "keep_flat_color", false);
        out.rest = rest_of(json, {"id", "name", "lights", "ambient", "exposure", "keep_flat_color"});
        return out;
    });
}

Json to_json(const Mood& m, bool whole) {
    Json out = {{"id", m.id}};
    if (!m.name.empty()) out["name"] = m.name;
    if (whole) {
        out["lights"] = Json::array();
        for (const Light& l : m.lights) out["lights"].push_back(to_json(l));
        Json ambient = Json::object();
        write_parameters(&m.ambient, Ambient::parameters, ambient, m.ambient.motions);
        write_rest(m.ambient.rest, ambient);
        out["ambient"] = ambient;
        out["exposure"] = to_json(Value(double(m.exposure)));
        out["keep_flat_color"] = m.keep_flat_color;
    }
    write_rest(m.rest, out);
    return out;
}

} // namespace bathylux
