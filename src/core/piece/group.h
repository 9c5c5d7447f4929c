#pragma once
#include <array>

#include "core/make/source_kind.h"

namespace bathylux {

/// Elements kept together: steps and mixing work on the whole.
struct GroupSource {
    static constexpr std::string_view id = "group", name = "Group", help = "Elements kept together";
    static constexpr bool holds_elements = true;
    static constexpr Channels gives = channel::color | channel::height | channel::surface;
    static constexpr std::array<Parameter, 0> parameters{};
};

} // namespace bathylux
