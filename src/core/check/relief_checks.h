#pragma once
#include "core/check/checks.h"

namespace bathylux {

// The checks of the relief that need more than one look at it; each appends what it finds.

/// Heights of an element that are a ladder of 8-bit levels, wide enough to show.
void look_for_terraces(Evaluator& evaluator, const Scene& scene, std::vector<Finding>& out);
/// Normal maps read against what their curl says.
void look_for_flipped_green(Evaluator& evaluator, const Scene& scene, std::vector<Finding>& out);
/// Of a tile: edges across which the height leaps more than it does beside them.
void look_for_edges(Evaluator& evaluator, const Scene& scene, std::vector<Finding>& out);
/// Where a draft is stated: walls that lean less.
void look_for_die_walls(Evaluator& evaluator, const Scene& scene, std::vector<Finding>& out);
/// Where a mesh is stated: detail that it cannot hold.
void look_for_fine_detail(Evaluator& evaluator, const Scene& scene, std::vector<Finding>& out);

/// Of a solid: detail that its geometry cannot hold.
void look_for_detail_of_solid(Evaluator& evaluator, const Scene& scene, std::vector<Finding>& out);

std::string name_of(const Element& element);
/// The front-most element whose own height changes most of the way within `reach` px around a place; null if
/// none.
const Element* owner_of_steepness(Evaluator& evaluator, const Scene& scene, const Elements& list, Vec2 at,
                                  int reach);

} // namespace bathylux
