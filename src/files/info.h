#pragma once
#include <filesystem>

#include "core/piece/parameter.h"

namespace bathylux::files {

/// What a file is, for `info --json`: {width, height, channels, bits, guess, green, range, checks}.
Json file_info(const std::filesystem::path& path);

} // namespace bathylux::files
