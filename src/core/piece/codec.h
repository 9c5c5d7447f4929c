#pragma once
#include <string>

#include "core/piece/piece.h"

namespace bathylux {

/// The version of the piece format that this code writes.
constexpr int format_version = 1;

/// How large and deep a piece file may be; more is refused before anything is built from it.
constexpr std::size_t most_json_bytes = 64u << 20;
constexpr int most_json_depth = 64;
constexpr int most_elements = 4096, most_steps = 256, most_lights = 64, most_takes = 64;
constexpr int most_canvas_side = 16384;

/// Reads a piece. Throws Error: a sentence that says where in the piece what is wrong.
Piece piece_from_json(const Json& json);
Json to_json(const Piece& piece);

/// The text of a piece file; refuses what is too large, too deep or not JSON.
Json parse_json(std::string_view text);

// Parts, as they are put on the clipboard.
Element element_from_json(const Json& json, const Canvas& canvas);
Json to_json(const Element& element);
Step step_from_json(const Json& json);
Json to_json(const Step& step);
Surface surface_from_json(const Json& json, const char* what = "The surface");
Json to_json(const Surface& surface);
Light light_from_json(const Json& json);
Json to_json(const Light& light);

/// Changes one value named as on the command line: ELEMENT.STEP.PARAM, ELEMENT.source.PARAM,
/// ELEMENT.placement.PARAM, ELEMENT.mix.PARAM, ELEMENT.mix.mask.PARAM, ELEMENT.STEP.map.PARAM,
/// ELEMENT.surface.PARAM, LIGHT.PARAM, ambient.PARAM,
/// canvas.PARAM, surface.PARAM, exposure, keep_flat_color, take (its id). STEP is a step's id or kind.
void set_parameter(Piece& piece, const std::string& path, const std::string& text);

/// Everything there is, for `describe --json`.
Json describe_everything();

} // namespace bathylux
