#pragma once
#include <utility>
#include <vector>

#include "core/field/plane.h"
#include "core/shape/outline.h"

namespace bathylux {

/// Share of every pixel's area that lies inside the flattened outline, 0…1, exact for simple outlines
/// (signed areas summed along rows, as in Levien 2016). Coordinates of `polyline` are those of `region`.
Plane coverage(const Polyline& polyline, Region region);

/// For every row of `region`, the stretches [begin, end) of pixels whose centres lie inside.
using Spans = std::vector<std::vector<std::pair<int, int>>>;
Spans inside_spans(const Polyline& polyline, Region region);
/// The same for a coverage picture: pixels more than half covered.
Spans inside_spans(const Field& coverage, Region region);

} // namespace bathylux
