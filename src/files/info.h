#pragma once
#include <filesystem>
#include <string>

namespace bathylux::files {

/// What `bathylux-cli info` tells about a file, as JSON: size, channels, what it seems to be, and for pieces
/// the range of heights and what the checks found. Throws Error.
std::string file_info(const std::filesystem::path& path);

} // namespace bathylux::files
