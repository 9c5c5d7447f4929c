#pragma once
#include <array>
#include <functional>
#include <string_view>
#include <utility>

#include "core/light/shade.h"
#include "core/render/evaluate.h"

namespace bathylux {

/// What can be looked at and delivered.
enum class View { art, height, normals, lit };
inline constexpr std::array<std::string_view, 4> view_names{"art", "height", "normals", "lit"};

/// Some rows of a view. Art and lit: linear premultiplied R, G, B and alpha. Height: one channel, canvas px.
/// Normals: x right, y up, z.
struct Strip {
    Region region; // device px
    std::vector<Field> channels;
};

/// One view over `region`, from a relief that covers it and a pixel around it (as far as there is canvas).
Strip view_of(View view, const Bundle& relief, Region region, double scale, Edge edge,
              const Lighting& lighting, std::stop_token stop = {});

/// A pixel around `wanted` for the normals; the whole canvas where it is a tile, whose edges meet.
Region region_with_neighbours(const Canvas& canvas, Region wanted, double scale);

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
