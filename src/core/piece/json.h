#pragma once
// The codec's own: how values and parts of a piece stand in JSON. Nobody else looks in here (see codec.h).
#include <nlohmann/json.hpp>
#include <set>

#include "core/error.h"
#include "core/piece/piece.h"

namespace bathylux {

using Json = nlohmann::ordered_json;

/// Reads a value for `parameter`; throws Error naming the parameter, what it got and what it takes.
Value value_from_json(const Parameter& parameter, const Json& json);
/// A map as a mask, a step or a parameter has it; `taken`: members its owner reads itself.
MapRef map_from_json(const Json& json, const char* what, const std::set<std::string>& taken = {});
Json to_json(const MapRef& map);
Json to_json(const Value& value);
/// Keys or a link in place of a value; none where it is a plain one.
std::optional<Motion> motion_from_json(const Parameter& parameter, const Json& json);
Json to_json(const Motion& motion);
Timing timing_from_json(const Json& json);
Json to_json(const Timing& timing);

/// The text of a file as JSON; refuses what is too large, too deep or not JSON.
Json parse_json(std::string_view text);

Piece piece_from_json(const Json& json);
Json to_json(const Piece& piece);
Element element_from_json(const Json& json, const Canvas& canvas);
Json to_json(const Element& element);
/// `of_finish`: it lies over the lit picture.
Step step_from_json(const Json& json, bool of_finish = false);
Json to_json(const Step& step);
Surface surface_from_json(const Json& json, const char* what = "The surface");
Json to_json(const Surface& surface);
Light light_from_json(const Json& json);
Json to_json(const Light& light);
Solid solid_from_json(const Json& json);
Json to_json(const Solid& solid);
Mood mood_from_json(const Json& json);
/// `whole`: with its light, which the one in use has in the piece itself.
Json to_json(const Mood& mood, bool whole);

// What readers of parts share.
namespace json {

/// Adds where in the piece it happened to what an inner reader found.
template <class F> auto within(const std::string& where, F&& read) {
    try {
        return read();
    } catch (const Error& e) {
        throw Error(where + ": " + e.what());
    }
}
const Json& object(const Json& json, const char* what);
std::string kind_of(const Json& json, const char* what);
Error unknown_kind(const char* what, const std::string& kind);
std::string string_member(const Json& json, const char* key);
bool bool_member(const Json& json, const char* key, bool otherwise);
float coordinate(const Json& json, const char* what);
/// Reads the described parameters of `target`; hands back what else was there, but for `taken`. What moves is
/// put beside them; without `motions` nothing may.
Rest read_parameters(void* target, std::span<const Parameter> parameters, const Json& json,
                     const std::set<std::string>& taken = {}, Motions* motions = nullptr);
void write_parameters(const void* from, std::span<const Parameter> parameters, Json& json,
                      const Motions& motions = {});
/// What is left of an object once the members of these names are taken.
Rest rest_of(const Json& json, const std::set<std::string>& taken);
void write_rest(const Rest& rest, Json& json);
std::string text(const Json& json, bool pretty = false);

} // namespace json

} // namespace bathylux
