// How single values stand in a piece file, and on a command line.
#include <algorithm>
#include <charconv>
#include <cmath>

#include "core/piece/codec.h"
#include "core/piece/json.h"

namespace bathylux {

namespace {

Error wrong(const Parameter& p, const Json& got, const std::string& takes) {
    std::string shown = got.dump(-1, ' ', false, Json::error_handler_t::replace);
    if (shown.size() > 60) shown = shown.substr(0, 57) + "…";
    return Error(in_quotes(p.id) + " takes " + takes + ", not " + shown + ".");
}

Points points_from_json(const Parameter& p, const Json& json) {
    if (!json.is_array() || json.size() < 2 || json.size() > 256)
        throw wrong(p, json, "2 to 256 points as [[0, 0], …, [1, 1]]");
    Points out;
    for (const Json& q : json) {
        if (!q.is_array() || q.size() != 2 || !q[0].is_number() || !q[1].is_number())
            throw wrong(p, q, "points as [in, up]");
        const auto x = q[0].get<float>(), y = q[1].get<float>();
        if (!std::isfinite(x) || !std::isfinite(y) || std::abs(y) > 1e6f || x < 0 || x > 1 ||
            (!out.empty() && x <= out.back().first))
            throw wrong(p, json, "points whose first number rises from 0 to 1");
        out.emplace_back(x, y);
    }
    return out;
}

Stops stops_from_json(const Parameter& p, const Json& json) {
    if (!json.is_array() || json.empty() || json.size() > most_stops)
        throw wrong(p, json, "1 to " + std::to_string(most_stops) + " stops as [[0, \"#0b2233\"], …]");
    Stops out;
    for (const Json& s : json) {
        if (!s.is_array() || s.size() != 2 || !s[0].is_number() || !s[1].is_string())
            throw wrong(p, s, "stops as [place, \"#rrggbb\"]");
        const auto at = s[0].get<float>();
        if (!(at >= 0 && at <= 1) || (!out.empty() && at <= out.back().at))
            throw wrong(p, json, "stops whose places rise from 0 to 1");
        out.push_back({at, parse_color(s[1].get<std::string>())});
    }
    return out;
}

Profile profile_from_json(const Parameter& p, const Json& json) {
    const auto takes = "one of chamfer, round, cove, ogee, step, bead or {\"points\": [[0,0], …, [1,1]]}";
    Profile out;
    if (json.is_string()) {
        for (std::size_t i = 0; i < profile_names.size(); ++i)
            if (profile_names[i] == json.get<std::string>()) {
                out.shape = static_cast<Profile::Shape>(i);
                return out;
            }
        throw wrong(p, json, takes);
    }
    if (!json.is_object() || !json.contains("points") || !json["points"].is_array())
        throw wrong(p, json, takes);
    out.shape = Profile::Shape::own;
    out.points = points_from_json(p, json["points"]);
    out.smooth = json.value("smooth", false);
    return out;
}

} // namespace

MapRef map_from_json(const Json& json, const char* what, const std::set<std::string>& taken) {
    MapRef out;
    out.rest = json::read_parameters(&out, MapRef::parameters, json::object(json, what), taken, &out.motions);
    return out;
}

Json to_json(const MapRef& map) {
    Json out = Json::object();
    json::write_parameters(&map, MapRef::parameters, out, map.motions);
    if (map.on) out.erase("on");
    json::write_rest(map.rest, out);
    return out;
}

Value value_from_json(const Parameter& p, const Json& json) {
    using Type = Parameter::Type;
    switch (p.type) {
    case Type::number:
    case Type::whole: {
        if (json.is_object() && (json.contains("keys") || json.contains("link")))
            throw Error(in_quotes(p.id) + " cannot move: it takes a number, no keys and no link.");
        if (!json.is_number()) throw wrong(p, json, "a number");
        const double n = json.get<double>();
        // Beyond this no length, angle or factor means anything, and arithmetic in floats breaks down.
        if (!std::isfinite(n) || std::abs(n) > 1e6)
            throw wrong(p, json, "a number between -1000000 and 1000000");
        if (n < p.range.floor || n > p.range.ceiling) {
            const auto shown = [](double v) { return Json(v).dump(); };
            const bool low = std::isfinite(p.range.floor), high = std::isfinite(p.range.ceiling);
            throw wrong(p, json,
                        low && high
                            ? "a number from " + shown(p.range.floor) + " to " + shown(p.range.ceiling)
                        : low ? "a number not below " + shown(p.range.floor)
                              : "a number not above " + shown(p.range.ceiling));
        }
        return held(p, n);
    }
    case Type::toggle:
        if (!json.is_boolean()) throw wrong(p, json, "true or false");
        return json.get<bool>();
    case Type::choice: {
        std::string all;
        for (auto c : p.choices) {
            if (json.is_string() && json.get<std::string>() == c) return std::string(c);
            all += (all.empty() ? "" : ", ") + std::string(c);
        }
        throw wrong(p, json, "one of " + all);
    }
    case Type::text:
    case Type::file:
    case Type::font:
    case Type::element:
        if (!json.is_string()) throw wrong(p, json, "text");
        return json.get<std::string>();
    case Type::color:
        if (!json.is_string()) throw wrong(p, json, "a colour as #rrggbb");
        return parse_color(json.get<std::string>());
    case Type::profile: return profile_from_json(p, json);
    case Type::curve: return points_from_json(p, json);
    case Type::stops: return stops_from_json(p, json);
    case Type::numbers: {
        std::vector<double> out;
        if (!json.is_array() || json.size() > 8) throw wrong(p, json, "a list of at most eight numbers");
        for (const Json& v : json) {
            if (!v.is_number() || !(std::abs(v.get<double>()) <= 1e6)) throw wrong(p, v, "numbers");
            out.push_back(v.get<double>());
        }
        return out;
    }
    case Type::map: {
        if (json.is_null()) return std::optional<MapRef>();
        if (json.is_string()) { // an element's id alone
            MapRef out;
            out.element = json.get<std::string>();
            return std::optional(out);
        }
        if (!json.is_object()) throw wrong(p, json, "a map as {\"element\": id, \"of\": \"tone\"}");
        return std::optional(map_from_json(json, "A map"));
    }
    case Type::files: {
        std::vector<std::string> out;
        if (!json.is_array() || json.size() > 4096) throw wrong(p, json, "a list of file names");
        for (const Json& v : json) {
            if (!v.is_string()) throw wrong(p, v, "file names");
            out.push_back(v.get<std::string>());
        }
        return out;
    }
    }
    throw wrong(p, json, "something else");
}

Json to_json(const Value& value) {
    struct Writer {
        Json operator()(double v) const {
            // Whole numbers as such, and the shortest decimal that gives the same float otherwise.
            if (v == std::round(v) && std::abs(v) < 1e9) return static_cast<std::int64_t>(v);
            char text[32];
            const auto end = std::to_chars(text, text + sizeof text, static_cast<float>(v)).ptr;
            double shortest = v;
            std::from_chars(text, end, shortest);
            return static_cast<float>(shortest) == static_cast<float>(v) ? shortest : v;
        }
        Json operator()(const std::vector<double>& v) const {
            Json out = Json::array();
            for (double d : v) out.push_back((*this)(d));
            return out;
        }
        Json operator()(const std::vector<std::string>& v) const { return Json(v); }
        Json operator()(const std::optional<MapRef>& v) const { return v ? to_json(*v) : Json(); }
        Json operator()(bool v) const { return v; }
        Json operator()(const std::string& v) const { return v; }
        Json operator()(const Color& v) const { return to_string(v); }
        Json operator()(const Points& v) const {
            Json out = Json::array();
            for (const auto& [x, y] : v) out.push_back(Json::array({(*this)(double(x)), (*this)(double(y))}));
            return out;
        }
        Json operator()(const Stops& v) const {
            Json out = Json::array();
            for (const Stop& s : v) out.push_back(Json::array({(*this)(double(s.at)), to_string(s.color)}));
            return out;
        }
        Json operator()(const Profile& v) const {
            if (v.shape != Profile::Shape::own)
                return std::string(profile_names[static_cast<std::size_t>(v.shape)]);
            Json out = {{"points", (*this)(v.points)}};
            if (v.smooth) out["smooth"] = true;
            return out;
        }
    };
    return std::visit(Writer{}, value);
}

std::string text_of(const Value& value) { return json::text(to_json(value)); }

Value value_from_text(const Parameter& p, const std::string& text) {
    using Type = Parameter::Type;
    if (p.type == Type::text || p.type == Type::file || p.type == Type::font || p.type == Type::choice ||
        p.type == Type::element || p.type == Type::color)
        return value_from_json(p, Json(text));
    Json json = Json::parse(text, nullptr, false);
    if (json.is_discarded()) json = text;
    return value_from_json(p, json);
}

} // namespace bathylux
