#pragma once
#include <functional>

#include "core/field/plane.h"

namespace bathylux {

/// Distance in px from the middle of every px to that of the nearest seed, exact; 1e10 where there is none.
/// `seeds` fills a row: 0 where a seed is, 1e20 elsewhere. By lower envelopes of parabolas, rows and then
/// columns (Felzenszwalb & Huttenlocher 2012): its time hangs on the size alone.
Plane distance_transform(int width, int height, const std::function<void(int y, float* row)>& seeds);

} // namespace bathylux
