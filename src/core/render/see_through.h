#pragma once
#include <functional>

#include "core/step/bundle.h"

namespace bathylux {

/// A lit picture over a region: linear premultiplied R, G, B and coverage.
struct LitRegion {
    Region region;
    std::array<Field, 4> channels;
};

/// What an element that light goes through shows of what lies below it, over `wanted`: where the element's
/// own normal (of its own height) is n, the view ray (0, 0, −1) is refracted (Snell, from 1 to ior) into r
/// and goes t = max(0, thickness + own height) ÷ |r_z| px; seen is the picture below at p + (r_x, −r_y) t,
/// edges held (on a tile, continued), times (1 − F) × base colour × attenuation^(t ÷ distance), F by Schlick
/// with F0 =
/// ((ior − 1) ÷ (ior + 1))². Roughness blurs what is seen: a Gaussian of σ = thickness × roughness² ÷ 2.
/// Names of parameters as in KHR_materials_transmission, _ior and _volume.
///
/// `own` covers `wanted` and, as far as there is canvas, a px around it. `below` gives the picture below over
/// a region of the canvas that is asked for. Gives four fields over `wanted`: colour and coverage, straight
/// as seen (not yet times the element's coverage or transmission).
std::array<Field, 4> seen_below(const Bundle& own, Region wanted, Region canvas, double scale, Edge edge,
                                const std::function<LitRegion(Region)>& below);

} // namespace bathylux
