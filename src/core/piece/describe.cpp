// Everything there is, told from the table of kinds. See codec.h.
#include <cmath>

#include "core/piece/codec.h"
#include "core/piece/json.h"

namespace bathylux {

namespace {

Json describe_parameter(const Parameter& p, const void* defaults) {
    static constexpr const char* types[] = {"number", "whole",   "toggle", "choice",  "text",
                                            "file",   "font",    "color",  "profile", "curve",
                                            "stops",  "numbers", "files",  "element", "map"};
    static constexpr const char* units[] = {"", "px", "degrees", "ratio", "stops"};
    Json out = {{"id", p.id}, {"name", p.name}, {"type", types[static_cast<int>(p.type)]}, {"help", p.help}};
    if (p.type == Parameter::Type::number || p.type == Parameter::Type::whole) {
        out["unit"] = units[static_cast<int>(p.unit)];
        out["range"] = {p.range.low, p.range.high};
        if (std::isfinite(p.range.floor)) out["least"] = p.range.floor;
        if (std::isfinite(p.range.ceiling)) out["most"] = p.range.ceiling;
    }
    if (!p.choices.empty()) out["choices"] = std::vector<std::string>(p.choices.begin(), p.choices.end());
    if (!p.words.empty()) out["words"] = std::vector<std::string>(p.words.begin(), p.words.end());
    if (!p.when.empty()) out["only_when"] = {{"parameter", p.when}, {"is", p.is}};
    out["default"] = to_json(p.get(defaults));
    return out;
}

Json describe_kind(const Kind& kind) {
    const auto defaults = kind.made();
    Json out = {{"kind", kind.id}, {"name", kind.name}, {"help", kind.help}, {"parameters", Json::array()}};
    for (const Parameter& p : kind.parameters)
        out["parameters"].push_back(describe_parameter(p, defaults.get()));
    return out;
}

} // namespace

std::string describe_everything() {
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
    for (const StepKind& k : finish_kinds()) out["finish"].push_back(describe_kind(k));
    for (const Kind& k : light_kinds()) out["lights"].push_back(describe_kind(k));
    out["element"] = Json::object();
    for (const Kind& k : {describe<Placement>(), describe<Mix>(), describe<MapRef>(), describe<Surface>()})
        out["element"][std::string(k.id)] = describe_kind(k)["parameters"];
    // What every step has beside its kind's own.
    const Step step;
    for (const Parameter& p : Step::parameters)
        out["element"]["step"].push_back(describe_parameter(p, &step));
    out["piece"] = Json::object();
    for (const Kind& k : {describe<Canvas>(), describe<Surface>(), describe<Ambient>(), describe<Piece>(),
                          describe<Body>(), describe<Camera>(), describe<GroundPlane>()})
        out["piece"][std::string(k.id)] = describe_kind(k)["parameters"];
    return json::text(out, true);
}

} // namespace bathylux
