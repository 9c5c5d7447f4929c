#pragma once
#include <string>

#include "core/field/srgb.h"
#include "core/step/stops.h"

namespace bathylux {

/// What one would call a colour: "pale amber", "dark blue", "grey". By lightness, chroma and hue in OKLCh.
std::string in_words(const Color& color);
/// From which colour to which.
std::string in_words(const Stops& stops);
/// A count as one would say it: "seven", and figures past twelve or between whole numbers.
std::string counted(double number);

} // namespace bathylux
