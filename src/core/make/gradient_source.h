#pragma once
#include "core/make/source_kind.h"
#include "core/step/gradient.h"

namespace bathylux {

/// Colours that run over a rectangle, or the canvas.
struct GradientSource {
    GradientShape shape = GradientShape::linear;
    float angle = 90;
    Stops stops{{0, rgb(11, 34, 51)}, {1, rgb(111, 168, 160)}};
    float repeats = 1;
    bool mirrored = false;
    MixIn mix_in = MixIn::encoded;
    float width = 0, height = 0;

    static constexpr bool outlined = true;
    static constexpr std::string_view id = "gradient", name = "Gradient",
                                      help = "Colours that run over a rectangle or the canvas";
    static constexpr std::array parameters{
        bathylux::stops<&GradientSource::stops>("stops", "Colours", "The colours and their places")
            .ranked(Rank::first),
        choice<&GradientSource::shape, gradient_shape_names>("shape", "Runs", "How the colours run")
            .reads(gradient_shape_words),
        number<&GradientSource::angle>("angle", "Towards", Unit::degrees, {-180, 180},
                                       "Where the colours run to, counter-clockwise from the right")
            .only_when("shape", "linear|reflected|conic"),
        number<&GradientSource::repeats>("repeats", "Times", Unit::none, {1, 24, 1, 10000},
                                         "How often they run")
            .only_when("shape", "linear|reflected|radial|conic"),
        toggle<&GradientSource::mirrored>("mirrored", "Every second backwards",
                                          "Runs there and back, so that nothing jumps")
            .only_when("shape", "linear|reflected|radial|conic"),
        choice<&GradientSource::mix_in, mix_in_names>("mix_in", "Mixed by",
                                                      "In which values colours in between are mixed")
            .reads(mix_in_words)
            .ranked(Rank::folded),
        number<&GradientSource::width>("width", "Width", Unit::px, {0, 2000, 0, 100000},
                                       "Across; 0: the canvas's")
            .ranked(Rank::folded),
        number<&GradientSource::height>("height", "Height", Unit::px, {0, 2000, 0, 100000},
                                        "Down; 0: the canvas's")
            .ranked(Rank::folded),
    };

    Box box(Vec2 canvas) const {
        return box_about(width > 0 ? width : canvas.x, height > 0 ? height : canvas.y);
    }
    bool edged() const {
        return std::all_of(stops.begin(), stops.end(), [](const Stop& s) { return s.color.a == 1; });
    }
    Bundle give(const SourceContext& context) const;
    std::string says() const;
};

} // namespace bathylux
