#pragma once
#include <array>
#include <string_view>

namespace bathylux {

/// How the values of Edge are called in files, and what they mean past a picture's rim.
inline constexpr std::array<std::string_view, 4> edge_names{"none", "clamp", "repeat", "mirrored_repeat"};
inline constexpr std::array<std::string_view, 4> edge_words{"nothing", "the rim held", "repeated",
                                                            "repeated, mirrored"};

} // namespace bathylux
