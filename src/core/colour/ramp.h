#pragma once
#include <array>

#include "core/colour/blend.h"
#include "core/step/step_kind.h"

namespace bathylux {

/// By what a ramp colours.
enum class RampOf : std::uint8_t { tone, height, slope, alpha };
inline constexpr std::array<std::string_view, 4> ramp_of_names{"tone", "height", "slope", "alpha"};
inline constexpr std::array<std::string_view, 4> ramp_of_words{"brightness", "height", "slope", "coverage"};

/// Colours by how bright, how high or how steep a place is.
struct Ramp {
    RampOf of = RampOf::tone;
    float low = 0, high = 1;
    Stops stops{{0, rgb(11, 34, 51)}, {0.6f, rgb(58, 111, 156)}, {1, rgb(240, 228, 204)}};
    float repeats = 1;
    bool mirrored = false;
    BlendMode blend = BlendMode::normal;

    static constexpr std::string_view id = "ramp", name = "Ramp", group = "colour",
                                      help = "Colours by brightness, height, slope or coverage";
    static constexpr Channels reads = channel::color | channel::tone, gives = channel::color | channel::tone;
    static constexpr bool spreads = false;
    static constexpr std::array parameters{
        bathylux::stops<&Ramp::stops>("stops", "Colours", "The colours, from the lowest value to the highest")
            .ranked(Rank::first),
        choice<&Ramp::of, ramp_of_names>("of", "By", "Which of the element's quantities is coloured")
            .reads(ramp_of_words),
        number<&Ramp::low>("low", "From", Unit::none, {0, 1, -100000, 100000},
                           "The value of the first colour; heights in px, the rest 0 to 1"),
        number<&Ramp::high>("high", "To", Unit::none, {0, 1, -100000, 100000},
                            "The value of the last colour; heights in px, the rest 0 to 1"),
        number<&Ramp::repeats>("repeats", "Times", Unit::none, {1, 24, 1, 10000},
                               "How often the colours run: a few bands over a noise are a material"),
        toggle<&Ramp::mirrored>("mirrored", "Every second backwards",
                                "Runs there and back, so that nothing jumps"),
        choice<&Ramp::blend, blend_names>("blend", "Blend", "How it joins the element's own colour")
            .reads(blend_words),
    };

    /// stops(u), u = clamp((q − low) ÷ (high − low)), q the height in canvas px or the tone, slope or
    /// coverage as a map reads it, 0…1; blended over the sRGB-encoded colour (W3C Compositing and Blending
    /// 1), alpha stays. Stops are mixed in encoded values.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return of == RampOf::slope ? 1 : 0; }
    /// What it reads besides the colour.
    Channels needs() const {
        return of == RampOf::height || of == RampOf::slope ? channel::height : channel::coverage;
    }
    std::string says() const;
};

/// What a ramp goes by, over a region of a bundle that covers it (and a px around it, for slopes): tone,
/// slope and coverage 0…1, heights in canvas px. `scale`: device px per canvas px.
Field gone_by(const Bundle& below, RampOf of, Region region, double scale);

} // namespace bathylux
