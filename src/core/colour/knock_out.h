#pragma once
#include <array>
#include <limits>

#include "core/step/step_kind.h"

namespace bathylux {

/// Takes a background out by its colour.
struct KnockOut {
    Color color{1, 1, 1, 1};
    float tolerance = 0.1f, softness = 0.06f;
    bool connected = false;
    float grow = 0;
    bool clean = true;

    static constexpr std::string_view id = "knock_out", name = "Knock out", group = "shape",
                                      help = "Takes a background out by its colour";
    static constexpr Channels reads = channel::color, gives = channel::all;
    static constexpr bool spreads = false, drops_outline = true;
    static constexpr std::array parameters{
        bathylux::color<&KnockOut::color>("color", "Background", "The colour that goes"),
        number<&KnockOut::tolerance>("tolerance", "Tolerance", Unit::ratio, {0, 0.6, 0, 2},
                                     "Colours this near go altogether (distance in OKLab)"),
        number<&KnockOut::softness>("softness", "Softness", Unit::ratio, {0, 0.3, 0, 2},
                                    "How much further colours go in part"),
        toggle<&KnockOut::connected>(
            "connected", "Only from the rim",
            "Takes what is joined to the picture's rim; off: everywhere, holes of letters too"),
        number<&KnockOut::grow>("grow", "Edge", Unit::px, {-8, 8, -200, 200},
                                "Grows what stays; negative shrinks it"),
        toggle<&KnockOut::clean>("clean", "Clean the fringe",
                                 "Takes the background out of half-gone colours"),
    };

    /// What stays, 0…1 = (distance − tolerance) ÷ softness, held; times the coverage so far. The fringe's
    /// colour is what, laid over the background by what stays, gives the colour seen (Smith & Blinn 1996).
    /// The edge is moved by distance to where half stays.
    Bundle apply(const Bundle& below, const Context& context) const;
    float reach() const { return connected ? std::numeric_limits<float>::infinity() : std::abs(grow) + 2; }
    std::string says() const {
        return to_string(color) + (connected ? " from the rim" : " everywhere") +
               (grow != 0 ? (grow > 0 ? ", grown " : ", shrunk ") + said(std::abs(grow)) + " px" : "");
    }
};

} // namespace bathylux
