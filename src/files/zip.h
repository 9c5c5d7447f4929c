#pragma once
#include <span>
#include <string>
#include <vector>

#include "files/pictures.h"

namespace bathylux::files {

/// A file of a zip archive to be; `squeeze` where it is not packed already.
struct ZipEntry {
    std::string name;
    std::span<const std::byte> data;
    bool squeeze = false;
};

/// The bytes of an archive with those files in that order; equal files make equal archives. Throws Error.
Bytes zipped(const std::vector<ZipEntry>& entries);

} // namespace bathylux::files
