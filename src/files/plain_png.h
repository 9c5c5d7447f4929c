#pragma once
#include <span>
#include <utility>

#include "core/step/picture.h"

namespace bathylux::files {

/// Whether bytes are a PNG whose samples are ours as they stand: 8 or 16 bits of grey, RGB or RGBA in sRGB,
/// from top to bottom, with no chunk before them that says otherwise. Most PNGs are; the others are read by
/// Qt. Looks at the chunks before the samples only.
bool is_plain_png(std::span<const std::byte> bytes);

/// Width and height of such a picture, px.
std::pair<long long, long long> size_of_plain_png(std::span<const std::byte> bytes);

/// Reads such a picture (libpng) straight into its samples, without a copy in between, and without Qt: also
/// before there is an application. Throws Error with what is wrong.
Picture read_plain_png(std::span<const std::byte> bytes);

} // namespace bathylux::files
