#pragma once
#include <array>
#include <string>

#include "core/step/parameter.h"

namespace bathylux {

enum class BodyKind : std::uint8_t { plane, cylinder, sphere, box, mesh };
enum class Wrap : std::uint8_t { placed, whole };

/// What the piece lies on, how it lies there, and what becomes of its height.
///
/// A label that is `placed` is as large as the canvas; (u, v) are px along the surface from the place that
/// faces the viewer (+z) to the label's middle, u right and v down. With `whole` the canvas is all the skin:
/// longitude across and latitude down on a sphere, round the sides of a cylinder or box, by the texture
/// coordinates of a mesh (by longitude and latitude where it has none); then u, v and turn turn it about.
struct Body {
    BodyKind kind = BodyKind::plane;
    float radius = 300;                           // px: cylinder, sphere; of a mesh's farthest point
    float width = 600, height = 900, depth = 600; // px: box; a cylinder's height
    float round = 0;                              // px: radius of the edges of cylinder and box
    std::string file;                             // of a mesh
    Wrap wrap = Wrap::placed;
    float u = 0, v = 0; // px along the surface
    float turn = 0;     // degrees, counter-clockwise as seen from outside
    float scale = 1, scale_u = 1, scale_v = 1;
    bool repeat = false;              // the label lies on the body again and again
    float relief = 1;                 // factor on heights
    float shift = 0;                  // px the whole skin is moved outwards
    float fineness = 4;               // px between the points of the geometry
    bool smooth = true;               // a mesh's facets are rounded off
    Color color = rgb(107, 111, 114); // where the canvas is transparent, and past the label's edge
    Color backdrop{32 / 255.0f, 36 / 255.0f, 39 / 255.0f, 0}; // behind it all

    static constexpr std::string_view id = "solid", name = "Body", help = "What the piece lies on";
    static const std::array<Parameter, 21> parameters;

    /// A plane is never wrapped: on it the canvas is a label however that stands.
    bool is_whole() const { return wrap == Wrap::whole && kind != BodyKind::plane; }
    /// The same with a size and repeat that count: what is all of the skin has neither.
    Body as_it_counts() const {
        Body out = *this;
        if (is_whole()) out.scale = out.scale_u = out.scale_v = 1, out.repeat = false;
        return out;
    }
};

/// From where the solid is seen.
struct Camera {
    float turn = 20, tilt = 15, roll = 0; // degrees: round to the right, up, the picture counter-clockwise
    float distance = 2400;                // px from what it looks at
    float field = 30;                     // degrees, vertical; 0: parallel, as high as the canvas
    float x = 0, y = 0, z = 0;            // what it looks at
    float lens = 0;                       // px across; what lies nearer or farther than the focus blurs
    float focus = 0;                      // px from the camera; 0: what it looks at

    static constexpr std::string_view id = "camera", name = "Camera", help = "From where the solid is seen";
    static const std::array<Parameter, 10> parameters;
};

/// Ground that the solid stands on, level; far from the body, beyond one and a half times its size, it fades
/// into the backdrop.
struct GroundPlane {
    bool on = false;
    float height = -450;           // px, up
    Color color = rgb(58, 61, 64); // what of it is see-through only catches shadow

    static constexpr std::string_view id = "ground", name = "Ground", help = "What the solid stands on";
    static const std::array<Parameter, 3> parameters;
};

} // namespace bathylux
