#include "core/piece/surface_starts.h"

#include <array>

namespace bathylux {

std::span<const SurfaceStart> surface_starts() {
    // Roughness, metallic, specular; coat and its roughness; sheen, its roughness and tint; own colour, and which.
    static const std::array<SurfaceStart, 12> starts{{
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
        {"Candle-lit glass paste", {0.18f, 0, 1, 1, 0.03f, 0.35f, 0.6f, 1, 0, {0.769f, 0.416f, 0.165f, 1}}},
    }};
    return starts;
}

} // namespace bathylux
