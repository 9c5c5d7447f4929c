#pragma once
#include <optional>
#include <string>
#include <vector>

#include "core/piece/piece.h"

namespace bathylux {

// Pieces and their parts as text (JSON, see docs/format.md). Readers throw Error: a sentence that says where
// in the piece what is wrong.

/// The version of the piece format that this code writes.
constexpr int format_version = 1;

/// How large and deep a piece file may be; more is refused before anything is built from it.
constexpr std::size_t most_json_bytes = 64u << 20;
constexpr int most_json_depth = 64;
constexpr int most_elements = 4096, most_steps = 256, most_lights = 64, most_moods = 64, most_cameras = 256;
constexpr int most_canvas_side = 16384;

/// Elements may read one another in a circle in what comes back: see open_circles in references.h.
Piece piece_from_text(std::string_view text);
std::string text_of(const Piece& piece);

// Parts, as they are kept and put on the clipboard.

std::string text_of(const Surface& surface);
Surface surface_from_text(std::string_view text);
std::string text_of(const Mood& mood);
Mood mood_from_text(std::string_view text);
std::string text_of(const Light& light);
std::string text_of(const Element& element);

struct Parts {
    std::vector<Element> elements;
    std::vector<Step> steps;
};
std::string text_of(const Parts& parts);
Parts parts_from_text(std::string_view text, const Canvas& canvas);

/// A member that is text among those this version does not know, if it is there.
std::optional<std::string> member_text(const Rest& rest, std::string_view name);

/// Reads a value for a parameter from what a person types on a command line.
Value value_from_text(const Parameter& parameter, const std::string& text);
/// A value as JSON has it.
std::string text_of(const Value& value);

/// Changes one value named as on the command line: ELEMENT.STEP.PARAM, ELEMENT.source.PARAM,
/// ELEMENT.placement.PARAM, ELEMENT.mix.PARAM, ELEMENT.mix.mask.PARAM, ELEMENT.STEP.map.PARAM (or another map
/// of the step), ELEMENT.surface.PARAM, LIGHT.PARAM, ambient.PARAM, canvas.PARAM, surface.PARAM, exposure,
/// keep_flat_color, mood (its id), solid.PARAM, solid.camera.PARAM, solid.ground.PARAM, solid.surface.PARAM.
/// STEP is a step's id or kind. Beside its parameters a light has `on`, `alone`, `tied` and `stands`, a step
/// `on` and `share`. Throws Error that names the path.
void set_parameter(Piece& piece, const std::string& path, const std::string& text);

/// Everything there is, as JSON, for `describe --json`.
std::string describe_everything();

} // namespace bathylux
