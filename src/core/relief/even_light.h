#pragma once
#include <array>
#include <limits>

#include "core/step/step_kind.h"

namespace bathylux {

/// Takes the light a photograph was made in out of its tones, before they are read as height. The colour
/// stays.
struct EvenLight {
    float size = 160, amount = 1;
    float shading = 0, angle = 135;
    bool find_angle = true;

    static constexpr std::string_view id = "even_light", name = "Even light", group = "give depth",
                                      help = "Takes uneven and slanting light out of a photograph's tones";
    static constexpr Channels reads = channel::tone, gives = channel::tone;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        number<&EvenLight::amount>("amount", "Even out", Unit::ratio, {0, 1, 0, 1},
                                   "How much of slow changes is taken out")
            .as(Said::percent),
        number<&EvenLight::size>("size", "Slower than", Unit::px, {8, 600, 1, 10000},
                                 "Changes wider than this are light, not relief"),
        number<&EvenLight::shading>("shading", "Slanting light", Unit::ratio, {0, 1, 0, 1},
                                    "How much bright and dark flanks are read as slopes"),
        toggle<&EvenLight::find_angle>("find_angle", "Find its direction",
                                       "From the picture itself, light taken to come from above"),
        number<&EvenLight::angle>("angle", "Comes from", Unit::degrees, {-180, 180},
                                  "0 from the right, 90 from the top")
            .only_when("find_angle", "false"),
    };

    /// Leaves a tone t′ for the steps that follow. Uneven light: the tone ÷ its Gaussian mean (the mean is
    /// the light, what is left the surface's own), mixed by `amount`. Slanting light: a flank that faces it
    /// is brighter as the slope along it (Pentland 1990, linear shading); that is integrated back to height
    /// in the Fourier domain, with a little damping for waves that run along the light and so show nothing,
    /// scaled to 0…1 between its 1st and 99th hundredth, and mixed in by `shading`. Reads the whole canvas.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return std::numeric_limits<float>::infinity(); }
    std::string says() const;
};

/// The direction the light comes from, degrees, told from tones: brightness changes most along it (the main
/// axis of the structure tensor); of the two ends, the upper one.
float light_angle(const Plane& tones);

} // namespace bathylux
