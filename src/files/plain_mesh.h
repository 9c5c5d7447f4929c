#pragma once
#include <array>
#include <cstdint>
#include <string>
#include <vector>

#include "files/package.h"

namespace bathylux::files {

/// Triangles as the plain mesh formats hold them: points in mm, with a normal or a texture coordinate each (v
/// up), or neither.
struct PlainMesh {
    std::vector<std::array<float, 3>> points, normals;
    std::vector<std::array<float, 2>> texture;
    std::vector<std::uint32_t> corners; // three a triangle
};

/// What the module that holds Assimp offers.
struct MeshModule {
    virtual ~MeshModule() = default;
    /// `ending`: ".stl" and ".ply" (both binary) or ".obj". Throws Error.
    virtual Bytes written(const PlainMesh& mesh, const std::string& ending) = 0;
};

} // namespace bathylux::files
