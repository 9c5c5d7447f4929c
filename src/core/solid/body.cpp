#include "core/solid/body.h"

namespace bathylux {

namespace {
constexpr std::array<std::string_view, 5> body_names{"plane", "cylinder", "sphere", "box", "mesh"};
constexpr std::array<std::string_view, 2> wrap_names{"placed", "whole"};
constexpr std::array<std::string_view, 2> wrap_words{"laid on as a label", "all of the skin"};
constexpr double most_length = 1e6; // px
} // namespace

constexpr std::array<Parameter, 21> Body::parameters{
    choice<&Body::kind, body_names>("kind", "Body", "What the piece lies on").ranked(Rank::first),
    number<&Body::radius>("radius", "Radius", Unit::px, {20, 1200, 1, most_length},
                          "Of a mesh: of the point farthest from its middle")
        .only_when("kind", "cylinder|sphere|mesh"),
    number<&Body::width>("width", "Width", Unit::px, {20, 2400, 1, most_length}, "From side to side")
        .only_when("kind", "box"),
    number<&Body::height>("height", "Height", Unit::px, {20, 2400, 1, most_length}, "From bottom to top")
        .only_when("kind", "cylinder|box"),
    number<&Body::depth>("depth", "Depth", Unit::px, {20, 2400, 1, most_length}, "From front to back")
        .only_when("kind", "box"),
    number<&Body::round>("round", "Round edges", Unit::px, {0, 120, 0, most_length}, "Radius of its edges")
        .only_when("kind", "cylinder|box"),
    bathylux::file<&Body::file>("file", "Mesh", "glTF, OBJ, PLY or STL").only_when("kind", "mesh"),
    choice<&Body::wrap, wrap_names>("wrap", "The canvas is", "A label laid on, or the whole skin")
        .reads(wrap_words)
        .only_when("kind", "cylinder|sphere|box|mesh"),
    number<&Body::u>("u", "Around", Unit::px, {-1200, 1200, -most_length, most_length},
                     "Along the surface, to the right of the place that faces you"),
    number<&Body::v>("v", "Down", Unit::px, {-1200, 1200, -most_length, most_length},
                     "Along the surface, down from the place that faces you"),
    number<&Body::turn>("turn", "Turn", Unit::degrees, {-180, 180}, "Counter-clockwise as seen"),
    number<&Body::scale>("scale", "Size", Unit::ratio, {0.1, 3, 0.001, 1000}, "Of the label")
        .as(Said::percent)
        .only_when("wrap", "placed"),
    number<&Body::scale_u>("scale_u", "Scale across", Unit::ratio, {0.1, 3, 0.001, 1000},
                           "Stretches the label along its width")
        .as(Said::percent)
        .ranked(Rank::folded)
        .only_when("wrap", "placed"),
    number<&Body::scale_v>("scale_v", "Scale along", Unit::ratio, {0.1, 3, 0.001, 1000},
                           "Stretches the label along its height")
        .as(Said::percent)
        .ranked(Rank::folded)
        .only_when("wrap", "placed"),
    toggle<&Body::repeat>("repeat", "Again and again", "The label covers the body like tiles")
        .only_when("wrap", "placed"),
    number<&Body::relief>("relief", "Relief", Unit::ratio, {-2, 4, -1000, 1000},
                          "Factor on heights; negative presses in what was raised"),
    number<&Body::shift>("shift", "Shift", Unit::px, {-40, 40, -most_length, most_length},
                         "Moves the whole skin outwards"),
    number<&Body::fineness>("fineness", "Mesh", Unit::px, {1, 16, 0.25, 1000},
                            "Between the points of the geometry; finer detail shows in the shading alone"),
    toggle<&Body::smooth>("smooth", "Rounded facets", "A mesh's own facets are shaded as one smooth surface")
        .only_when("kind", "mesh"),
    bathylux::color<&Body::color>("color", "Colour",
                                  "Past the label's edge, and where the canvas is transparent"),
    bathylux::color<&Body::backdrop>("backdrop", "Backdrop", "What is seen behind it").ranked(Rank::hidden),
};

constexpr std::array<Parameter, 10> Camera::parameters{
    number<&Camera::turn>("turn", "Turn", Unit::degrees, {-180, 180}, "Round to the right"),
    number<&Camera::tilt>("tilt", "Tilt", Unit::degrees, {-90, 90, -90, 90}, "Up over it"),
    number<&Camera::roll>("roll", "Roll", Unit::degrees, {-180, 180}, "Turns the picture counter-clockwise")
        .ranked(Rank::folded),
    number<&Camera::distance>("distance", "Distance", Unit::px, {100, 6000, 1, most_length},
                              "From what it looks at"),
    number<&Camera::field>("field", "Field of view", Unit::degrees, {0, 90, 0, 160},
                           "From the picture's bottom to its top; 0: parallel, as high as the canvas"),
    number<&Camera::x>("x", "Looks at, across", Unit::px, {-1200, 1200, -most_length, most_length},
                       "From the canvas's middle to the right")
        .ranked(Rank::folded),
    number<&Camera::y>("y", "Looks at, up", Unit::px, {-1200, 1200, -most_length, most_length},
                       "From the canvas's middle up")
        .ranked(Rank::folded),
    number<&Camera::z>("z", "Looks at, nearer", Unit::px, {-1200, 1200, -most_length, most_length},
                       "From the canvas's middle towards you")
        .ranked(Rank::folded),
    number<&Camera::lens>("lens", "Lens", Unit::px, {0, 200, 0, most_length},
                          "Across; what lies out of focus blurs. 0: all is sharp")
        .ranked(Rank::folded),
    number<&Camera::focus>("focus", "Sharp at", Unit::px, {0, 6000, 0, most_length},
                           "From the camera; 0: what it looks at")
        .ranked(Rank::folded)
        .only_when("lens", ">0"),
};

constexpr std::array<Parameter, 3> GroundPlane::parameters{
    toggle<&GroundPlane::on>("on", "Ground under it", "Level ground that catches its shadow"),
    number<&GroundPlane::height>("height", "Ground at", Unit::px, {-1200, 0, -most_length, most_length},
                                 "Up from the canvas's middle")
        .only_when("on", "true"),
    bathylux::color<&GroundPlane::color>("color", "Ground's colour",
                                         "Where it is see-through it only catches shadow")
        .only_when("on", "true"),
};

} // namespace bathylux
