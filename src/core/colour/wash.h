#pragma once
#include <array>

#include "core/colour/blend.h"
#include "core/step/gradient.h"
#include "core/step/step_kind.h"

namespace bathylux {

/// A gradient laid over the element.
struct Wash {
    GradientShape shape = GradientShape::linear;
    float angle = 90;
    Stops stops{{0, rgb(11, 34, 51)}, {1, rgb(111, 168, 160)}};
    MixIn mix_in = MixIn::encoded;
    float repeats = 1;
    bool mirrored = false;
    BlendMode blend = BlendMode::normal;

    static constexpr std::string_view id = "wash", name = "Wash", group = "colour",
                                      help = "Lays a gradient over the element";
    static constexpr Channels reads = channel::color, gives = channel::color | channel::tone;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        bathylux::stops<&Wash::stops>("stops", "Colours", "The colours and their places").ranked(Rank::first),
        choice<&Wash::shape, gradient_shape_names>("shape", "Runs", "How the colours run over the element")
            .reads(gradient_shape_words),
        number<&Wash::angle>("angle", "Towards", Unit::degrees, {-180, 180},
                             "Where the colours run to, counter-clockwise from the right")
            .only_when("shape", "linear|reflected|conic"),
        number<&Wash::repeats>("repeats", "Times", Unit::none, {1, 24, 1, 10000}, "How often they run")
            .only_when("shape", "linear|reflected|radial|conic"),
        toggle<&Wash::mirrored>("mirrored", "Every second backwards",
                                "Runs there and back, so that nothing jumps")
            .only_when("shape", "linear|reflected|radial|conic"),
        choice<&Wash::mix_in, mix_in_names>("mix_in", "Mixed by",
                                            "In which values colours in between are mixed")
            .reads(mix_in_words),
        choice<&Wash::blend, blend_names>("blend", "Blend", "How it joins the element's own colour")
            .reads(blend_words),
    };

    /// The gradient over the element's box (see Gradient), blended over the sRGB-encoded colour (W3C
    /// Compositing and Blending 1); alpha stays.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return 0; }
    std::string says() const;
};

} // namespace bathylux
