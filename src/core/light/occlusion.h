#pragma once

#include "core/field/plane.h"
#include "core/light/beyond.h"

namespace bathylux {

struct Sky {
    int azimuths = 16;
    float radius = 0; // device px that are looked at; 0: as far as the relief goes
};

/// The cosine-weighted part of the sky that every place of a relief sees: 1 open, 0 shut, the hemisphere
/// about the surface's normal. `height` is in canvas px and covers `region`, `per_px` device px a canvas px;
/// with Edge::repeat the relief goes on past its edges, otherwise there is nothing beyond.
///
/// Per azimuth the horizon is found by sweeping lines across a sheared field (Timonen & Westerholm 2010, see
/// horizon.h); the integral over elevation is the closed form for a tilted normal (Jiménez et al. 2016),
/// clipped by the surface itself.
///
/// The relief may be a window of a larger one (`around`, whose heights are device px).
Plane occlusion(const Field& height, Region region, float per_px, Edge edge, const Sky& sky = {},
                const Surroundings& around = {});

} // namespace bathylux
