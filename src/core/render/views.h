#pragma once
#include <array>
#include <functional>
#include <string_view>
#include <utility>

#include "core/light/shade.h"
#include "core/render/evaluate.h"

namespace bathylux {

/// The light of a scene: its lights where the elements they go with lie, panoramas from its files.
Lighting lighting_of(const Scene& scene);

/// What can be looked at and delivered.
enum class View { art, height, normals, lit, occlusion, slope, curvature, roughness, metallic, mask };
inline constexpr std::array<std::string_view, 10> view_names{
    "art", "height", "normals", "lit", "occlusion", "slope", "curvature", "roughness", "metallic", "mask"};

/// The lit picture taken apart; the parts, linear and premultiplied, add up to it. What shadow and occlusion
/// take away is negative.
enum class Part { ambient, occlusion, diffuse, highlights, shadow };
inline constexpr std::array<std::string_view, 5> part_names{"ambient", "occlusion", "diffuse", "highlights",
                                                            "shadow"};
struct LitParts {
    std::array<std::array<Plane, 3>, 5> parts; // in the order of Part
};
LitParts lit_parts(const Bundle& relief, Region region, double scale, Edge edge, const Lighting& lighting,
                   std::stop_token stop = {});

/// Some rows of a view. Art and lit: linear premultiplied R, G, B and alpha. Height: one channel, canvas px.
/// Normals: x right, y up, z. The rest have one channel: occlusion 0…1 (see core/light/occlusion.h), slope in
/// degrees from level, curvature in 1 ÷ canvas px (mean of both ways, positive where it bulges), roughness,
/// metallic and mask (the coverage) 0…1.
struct Strip {
    Region region; // device px
    std::vector<Field> channels;
};

/// One view over `region`, from a relief that covers it and a pixel around it (as far as there is canvas).
Strip view_of(View view, const Bundle& relief, Region region, double scale, Edge edge,
              const Lighting& lighting, std::stop_token stop = {});

/// Whether a view needs the whole relief, however small a part is wanted: occlusion, and lights that cast
/// shadow.
bool looks_far(View view, const Lighting& lighting);

/// Channels of a view, and whether it is a colour (sRGB in whole numbers, with alpha).
int channels_of(View view);
bool is_color(View view);
/// A single channel's value as whole numbers hold it, 0…1: slope ÷ 90°, ½ + 2 × curvature, the rest as they
/// are.
float as_share(View view, float value);

/// Two pixels around `wanted` for normals and curvature; the whole canvas where it is a tile, whose edges
/// meet, and for the occlusion, which looks as far as the canvas goes.
Region region_with_neighbours(const Canvas& canvas, Region wanted, double scale, bool whole = false);

/// Renders a whole piece from top to bottom in strips, so that memory does not grow with its height, and
/// hands each to `sink`. Throws Cancelled when asked to stop.
void render_strips(Evaluator& evaluator, const Scene& scene, View view, double scale,
                   const std::function<void(const Strip&)>& sink, std::stop_token stop = {},
                   const Evaluator::Progress& progress = {});

/// Lowest and highest height in canvas px; where the canvas states a range, that.
std::pair<float, float> stated_range(Evaluator& evaluator, const Scene& scene, double scale,
                                     std::stop_token stop = {});
/// Of a plane or constant.
std::pair<float, float> range_of(const Field& field);

} // namespace bathylux
