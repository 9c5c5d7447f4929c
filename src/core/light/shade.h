#pragma once
#include <array>
#include <span>
#include <stop_token>

#include "core/light/lamp.h"
#include "core/piece/bundle.h"

namespace bathylux {

/// Roughness below this would make the highlight of a point-like light a spike no float can hold.
constexpr float least_alpha = 1e-3f;

/// One row ready to be lit. Pointers are to rows readable (and, for `out`, writable) up to the next
/// multiple of 16.
struct ShadeRow {
    int width = 0;
    float x = 0, y = 0, step = 1;     // canvas px: first pixel's centre, and from one pixel to the next
    const float *nx, *ny, *nz;        // unit normal, y up
    const float* height;              // canvas px
    std::array<const float*, 3> base; // straight linear base colour
    const float *roughness, *metallic;
    std::array<float*, 3> out;        // linear light towards the viewer
    std::vector<const float*> seen{}; // per lamp, how much of it is seen, 0…1; null: all. Empty: all of all
    const float* sky = nullptr;       // how much of the ambient light arrives, 0…1; null: all
};

/// What is the same for the whole picture.
struct Lighting {
    std::vector<Lamp> lamps;
    std::array<float, 3> ambient{};
    float exposure = 1; // factor
    bool keep_flat_color = false;
    bool occlusion = false;                             // of the ambient light
    float occlusion_strength = 1, occlusion_radius = 0; // canvas px
    /// Whether some light has to know the whole relief.
    bool looks_far() const;
};
Lighting lighting_of(const Piece& piece);

/// Lights one row: glTF 2.0 metallic-roughness (Appendix B) seen along (0, 0, 1); with keep_flat_color,
/// base × L ÷ F, where F is what flat ground of the same surface would get at that place.
void shade_row(const ShadeRow& row, const Lighting& lighting);

/// Lights a bundle whose region covers context.region and, where there is more canvas, a pixel around it.
/// Gives linear colour premultiplied by coverage; coverage itself is untouched. `scale`: device px per
/// canvas px. Shadows and occlusion are those of what `relief` covers.
std::array<Plane, 3> shade(const Bundle& relief, Region wanted, double scale, Edge edge,
                           const Lighting& lighting, std::stop_token stop = {});

} // namespace bathylux
