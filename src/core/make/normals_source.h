#pragma once
#include "core/make/source_kind.h"

namespace bathylux {

enum class GreenSays { automatic, up, down };
inline constexpr std::array<std::string_view, 3> green_names{"auto", "up", "down"};
inline constexpr std::array<std::string_view, 3> green_words{"told from the map", "up", "down"};

/// A normal map, integrated to the height it came from.
struct NormalsSource {
    std::string file;
    GreenSays green = GreenSays::automatic;
    float strength = 1;

    static constexpr std::string_view id = "normals", name = "Normal map",
                                      help = "Normals, turned back into height";
    static constexpr bool has_rim = true;
    static constexpr Channels gives = channel::color | channel::height;
    static constexpr std::array parameters{
        bathylux::file<&NormalsSource::file>("file", "File", "A normal map: PNG, TIFF, EXR"),
        choice<&NormalsSource::green, green_names>(
            "green", "Green points", "auto: told from the map's curl, which a height has none of")
            .reads(green_words),
        number<&NormalsSource::strength>("strength", "Strength", Unit::ratio, {0, 4, -1000, 1000},
                                         "Factor on the slopes")
            .ranked(Rank::folded),
    };

    Bundle give(const SourceContext& context) const;
};

} // namespace bathylux
