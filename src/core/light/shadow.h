#pragma once
#include <stop_token>

#include "core/field/plane.h"
#include "core/light/lamp.h"

namespace bathylux {

/// How much of a lamp every place of a relief sees, 0…1. `height` is in canvas px and covers `region` (device
/// px, `per_px` a canvas px); with Edge::repeat the relief goes on past its edges for far lights.
///
/// The light's disc is cut into upright slices, each seen over its own horizon (see horizon.h). Its angular
/// diameter is `lamp.size` degrees for far lights, for others that of a ball of `lamp.size` canvas px at its
/// distance; a strip is several balls along it. Size 0 throws a hard shadow, anti-aliased over what a px of
/// height would hide.
Plane shadow(const Field& height, Region region, float per_px, Edge edge, const Lamp& lamp,
             std::stop_token stop = {});

} // namespace bathylux
