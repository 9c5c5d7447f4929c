#pragma once
#include <array>
#include <cmath>

#include "core/field/geometry.h"
#include "core/solid/body.h"
#include "core/step/parameter.h"

namespace bathylux {

/// A place on a body whose whole skin the canvas is, as two angles: degrees round to the right from the
/// canvas's middle, and up from it (0 on a cylinder, whose heights are px).
struct BodyAngles {
    double round = 0, up = 0;

    static constexpr std::string_view id = "angles", name = "Angles", help = "Where on the body";
    static const std::array<Parameter, 2> parameters;
};

/// Whether places of a body have such angles, and whether they have both.
inline bool has_angles(const Body& body) {
    return body.wrap == Wrap::whole && (body.kind == BodyKind::sphere || body.kind == BodyKind::cylinder);
}

inline BodyAngles angles_of(const Body& body, Vec2 canvas, double width, double height) {
    return {std::remainder(360 * (canvas.x / width - 0.5), 360.0),
            body.kind == BodyKind::sphere ? 180 * (0.5 - canvas.y / height) : 0};
}

/// The place of the canvas, within it; on a cylinder as high as `before`.
inline Vec2 place_of(const Body& body, const BodyAngles& angles, Vec2 before, double width, double height) {
    const double turns = angles.round / 360 + 0.5;
    return {width * (turns - std::floor(turns)),
            body.kind == BodyKind::sphere ? height * (0.5 - angles.up / 180) : before.y};
}

} // namespace bathylux
