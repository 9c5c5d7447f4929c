#pragma once
#include <array>

#include "core/make/source_kind.h"

namespace bathylux {

/// Elements kept together: steps and mixing work on the whole.
struct GroupSource {
    bool lit = false;

    static constexpr std::string_view id = "group", name = "Group", help = "Elements kept together";
    static constexpr bool holds_elements = true;
    static constexpr Channels gives = channel::color | channel::height | channel::surface;
    static constexpr std::array parameters{
        toggle<&GroupSource::lit>(
            "lit", "Lit by itself",
            "The piece's lights light it where it lies; it goes on as a flat picture, which "
            "its steps then work on"),
    };
};

} // namespace bathylux
