#include "core/step/color_words.h"

#include <array>
#include <cmath>
#include <numbers>

#include "core/field/oklab.h"
#include "core/step/step_kind.h"

namespace bathylux {

std::string in_words(const Color& color) {
    const Lab lab = to_oklab(srgb_decode(color.r), srgb_decode(color.g), srgb_decode(color.b));
    const float l = lab.lightness, chroma = std::hypot(lab.a, lab.b);
    if (!(color.a > 0)) return "nothing";
    if (l > 0.96f && chroma < 0.03f) return "white";
    if (l < 0.16f) return "black";
    const std::string light = l > 0.84f ? "pale " : l < 0.4f ? "dark " : "";
    if (chroma < 0.025f) return light + "grey";
    float hue = std::atan2(lab.b, lab.a) * 180 / std::numbers::pi_v<float>;
    if (hue < 0) hue += 360;
    struct Name {
        float to;
        const char* says;
    };
    static constexpr std::array<Name, 12> names{{{12, "pink"},
                                                 {40, "red"},
                                                 {66, "orange"},
                                                 {96, "amber"},
                                                 {116, "yellow"},
                                                 {165, "green"},
                                                 {188, "sea green"},
                                                 {222, "teal"},
                                                 {282, "blue"},
                                                 {318, "violet"},
                                                 {350, "magenta"},
                                                 {361, "pink"}}};
    for (const Name& n : names)
        if (hue < n.to) {
            const bool brown = l < 0.55f && hue >= 40 && hue < 96;
            return light + (brown ? "brown" : n.says);
        }
    return light + "grey";
}

std::string in_words(const Stops& stops) {
    const std::string from = in_words(stops.front().color), to = in_words(stops.back().color);
    if (from != to || stops.size() < 3) return from + " to " + to;
    return from + " through " + in_words(stops[stops.size() / 2].color) + " to " + to;
}

std::string counted(double number) {
    static constexpr std::array<const char*, 13> words{"no",   "one",    "two",   "three", "four",
                                                       "five", "six",    "seven", "eight", "nine",
                                                       "ten",  "eleven", "twelve"};
    if (number == std::round(number) && number >= 0 && number <= 12)
        return words[static_cast<std::size_t>(number)];
    return said(number);
}

} // namespace bathylux
