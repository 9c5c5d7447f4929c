#pragma once
#include <string>

#include "core/render/sounding.h"

namespace bathylux::files {

/// A profile as a drawing at true size: 1 user unit is 1 mm, heights and way to one scale; with rulers, the
/// overall dimensions in mm and px, and the steepest slope marked.
std::string section_svg(const Profile1D& profile, double px_per_mm, const std::string& title);

} // namespace bathylux::files
