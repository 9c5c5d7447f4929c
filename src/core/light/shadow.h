#pragma once

#include "core/field/plane.h"
#include "core/light/beyond.h"
#include "core/light/lamp.h"

namespace bathylux {

/// How much of a lamp every place of a relief sees, 0…1. `height` is in canvas px and covers `region` (device
/// px, `per_px` a canvas px); with Edge::repeat the relief goes on past its edges for far lights.
///
/// The light's disc is cut into upright slices, each seen over its own horizon (see horizon.h). Its angular
/// diameter is `lamp.size` degrees for far lights, for others that of a ball of `lamp.size` canvas px at its
/// distance; a strip is several balls along it. Size 0 throws a hard shadow, anti-aliased over what a px of
/// height would hide.
///
/// The relief may be a window of a larger one (`around`, whose heights are device px); what stands there
/// counts as well.
Plane shadow(const Field& height, Region region, float per_px, Edge edge, const Lamp& lamp,
             const Surroundings& around = {});

/// How far beyond a place, device px, something can stand that hides the lamp from it, where heights run from
/// `lowest` to `highest` (device px); `region`: where the place may be.
double reach_of_shadow(const Lamp& lamp, float per_px, float lowest, float highest, Region region);

} // namespace bathylux
