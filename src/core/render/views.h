#pragma once
#include <array>
#include <functional>
#include <string_view>
#include <utility>

#include "core/render/evaluate.h"
#include "core/render/lighting.h"

namespace bathylux {

/// What can be looked at and exported.
/// `unfinished` is the lit picture without the piece's finish.
enum class View {
    art,
    height,
    normals,
    lit,
    occlusion,
    slope,
    curvature,
    roughness,
    metallic,
    mask,
    unfinished
};
inline constexpr std::array<std::string_view, 11> view_names{
    "art",       "height",    "normals",  "lit",  "occlusion",     "slope",
    "curvature", "roughness", "metallic", "mask", "lit_unfinished"};
inline bool is_lit(View view) { return view == View::lit || view == View::unfinished; }

/// Channels of a view, and whether it is a colour (sRGB in whole numbers, with alpha).
int channels_of(View view);
bool is_color(View view);
/// A single channel's value as whole numbers hold it, 0…1: slope ÷ 90°, ½ + 2 × curvature, the rest as they
/// are.
float as_share(View view, float value);

/// A view over a region. Art and lit: linear premultiplied R, G, B and alpha. Height: one channel, canvas px.
/// Normals: x right, y up, z. The rest have one channel: occlusion 0…1 (see core/light/occlusion.h), slope in
/// degrees from level, curvature in 1 ÷ canvas px (mean of both ways, positive where it bulges), roughness,
/// metallic and mask (the coverage) 0…1.
struct Strip {
    Region region; // device px
    std::vector<Field> channels;
};

/// The one question that everybody asks: this view of this region at this scale. The lit picture is rolled
/// off and shows the lights' bodies, as the piece says. Throws Cancelled when asked to stop.
Strip look(Evaluator& evaluator, const Scene& scene, View view, Region region, double scale,
           const Progress& progress = {});
/// Several views at once, whose common parts are made once.
std::vector<Strip> look(Evaluator& evaluator, const Scene& scene, const std::vector<View>& views,
                        Region region, double scale, const Progress& progress = {});
/// The whole canvas from top to bottom, band by band, so that memory does not grow with its height; a strip a
/// view.
void look_in_bands(Evaluator& evaluator, const Scene& scene, const std::vector<View>& views, double scale,
                   const std::function<void(const std::vector<Strip>&)>& sink, const Progress& progress = {});

/// One view of a relief that is at hand and covers `region` and a pixel around it (as far as there is
/// canvas); what stands in the light's way is looked for within it.
Strip view_of(View view, const Bundle& relief, Region region, double scale, Edge edge,
              const Lighting& lighting);

/// Lowest and highest height in canvas px; where the canvas states a range, that.
std::pair<float, float> stated_range(Evaluator& evaluator, const Scene& scene, double scale);
/// Of a plane or constant.
std::pair<float, float> range_of(const Field& field);

} // namespace bathylux
