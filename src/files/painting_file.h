#pragma once
#include "core/paint/painting.h"
#include "files/pictures.h"

namespace bathylux::files {

/// Strokes as an EXR of floats whose middle is the element's: red is height in px, green what is hidden, blue
/// 0; of what was pushed, px to the right and px down. Throws Error when no EXR can be written here.
Bytes painting_file(const Painting& painting);
/// The same back; `ink`: colour and coverage rather than floats of two quantities. Throws Error: what is
/// wrong with `name`.
Painting read_painting(std::span<const std::byte> bytes, const std::string& name, double density, bool ink);

} // namespace bathylux::files
