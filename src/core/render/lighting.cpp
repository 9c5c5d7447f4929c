#include "core/render/lighting.h"

#include <algorithm>
#include <cmath>

#include "core/field/hash.h"
#include "core/field/srgb.h"
#include "core/render/tied_lights.h"

namespace bathylux {

bool shines(const std::vector<Light>& lights, const Light& light) {
    const bool any_alone = std::any_of(lights.begin(), lights.end(), [](const Light& l) { return l.alone; });
    return light.on && (light.alone || !any_alone);
}

Lighting lighting_of(const Piece& piece, const std::vector<Light>& lights, const Panoramas& panoramas) {
    const Ambient& a = piece.ambient;
    Lighting out;
    for (const Light& l : lights)
        if (shines(lights, l))
            if (const auto lamp = lamp_of(l.what)) out.lamps.push_back(*lamp);
    out.ambient = {a.intensity * srgb_decode(a.color.r), a.intensity * srgb_decode(a.color.g),
                   a.intensity * srgb_decode(a.color.b)};
    out.exposure = std::exp2(piece.exposure);
    out.keep_flat_color = piece.keep_flat_color;
    out.occlusion = a.occlusion, out.occlusion_strength = a.strength, out.occlusion_radius = a.radius;
    out.roll_off = piece.roll_off, out.relight = piece.relight, out.relight_blend = piece.relight_blend;
    for (const Light& l : lights)
        if (const auto* sky = l.what.as<SkyLight>(); sky && shines(lights, l)) {
            const auto found = panoramas.find(l.id);
            out.skies.push_back(
                {sky_map_of(*sky, found == panoramas.end() ? nullptr : found->second),
                 {sky->intensity * srgb_decode(sky->color.r), sky->intensity * srgb_decode(sky->color.g),
                  sky->intensity * srgb_decode(sky->color.b)},
                 sky->shadow,
                 (Hash() << l.what.hash() << (found == panoramas.end() ? 0 : found->second->hash)).value()});
        }
    return out;
}

Lighting lighting_of(const Piece& piece) {
    return lighting_of(piece, {piece.lights.begin(), piece.lights.end()});
}

Lighting lighting_of(const Scene& scene) {
    Panoramas panoramas;
    for (const Light& l : scene.piece->lights)
        if (const auto found = scene.assets->find(panorama_key(l.id));
            found != scene.assets->end() && found->second->picture)
            panoramas[l.id] = found->second->picture;
    Lighting out = lighting_of(*scene.piece, lights_on_canvas(*scene.piece), panoramas);
    out.counted = scene.counted;
    for (Lamp& l : out.lamps) l.body = l.body && out.counted.bodies;
    return out;
}

std::uint64_t hash_of(const Lighting& l) {
    Hash h;
    const auto add = [&](const auto&... v) { ((h << v), ...); };
    for (const Lamp& p : l.lamps) {
        add(p.directional, p.x, p.y, p.z, p.power[0], p.power[1], p.power[2], static_cast<int>(p.falloff),
            p.distance, p.shadow, p.size, p.cone, p.axis[0], p.axis[1], p.axis[2], p.cone_scale,
            p.cone_offset, p.half_length, p.along[0], p.along[1], p.along[2], p.body);
    }
    for (const SkyInUse& s : l.skies) add(s.hash, s.power[0], s.power[1], s.power[2], s.shadow);
    add(l.ambient[0], l.ambient[1], l.ambient[2], l.exposure, l.keep_flat_color, l.occlusion,
        l.occlusion_strength, l.occlusion_radius, static_cast<int>(l.roll_off), l.relight,
        static_cast<int>(l.relight_blend));
    const Counted& c = l.counted;
    add(c.diffuse, c.highlights, c.lamps, c.skies, c.ambient, c.shadow, c.occlusion);
    return h.value();
}

} // namespace bathylux
