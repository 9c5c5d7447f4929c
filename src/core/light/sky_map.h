#pragma once
#include <array>
#include <functional>
#include <memory>
#include <vector>

#include "core/light/lights.h"

namespace bathylux {

struct Picture;
using Rgb = std::array<float, 3>;

/// Light from all directions (x right, y up, z towards the viewer), made ready to fall on surfaces.
///
/// Diffuse light comes from nine spherical harmonics (Ramamoorthi & Hanrahan 2001); reflections from the
/// radiance blurred by the GGX lobe for eight roughnesses, seen straight along the mirror direction (Karis
/// 2013), on an octahedral map.
class SkyMap {
  public:
    using Radiance = std::function<Rgb(const std::array<double, 3>& direction)>;
    explicit SkyMap(const Radiance& radiance);

    /// What a white matte surface of that normal sends on: the irradiance ÷ π.
    Rgb diffuse(float nx, float ny, float nz) const;
    /// What a mirror of that roughness sees along a direction.
    Rgb reflected(float x, float y, float z, float roughness) const;

  private:
    static constexpr int levels = 8;
    struct Level {
        int side = 0;
        std::vector<Rgb> texels; // (side + 2)², a border that folds over
    };
    static Level blurred(const Level& from, int side, double roughness);
    Rgb at(const Level& level, float u, float v) const;
    std::array<Level, levels> levels_;
    std::array<Rgb, 9> harmonics_{};
};

/// The radiance a sky light stands for; `panorama` (may be null) is read where its scene is a file: linear
/// light, straight up at the top row, the middle column towards the top of the canvas.
SkyMap::Radiance radiance_of(const SkyLight& sky, const std::shared_ptr<const Picture>& panorama);
/// The map of a sky light without its intensity and tint; the last few are kept.
std::shared_ptr<const SkyMap> sky_map_of(const SkyLight& sky, const std::shared_ptr<const Picture>& panorama);

/// The share of light a GGX surface reflects from a white sky: F0 × scale + F90 × offset (Karis 2013), by
/// quadrature.
struct EnvironmentShare {
    float scale, offset;
};
EnvironmentShare environment_share(float ndv, float roughness);
/// The same of KHR_materials_sheen's lobe for a white sheen.
float sheen_share(float ndv, float roughness);

} // namespace bathylux
