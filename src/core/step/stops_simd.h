#pragma once
#include "core/step/stops.h"

namespace bathylux {

constexpr int stop_stretches = 1024; // of 0…1, by which a place is looked up

/// Reads knots at a row of places: see MixedStops::row.
void read_stops(const MixedStops::Knots& knots, bool opaque, const float* t, int width,
                const std::array<float*, 4>& out);

} // namespace bathylux
