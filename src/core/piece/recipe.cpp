#include "core/piece/recipe.h"

#include <algorithm>
#include <set>

#include "core/piece/codec.h"
#include "core/piece/json.h"

namespace bathylux {

using namespace json;

namespace {

Steps steps_from_json(const Json& list, bool finish) {
    if (!list.is_array() || list.size() > most_steps)
        throw Error(std::string(finish ? "\"finish\"" : "\"steps\"") + " takes a list of at most " +
                    std::to_string(most_steps) + " steps.");
    Steps out;
    for (const Json& s : list) {
        Step step = step_from_json(s, finish);
        if (step.id.empty() || find_step(out, step.id)) step.id = free_step_id(out, step.what.kind().id);
        out.emplace_back(std::move(step));
    }
    return out;
}

Json list_of(const Steps& steps) {
    Json out = Json::array();
    for (const Step& s : steps) out.push_back(to_json(s));
    return out;
}

double side_from_json(const Json& v) {
    if (!v.is_number() || !(v.get<double>() >= 0 && v.get<double>() <= 1e6))
        throw Error("\"size\" takes px: a number, or [width, height].");
    return v.get<double>();
}

/// An element that only has steps, surface and mixing: what of a recipe reads others.
Element carrier(const Recipe& r) {
    Element e;
    e.source = Described(source_kind("group"));
    if (r.steps) e.steps = *r.steps;
    if (r.surface) e.surface = r.surface;
    if (r.mix) e.mix = *r.mix;
    return e;
}

Element finish_of(const Recipe& r) {
    Element e;
    e.source = Described(source_kind("group"));
    if (r.finish) e.steps = *r.finish;
    return e;
}

Recipe read_recipe(const Json& all) {
    object(all, "A recipe");
    if (!all.contains("bathylux_recipe") || !all["bathylux_recipe"].is_number_integer())
        throw Error("it is not a recipe: it does not start with \"bathylux_recipe\" and a version.");
    if (all["bathylux_recipe"].get<std::int64_t>() > recipe_version)
        throw Error("it was made by a newer version of Bathylux: update this one to use it.");
    Recipe out;
    out.name = string_member(all, "name");
    if (all.contains("size")) {
        const Json& size = all["size"];
        if (size.is_array() && size.size() == 2)
            out.width = side_from_json(size[0]), out.height = side_from_json(size[1]);
        else
            out.width = out.height = side_from_json(size);
    }
    Canvas nowhere; // places that are not stated are set where it is poured
    nowhere.width = nowhere.height = 0;
    if (all.contains("centre")) {
        const Json& c = all["centre"];
        if (!c.is_array() || c.size() != 2) throw Error("\"centre\" takes [x, y].");
        out.centre = Vec2{coordinate(c[0], "\"centre\""), coordinate(c[1], "\"centre\"")};
    }
    if (all.contains("steps")) out.steps = steps_from_json(all["steps"], false);
    if (all.contains("surface")) out.surface = surface_from_json(all["surface"], "The surface");
    if (all.contains("mix")) {
        // As an element has it.
        out.mix = element_from_json(Json{{"source", {{"kind", "group"}}}, {"mix", all["mix"]}}, nowhere).mix;
    }
    if (all.contains("elements")) {
        if (!all["elements"].is_array() || all["elements"].size() > most_elements)
            throw Error("\"elements\" takes a list of at most " + std::to_string(most_elements) + ".");
        for (const Json& e : all["elements"]) {
            out.elements.push_back(element_from_json(e, nowhere));
            if (out.elements.back().id.empty())
                throw Error("an element of it has no \"id\", so that nothing can read it.");
        }
    }
    if (all.contains("lights")) {
        if (!all["lights"].is_array() || all["lights"].size() > most_lights)
            throw Error("\"lights\" takes a list of at most " + std::to_string(most_lights) + ".");
        out.lights.emplace();
        for (const Json& l : all["lights"]) out.lights->emplace_back(light_from_json(l));
    }
    if (all.contains("ambient")) {
        out.ambient.emplace();
        out.ambient->rest =
            read_parameters(&*out.ambient, Ambient::parameters, object(all["ambient"], "The ambient light"),
                            {}, &out.ambient->motions);
    }
    if (all.contains("finish")) out.finish = steps_from_json(all["finish"], true);
    if (all.contains("files"))
        for (const auto& [name, data] : object(all["files"], "\"files\"").items()) {
            if (!data.is_string()) throw Error("\"files\" takes base64 text by name.");
            out.files[name] = data.get<std::string>();
        }
    out.rest = rest_of(all, {"bathylux_recipe", "name", "size", "centre", "steps", "surface", "mix",
                             "elements", "lights", "ambient", "finish", "files"});
    // Everything that is read is there.
    std::set<std::string> there;
    for_each_element({out.elements.begin(), out.elements.end()},
                     [&](const Element& e) { there.insert(e.id); });
    const auto look = [&](const Element& e) {
        for (const std::string& id : read_by(e))
            if (!there.contains(id))
                throw Error("it reads an element " + in_quotes(id) + " that it does not bring along.");
    };
    look(carrier(out));
    for_each_element({out.elements.begin(), out.elements.end()}, look);
    return out;
}

} // namespace

Recipe recipe_from_text(std::string_view text) {
    try {
        return read_recipe(parse_json(text));
    } catch (const Json::exception&) {
        throw Error("it is no JSON that can be read.");
    }
}

std::string text_of(const Recipe& r) {
    Json out = {{"bathylux_recipe", recipe_version}, {"name", r.name}};
    const auto number = [](double v) { return to_json(Value(v)); };
    if (r.width > 0 && r.height > 0) out["size"] = {number(r.width), number(r.height)};
    if (r.centre) out["centre"] = {number(r.centre->x), number(r.centre->y)};
    if (r.steps) out["steps"] = list_of(*r.steps);
    if (r.surface) out["surface"] = to_json(*r.surface);
    if (r.mix) {
        Element e = carrier(r);
        out["mix"] = to_json(e)["mix"];
    }
    if (!r.elements.empty()) {
        out["elements"] = Json::array();
        for (const Element& e : r.elements) out["elements"].push_back(to_json(e));
    }
    if (r.lights) {
        out["lights"] = Json::array();
        for (const Light& l : *r.lights) out["lights"].push_back(to_json(l));
    }
    if (r.ambient) {
        Json ambient = Json::object();
        write_parameters(&*r.ambient, Ambient::parameters, ambient, r.ambient->motions);
        write_rest(r.ambient->rest, ambient);
        out["ambient"] = ambient;
    }
    if (r.finish) out["finish"] = list_of(*r.finish);
    if (!r.files.empty()) out["files"] = r.files;
    write_rest(r.rest, out);
    return text(out, true) + "\n";
}

namespace {

/// Whether the element of that id is clipped to anything.
bool clips(const Elements& list, std::string_view id) {
    for (std::size_t i = 0; i < list.size(); ++i)
        if (list[i]->id == id) return clipped_to(list, i) >= 0;
    return false;
}

/// An element as it lies on the canvas, taken out of the groups it lies in, as far as that can be.
Element taken_out(Piece piece, const std::string& id) {
    try {
        for (std::string in = group_of(piece, id); !in.empty(); in = group_of(piece, id)) ungroup(piece, in);
    } catch (const Error&) {
        // One that is stretched askew, or moves, cannot be taken apart: places within it are kept.
    }
    return *find_element(piece.elements, id);
}

} // namespace

Recipe kept_recipe(const Piece& piece, std::string_view id, const Keep& keep) {
    const Element* e = find_element(piece.elements, id);
    if (!e) throw Error("There is no element " + in_quotes(id) + ".");
    Recipe out;
    out.name = e->name;
    const Placement on_canvas = taken_out(piece, std::string(id)).placement;
    out.centre = Vec2{on_canvas.x, on_canvas.y};
    out.steps.emplace();
    for (const auto& s : e->steps)
        if (keep.steps.empty() || std::find(keep.steps.begin(), keep.steps.end(), s->id) != keep.steps.end())
            out.steps->push_back(s);
    if (keep.surface) out.surface = e->surface ? *e->surface : piece.surface;
    if (keep.mix) {
        out.mix = e->mix;
        if (!clips(*find_siblings(piece, id), id)) out.mix->clip = false;
    }
    if (keep.lights) out.lights = piece.lights, out.ambient = piece.ambient;
    if (keep.finish) out.finish = piece.finish;

    // What is read, and what that reads; the element itself, read by its own id, is itself.
    std::set<std::string> wanted;
    const std::function<void(const Element&)> gather = [&](const Element& reader) {
        for (const std::string& read : read_by(reader)) {
            const Element* found = find_element(piece.elements, read);
            if (!found || read == id || !wanted.insert(read).second) continue;
            for_each_element({*found}, gather);
        }
    };
    gather(carrier(out));
    if (out.finish) gather(finish_of(out));
    // In the order they lie in, each once: not again where a group that comes along has it.
    const std::function<void(const Elements&)> take = [&](const Elements& list) {
        for (const Element& c : list) {
            if (wanted.contains(c.id))
                out.elements.push_back(taken_out(piece, c.id));
            else
                take(c.elements);
        }
    };
    take(piece.elements);
    // It names nothing that it does not bring along: what was taken away since, or is switched off.
    std::set<std::string> comes;
    for_each_element({out.elements.begin(), out.elements.end()},
                     [&](const Element& e) { comes.insert(e.id); });
    const auto forget = [&](Element& e) {
        forget_lost(e, [&](const std::string& read) { return comes.contains(read); });
    };
    for (Element& e : out.elements) e.mix.visible = false, forget(e);
    Element parts = carrier(out);
    forget(parts);
    out.steps = parts.steps;
    if (out.surface) out.surface = parts.surface;
    if (out.mix) out.mix = parts.mix;
    if (out.finish) {
        Element finish = finish_of(out);
        forget(finish);
        out.finish = finish.steps;
    }
    return out;
}

double fitting_factor(const Recipe& r, double width, double height) {
    const double was = std::min(r.width, r.height), is = std::min(width, height);
    return was > 0 && is > 0 ? is / was : 1;
}

void pour(Piece& piece, std::string_view id, const Recipe& recipe, const Pour& how) {
    if (!find_element(piece.elements, id)) throw Error("There is no element " + in_quotes(id) + ".");
    std::vector<Element> brought = recipe.elements;
    for (Element& e : brought) {
        e.mix.visible = false;
        const Vec2 middle{piece.canvas.width / 2.0, piece.canvas.height / 2.0};
        const bool stated = e.placement.x != 0 || e.placement.y != 0;
        Vec2 to{e.placement.x, e.placement.y};
        if (recipe.centre && how.centre)
            to = *how.centre + how.factor * (to - *recipe.centre);
        else if (!stated)
            to = how.centre.value_or(middle);
        e.placement.x = static_cast<float>(to.x), e.placement.y = static_cast<float>(to.y);
        scale_element(e, how.factor);
    }
    // What was clipped with nothing behind it was not clipped at all.
    for (auto& e : piece.elements) {
        if (!e->mix.clip) break;
        e = e.with([](Element& first) { first.mix.clip = false; });
    }
    const Ids ids = add_elements(piece, brought);
    // Behind everything.
    std::rotate(piece.elements.begin(), piece.elements.end() - static_cast<std::ptrdiff_t>(ids.size()),
                piece.elements.end());
    std::map<std::string, std::string> now;
    for (std::size_t i = 0; i < ids.size(); ++i) {
        now[recipe.elements[i].id] = ids[i];
        // What a group that comes along holds has new ids, too.
        const Element* made = find_element(piece.elements, ids[i]);
        std::vector<std::string> before, after;
        for_each_element(recipe.elements[i].elements, [&](const Element& c) { before.push_back(c.id); });
        for_each_element(made->elements, [&](const Element& c) { after.push_back(c.id); });
        for (std::size_t k = 0; k < before.size(); ++k) now[before[k]] = after[k];
    }
    const auto renamed = [&](const std::string& old) {
        const auto found = now.find(old);
        return found == now.end() ? old : found->second;
    };
    Element parts = carrier(recipe);
    scale_element(parts, how.factor);
    rename_references(parts, renamed);
    change(piece, id, [&](Element& e) {
        if (recipe.steps) {
            if (!how.add) e.steps.clear();
            for (const Step& s : parts.steps) add_step(e, s);
        }
        if (recipe.surface) e.surface = parts.surface;
        if (recipe.mix) {
            const bool visible = e.mix.visible;
            e.mix = parts.mix;
            e.mix.visible = visible;
        }
    });
    Lights lights = recipe.lights.value_or(Lights{});
    Ambient ambient = recipe.ambient.value_or(Ambient{});
    const bool about = recipe.centre && how.centre;
    lay_lights(lights, ambient, how.factor, about ? *recipe.centre : Vec2{}, about ? *how.centre : Vec2{});
    if (recipe.lights) {
        piece.lights.clear();
        for (Light l : lights) {
            l.id = free_id(piece, l.id.empty() ? l.kind().wish : l.id);
            // What it was tied to stayed behind.
            l.tied = now.contains(l.tied) ? now[l.tied] : std::string();
            piece.lights.emplace_back(std::move(l));
        }
    }
    if (recipe.ambient) piece.ambient = ambient;
    if (recipe.finish) {
        Element finish = finish_of(recipe);
        scale_element(finish, how.factor);
        rename_references(finish, renamed);
        piece.finish = finish.steps;
    }
}

void rename_recipe_files(Recipe& r, const std::function<std::string(const std::string&)>& rename) {
    const auto in = [&](Element& e) {
        rename_files(e, rename);
        for (const StrokesFile& s : strokes_of(e)) rename_strokes(e, s.name, rename(s.name));
    };
    for (Element& e : r.elements) {
        in(e);
        change_all(e.elements, in);
    }
    Element parts = carrier(r);
    in(parts);
    if (r.steps) r.steps = parts.steps;
    std::map<std::string, std::string> files;
    for (auto& [name, data] : r.files) files[rename(name)] = std::move(data);
    r.files = std::move(files);
}

} // namespace bathylux
