#pragma once
#include "core/step/stops.h"

namespace bathylux {

constexpr int stop_stretches = 1024; // of 0…1, by which a place is looked up

/// Reads knots at a row of places: see MixedStops::row.
void read_stops(const MixedStops::Knots& knots, bool opaque, const float* t, int width,
                const std::array<float*, 4>& out);
/// t = repeated(per × (value − from), held to 0…1); read and written up to the next multiple of 16.
void repeat_row(const float* values, float* t, int width, float from, float per, float repeats,
                bool mirrored);

} // namespace bathylux
