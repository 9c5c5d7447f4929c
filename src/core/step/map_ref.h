#pragma once
#include <array>
#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

#include "core/time/motion.h"

namespace bathylux {

struct Parameter;

/// What is read off an element that serves as a map: its coverage, the brightness of its art, one of its
/// colours as stored, its height or its slope, what was worn off it; and for steps that take two numbers, its
/// red and green, or its slopes across and down.
enum class MapOf : std::uint8_t { alpha, tone, red, green, blue, height, slope, worn, red_green, slopes };
/// Whether it is two numbers. Where one is needed, red_green is their mean and slopes are the slope.
inline bool is_pair(MapOf of) { return of >= MapOf::red_green; }

/// A quantity 0…1 taken from another element, wherever that lies, or from the element itself as it is before
/// the step: a mask, where a step works, or what it goes by. Heights count from the element's lowest to its
/// highest place, slopes from level to upright.
struct MapRef {
    std::string element; // its id; "": the element itself
    MapOf of = MapOf::tone;
    float low = 0, high = 1; // the tone window: values from low to high become 0 to 1
    bool sink = false;       // white hides instead of shows
    bool on = true;          // switched off, it is as if it were not there
    std::string rest{};      // what the file said beyond this (see Rest)
    Motions motions{};       // of its numbers

    static constexpr std::string_view id = "map", name = "Map",
                                      help = "A quantity taken from another element";
    static const std::array<Parameter, 6> parameters;
    friend bool operator==(const MapRef&, const MapRef&) = default;
};
std::uint64_t content_hash(const MapRef& map);
/// Whether something is read at all.
inline bool reads(const std::optional<MapRef>& map) { return map && map->on; }

} // namespace bathylux
