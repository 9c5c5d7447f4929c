#pragma once
#include <array>

#include "core/make/source_kind.h"

namespace bathylux {

/// Another element once more, at a place of its own: what it gives after its steps, before it is mixed,
/// followed live.
struct TwinSource {
    std::string of;

    static constexpr std::string_view id = "twin", name = "Twin",
                                      help = "Another element once more, at a place of its own";
    static constexpr bool follows = true;
    static constexpr Channels gives = channel::color | channel::height | channel::surface | channel::tone;
    static constexpr std::array parameters{
        element<&TwinSource::of>("of", "Follows", "The element it shows"),
    };
};

} // namespace bathylux
