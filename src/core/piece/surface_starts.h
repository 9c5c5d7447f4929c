#pragma once
#include <span>
#include <string_view>

#include "core/piece/piece.h"

namespace bathylux {

/// A material to start from, under a plain name.
struct SurfaceStart {
    std::string_view name;
    Surface surface;
};
std::span<const SurfaceStart> surface_starts();

} // namespace bathylux
