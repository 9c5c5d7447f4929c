#pragma once
#include <utility>

#include "core/piece/piece.h"
#include "core/step/bundle.h"

namespace bathylux {

/// What an element serves as a map over `region`, 0…1 (see MapRef); where the element is not, nothing (0,
/// before it is swapped). `range`: its lowest and highest height, for MapOf::height. `per_px`: device px per
/// canvas px.
Field map_values(const Bundle& element, const MapRef& ref, std::pair<float, float> range, Region region,
                 float per_px);

/// The same for a step that reads it by a map of its own: straight, in the map's window (slopes have none),
/// one number or two, and how far there is anything.
MapField map_numbers(const Bundle& element, const MapRef& ref, std::pair<float, float> range, Region region,
                     float per_px);

/// Lowest and highest height of an element over the canvas; where it is not, 0.
std::pair<float, float> height_range_of(const Bundle& element, Region canvas);

/// after where `amount` is 1, before where it is 0; all over one region.
Bundle mixed(const Bundle& before, Bundle after, const Field& amount);

} // namespace bathylux
