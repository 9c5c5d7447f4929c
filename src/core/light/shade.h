#pragma once
#include <array>
#include <memory>
#include <span>

#include "core/colour/blend.h"
#include "core/light/lamp.h"
#include "core/light/sky_map.h"
#include "core/step/bundle.h"

namespace bathylux {

/// Roughness below this would make the highlight of a point-like light a spike no float can hold.
constexpr float least_alpha = 1e-3f;

/// The rows of a material. Where a pointer beyond `metallic` is null, every px has the plain value named.
struct MaterialRow {
    std::array<const float*, 3> base; // straight linear base colour
    const float *roughness, *metallic;
    const float* specular = nullptr;                                                 // 1
    const float *coat = nullptr, *coat_roughness = nullptr;                          // 0: none
    const float *sheen = nullptr, *sheen_roughness = nullptr, *sheen_tint = nullptr; // 0: none
};

/// One row ready to be lit. Pointers are to rows readable (and, for `out`, writable) up to the next
/// multiple of 16.
struct ShadeRow {
    /// Where the px of a row lie anywhere in space and are seen from anywhere, not side by side on the canvas
    /// and from (0, 0, 1): `x`, `y` (down) and the row's `height` are their places in the lamps' space;
    /// right, up and towards are the unit vectors (y up) of a view of its own, `towards` leading to the eye.
    /// Normals are then those in that view, x right, y up, z towards the eye, and so is `level`, that of what
    /// would be flat ground there.
    struct Space {
        const float *x, *y;
        std::array<const float*, 3> right, up, towards, level;
    };
    int width = 0;
    float x = 0, y = 0, step = 1; // the first px's centre, device px across, canvas px down; canvas px a px
    const float *nx, *ny, *nz;    // unit normal, y up
    const float* height;          // canvas px
    MaterialRow material;
    std::array<float*, 3> out;        // linear light towards the viewer
    std::vector<const float*> seen{}; // per lamp, how much of it is seen, 0…1; null: all. Empty: all of all
    const float* sky = nullptr;       // how much of the ambient light arrives, 0…1; null: all
    /// Light out of skies, added to that of the lamps, and what flat ground would get of it; null: none.
    std::array<const float*, 3> from_skies{}, from_skies_flat{};
    const Space* space = nullptr; // null: on the canvas
};

/// A sky in use.
struct SkyInUse {
    std::shared_ptr<const SkyMap> map;
    Rgb power; // intensity × tint
    bool shadow;
    std::uint64_t hash = 0; // names the map
};

/// How bright light is rolled off before it is shown: not at all; above 0.7 only; along an S.
enum class RollOff : std::uint8_t { none, gentle, film };

/// Which light counts: a picture of it all, or of a part of it. Parts add up to the whole.
struct Counted {
    bool diffuse = true, highlights = true; // of lamps and skies
    bool lamps = true, skies = true, ambient = true;
    bool shadow = true;    // heights stand in the lamps' way
    bool occlusion = true; // and in that of skies and ambient light
    bool bodies = true;    // lamps are seen themselves, where they are to be
};

/// What is the same for the whole picture.
struct Lighting {
    std::vector<Lamp> lamps;
    std::array<float, 3> ambient{};
    float exposure = 1; // factor
    bool keep_flat_color = false;
    bool occlusion = false;                             // of the ambient light
    float occlusion_strength = 1, occlusion_radius = 0; // canvas px
    std::vector<SkyInUse> skies{};
    RollOff roll_off = RollOff::none;
    float relight = 1; // strength of the lit picture over the flat one
    BlendMode relight_blend = BlendMode::normal;
    Counted counted{};
    /// Whether some light has to know the whole relief.
    bool looks_far() const;
};
/// Lights one row: glTF 2.0 metallic-roughness (Appendix B) with KHR_materials_specular, _clearcoat and
/// _sheen, seen along (0, 0, 1); with keep_flat_color, base × L ÷ F, where F is what flat ground of the same
/// surface would get at that place.
///
/// A light's size widens its highlight: α² grows by a fifth of its angular radius squared, as the half vector
/// turns half as far as the light. A strip is an integral over its length, by quadrature that gathers where
/// the integrand lies (equi-angular, Kulla & Fajardo 2012): about the foot for diffuse light, about the
/// mirror point for highlights.
void shade_row(const ShadeRow& row, const Lighting& lighting);
/// The same with all that comes out of skies; `open`: how much of the sky every px sees, 0…1 (null: all).
/// What `row` says of skies is filled in here.
void light_row(ShadeRow& row, const Lighting& lighting, float* open);

/// What stands in the way of lamps and skies over a region.
struct InTheWay {
    Region region;
    std::vector<std::shared_ptr<const Plane>> shadows; // one a lamp, how much of it is seen; null: all
    std::shared_ptr<const Plane> open;                 // part of the sky that is seen; null: all
};
/// Which of them have to be known: lamps that throw shadow, and whether the sky is hidden by places.
std::vector<bool> throw_shadow(const Lighting& lighting);
bool hides_sky(const Lighting& lighting);
/// The same of a height field by itself, over all of it.
InTheWay in_the_way(const Field& height, Region region, float per_px, Edge edge, const Lighting& lighting);

/// Lights a bundle whose region covers `wanted` and, where there is more canvas, a pixel around it.
/// Gives linear colour premultiplied by coverage; coverage itself is untouched. `scale`: device px per
/// canvas px. `way` covers `wanted`. Nothing is rolled off.
std::array<Plane, 3> shade(const Bundle& relief, Region wanted, double scale, Edge edge,
                           const Lighting& lighting, const InTheWay& way);
/// The same where nothing beyond `relief` stands in the way.
std::array<Plane, 3> shade(const Bundle& relief, Region wanted, double scale, Edge edge,
                           const Lighting& lighting);

/// Lays the bodies of lights that are shown over a lit picture of `wanted`, seen from above: discs and bars
/// as bright as a white surface lit straight on at their reach. What stands higher than a light hides it.
void show_bodies(const Lighting& lighting, Region wanted, double scale, const Bundle& relief,
                 std::array<Plane, 3>& lit, Field& coverage);

/// Bright light held back from clipping, per channel: `gentle` bends from 0.7 towards 1, `film` is an S-curve
/// that keeps middle grey, deepens what is dark and reaches 1 far beyond it.
float rolled_off(RollOff how, float linear);

} // namespace bathylux
