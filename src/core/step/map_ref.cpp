#include "core/step/map_ref.h"

#include "core/step/parameter.h"

namespace bathylux {

namespace {
constexpr std::array<std::string_view, 10> map_of_names{"alpha",  "tone",  "red",  "green",     "blue",
                                                        "height", "slope", "worn", "red_green", "slopes"};
constexpr std::array<std::string_view, 10> map_of_words{
    "coverage", "brightness", "red",          "green",         "blue",
    "height",   "slope",      "what is worn", "red and green", "slopes, as a lens"};
} // namespace

constexpr std::array<Parameter, 6> MapRef::parameters{
    bathylux::element<&MapRef::element>(
        "element", "Element",
        "The id of the element it is taken from; none: the element itself, before this step"),
    choice<&MapRef::of, map_of_names>(
        "of", "Reads",
        "What is read off it: coverage, brightness, a colour, height, slope, what is worn; "
        "two numbers for steps that bend: red and green, slopes")
        .reads(map_of_words),
    number<&MapRef::low>("low", "From", Unit::ratio, {0, 1}, "The value that counts as none"),
    number<&MapRef::high>("high", "To", Unit::ratio, {0, 1}, "The value that counts in full"),
    toggle<&MapRef::sink>("sink", "Swapped", "Bright hides and dark shows"),
    toggle<&MapRef::on>("on", "On", "Switched off, it is as if it were not there"),
};

std::uint64_t content_hash(const MapRef& map) {
    Hash h;
    for (const Parameter& p : MapRef::parameters) add_to(h, p.get(&map));
    h << map.rest;
    add_to(h, map.motions);
    return h.value();
}

} // namespace bathylux
