#pragma once
#include "core/render/views.h"

namespace bathylux {

/// What the lit picture is taken apart into: the light, what stands in its way, and what is made of it.
enum class Part { ambient, occlusion, diffuse, highlights, shadow, finish };
inline constexpr std::array<std::string_view, 6> part_names{"ambient",    "occlusion", "diffuse",
                                                            "highlights", "shadow",    "finish"};
/// How many of them a piece has, from the first: without a step that finishes it, no `finish`.
std::size_t parts_of(const Piece& piece);

/// The lit picture taken apart. The parts, linear and premultiplied, add up to it before it is rolled off,
/// without the bodies of lights: a body that is seen is no light that falls on the art. What occlusion and
/// shadow take away is negative. Where what is lit already is mixed otherwise than light is (by other blend
/// modes than normal, or as sRGB values along soft edges and by opacity, or laid over the flat picture), it
/// is no plain sum; what is missing from it is in `shadow`. What the finish changes, either way, is in
/// `finish`.
struct LitParts {
    Region region;
    std::vector<std::array<Plane, 3>> parts; // in the order of Part
    Field coverage;
};

/// Of the whole canvas, seen through and finished as the lit picture is. Throws Cancelled.
LitParts lit_parts(Evaluator& evaluator, const Scene& scene, double scale, const Progress& progress = {});

/// A scene whose lit picture shows no bodies of lights, as one taken apart does.
Scene without_bodies(const Scene& scene);

} // namespace bathylux
