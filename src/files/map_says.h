#pragma once
#include <optional>
#include <string>
#include <utility>

#include "files/export.h"

namespace bathylux::files {

/// What is said of a map in its file's description, as JSON, so that whoever reads it again need not guess.
std::string map_says(const Piece& piece, const Export& how, bool whole_numbers,
                     std::pair<float, float> range);

/// What a map of our own says of itself.
struct MapSays {
    std::string what;                                      // "height", "normals", …
    std::optional<std::pair<float, float>> height_range{}; // what black and white are, canvas px
    std::optional<float> px_per_mm{};
    std::optional<bool> green_up{};
};
/// Read from a description, whatever is in there; nothing where it is not one of ours.
std::optional<MapSays> map_said(const std::string& description);

} // namespace bathylux::files
