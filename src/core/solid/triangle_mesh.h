#pragma once
#include <array>
#include <cstdint>
#include <vector>

namespace bathylux {

/// Triangles over shared points, counter-clockwise as seen from outside.
struct TriangleMesh {
    using Point = std::array<float, 3>;
    std::vector<Point> points;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    /// Texture coordinates of every triangle's corners, v down as glTF has it; empty where there are none.
    std::vector<std::array<std::array<float, 2>, 3>> texture;
    std::uint64_t hash = 0;
};

} // namespace bathylux
