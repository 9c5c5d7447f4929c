// How what moves stands in a piece file.
#include <cmath>

#include "core/piece/json.h"

namespace bathylux {

using namespace json;

namespace {

bool can_move(const Parameter& p) {
    using Type = Parameter::Type;
    return p.type == Type::number || p.type == Type::whole || p.type == Type::color;
}

double number(const Json& json, const std::string& what, double most = 1e6) {
    if (!json.is_number() || !(std::abs(json.get<double>()) <= most))
        throw Error(what + " takes a number between " + to_json(Value(-most)).dump() + " and " +
                    to_json(Value(most)).dump() + ", not " + text(json).substr(0, 40) + ".");
    return json.get<double>();
}

Key key_from_json(const Parameter& p, const Json& json) {
    if (!json.is_array() || json.size() < 2 || json.size() > 3)
        throw Error(in_quotes(p.id) + " takes keys as [frame, value, easing], not " +
                    text(json).substr(0, 60) + ".");
    Key out;
    out.frame = number(json[0], "A key's frame of " + in_quotes(p.id));
    if (p.type == Parameter::Type::color) {
        if (!json[1].is_string()) throw Error("A key of " + in_quotes(p.id) + " takes a colour as #rrggbb.");
        out.value = parse_color(json[1].get<std::string>());
    } else
        out.value = number(json[1], "A key of " + in_quotes(p.id));
    if (json.size() == 3) {
        const auto easing = json[2].is_string() ? easing_from_text(json[2].get<std::string>()) : std::nullopt;
        if (!easing)
            throw Error("A key of " + in_quotes(p.id) +
                        " eases as CSS has it (linear, ease-in-out, "
                        "cubic-bezier(x1, y1, x2, y2), steps(n)), not " +
                        text(json[2]).substr(0, 60) + ".");
        out.easing = *easing;
    }
    return out;
}

Keys keys_from_json(const Parameter& p, const Json& json) {
    const Json& list = json["keys"];
    if (!list.is_array() || list.empty() || list.size() > most_keys)
        throw Error(in_quotes(p.id) + " takes 1 to " + std::to_string(most_keys) +
                    " keys as [[frame, value, easing], …].");
    Keys out;
    for (const Json& k : list) {
        out.list.push_back(key_from_json(p, k));
        if (out.list.size() > 1 && out.list.back().frame <= out.list[out.list.size() - 2].frame)
            throw Error("The keys of " + in_quotes(p.id) + " must ascend; frame " +
                        to_json(Value(out.list.back().frame)).dump() + " does not.");
    }
    if (const std::string after = string_member(json, "after"); !after.empty()) {
        const auto* found = std::find(std::begin(after_names), std::end(after_names), after);
        if (found == std::end(after_names))
            throw Error("\"after\" of " + in_quotes(p.id) + " takes hold, repeat or bounce, not " +
                        in_quotes(after) + ".");
        out.after = static_cast<After>(found - std::begin(after_names));
    }
    return out;
}

} // namespace

std::optional<Motion> motion_from_json(const Parameter& p, const Json& json) {
    if (!can_move(p) || !json.is_object()) return std::nullopt;
    if (json.contains("keys")) return keys_from_json(p, json);
    if (!json.contains("link")) return std::nullopt;
    if (p.type == Parameter::Type::color) throw Error(in_quotes(p.id) + " is a colour; only numbers follow.");
    Link out;
    out.to = string_member(json, "link");
    if (out.to.empty() || out.to.size() > 1000)
        throw Error("The link of " + in_quotes(p.id) + " names no number.");
    if (json.contains("gain")) out.gain = number(json["gain"], "\"gain\"");
    if (json.contains("offset")) out.offset = number(json["offset"], "\"offset\"");
    return out;
}

Json to_json(const Motion& motion) {
    // Numbers as they are: keys are no floats.
    const auto plain = [](double v) -> Json {
        if (v == std::round(v) && std::abs(v) < 1e9) return static_cast<std::int64_t>(v);
        return v;
    };
    Json out = Json::object();
    if (const auto* link = std::get_if<Link>(&motion)) {
        out["link"] = link->to;
        if (link->gain != 1) out["gain"] = plain(link->gain);
        if (link->offset != 0) out["offset"] = plain(link->offset);
        return out;
    }
    const Keys& keys = std::get<Keys>(motion);
    out["keys"] = Json::array();
    for (const Key& k : keys.list) {
        Json key = Json::array({plain(k.frame)});
        if (const auto* n = std::get_if<double>(&k.value))
            key.push_back(plain(*n));
        else
            key.push_back(to_string(std::get<Color>(k.value)));
        if (k.easing.kind != Easing::Kind::linear) key.push_back(to_string(k.easing));
        out["keys"].push_back(key);
    }
    if (keys.after != After::hold) out["after"] = after_names[static_cast<std::size_t>(keys.after)];
    return out;
}

Timing timing_from_json(const Json& json) {
    object(json, "\"time\"");
    Timing out;
    if (json.contains("rate")) {
        const Json& r = json["rate"];
        const auto rate = r.is_string()           ? rate_from_text(r.get<std::string>())
                          : r.is_number_integer() ? rate_from_text(r.dump())
                                                  : std::nullopt;
        if (!rate)
            throw Error(
                "\"rate\" takes frames a second as a fraction (\"24/1\", \"24000/1001\"), from one in "
                "1000 s to 1000 a second, not " +
                text(r).substr(0, 40) + ".");
        out.rate = *rate;
    }
    if (json.contains("frames")) {
        const Json& f = json["frames"];
        if (!f.is_number_integer() || f.get<std::int64_t>() < 1 || f.get<std::int64_t>() > most_frames)
            throw Error("\"frames\" takes a whole number from 1 to " + std::to_string(most_frames) + ".");
        out.frames = f.get<int>();
    }
    out.loop = bool_member(json, "loop", true);
    return out;
}

Json to_json(const Timing& timing) {
    return {{"rate", to_string(timing.rate)}, {"frames", timing.frames}, {"loop", timing.loop}};
}

} // namespace bathylux
