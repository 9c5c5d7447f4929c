#include "core/piece/surface_starts.h"

#include <array>

namespace bathylux {

std::span<const SurfaceStart> surface_starts() {
    // Roughness, metallic, specular; coat and its roughness; sheen, its roughness and tint; own colour, and
    // which.
    static const std::array<SurfaceStart, 16> starts{{
        {"Matte paper", {0.95f, 0, 0.5f, 0, 0.1f, 0, 0.5f, 0.5f, 0, {0.949f, 0.937f, 0.902f, 1}}},
        {"Satin print", {0.45f, 0, 1, 0.25f, 0.4f, 0, 0.5f, 0.5f, 0, {0.910f, 0.894f, 0.855f, 1}}},
        {"Enamel", {0.35f, 0, 1, 1, 0.06f, 0, 0.5f, 0.5f, 0, {0.722f, 0.196f, 0.165f, 1}}},
        {"Cast iron", {0.68f, 0.9f, 1, 0, 0.1f, 0, 0.5f, 0.5f, 0.85f, {0.247f, 0.251f, 0.259f, 1}}},
        {"Brushed brass", {0.38f, 1, 1, 0, 0.1f, 0, 0.5f, 0.5f, 1, {0.847f, 0.698f, 0.361f, 1}}},
        {"Gilt", {0.22f, 1, 1, 0, 0.1f, 0, 0.5f, 0.5f, 1, {1.000f, 0.824f, 0.478f, 1}}},
        {"Rubber", {0.82f, 0, 0.6f, 0, 0.1f, 0.15f, 0.6f, 0.3f, 0.8f, {0.165f, 0.165f, 0.173f, 1}}},
        {"Moulded plastic", {0.4f, 0, 1, 0, 0.1f, 0, 0.5f, 0.5f, 0, {0.816f, 0.831f, 0.847f, 1}}},
        {"Felt", {1, 0, 0.15f, 0, 0.1f, 0.9f, 0.75f, 0.7f, 0, {0.416f, 0.478f, 0.290f, 1}}},
        {"Wax", {0.5f, 0, 0.8f, 0.3f, 0.35f, 0.25f, 0.8f, 0.9f, 0, {0.941f, 0.886f, 0.722f, 1}}},
        {"Wet slate", {0.55f, 0, 1, 0.9f, 0.08f, 0, 0.5f, 0.5f, 0.7f, {0.235f, 0.267f, 0.290f, 1}}},
        {"Clear glass",
         {.roughness = 0.03f,
          .own_color = 1,
          .color = rgb(255, 255, 255),
          .transmission = 0.97f,
          .thickness = 40,
          .attenuation_color = rgb(199, 232, 227),
          .attenuation_distance = 260}},
        {"Frosted glass",
         {.roughness = 0.55f,
          .specular = 0.8f,
          .own_color = 1,
          .color = rgb(255, 255, 255),
          .transmission = 0.85f,
          .ior = 1.45f,
          .thickness = 60,
          .attenuation_color = rgb(230, 242, 245),
          .attenuation_distance = 400}},
        {"Candle-lit glass paste",
         {.roughness = 0.22f,
          .coat = 0.7f,
          .coat_roughness = 0.06f,
          .sheen = 0.2f,
          .sheen_tint = 1,
          .own_color = 0.6f,
          .color = rgb(235, 158, 77),
          .transmission = 0.7f,
          .ior = 1.6f,
          .thickness = 36,
          .attenuation_color = rgb(196, 92, 26),
          .attenuation_distance = 40}},
        {"Water",
         {.roughness = 0.02f,
          .own_color = 1,
          .color = rgb(255, 255, 255),
          .transmission = 0.98f,
          .ior = 1.33f,
          .thickness = 24,
          .attenuation_color = rgb(115, 191, 199),
          .attenuation_distance = 220}},
        {"Lens",
         {.roughness = 0.01f,
          .coat = 0.3f,
          .coat_roughness = 0.02f,
          .own_color = 1,
          .color = rgb(255, 255, 255),
          .transmission = 1,
          .ior = 1.7f,
          .thickness = 90}},
    }};
    return starts;
}

} // namespace bathylux
