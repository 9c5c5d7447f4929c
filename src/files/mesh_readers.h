#pragma once
#include <cstddef>
#include <span>
#include <string>

#include "core/solid/triangle_mesh.h"

namespace bathylux::files {

/// What is wrong with a mesh file, to follow its name.
struct MeshTrouble {
    std::string says;
};

// Readers of the plain mesh formats. They are ours because those of the libraries at hand go round for ever,
// or past the end, on files that are cut or altered; every count is held against the bytes there are before
// anything is made of it. Indices and numbers are checked by who calls them. Throw MeshTrouble.

/// Binary or text, by the length the count of facets asks for.
void read_stl(std::span<const std::byte> bytes, TriangleMesh& to);
/// Text or binary of either order; faces of any number of corners as fans; s, t or u, v of points.
void read_ply(std::span<const std::byte> bytes, TriangleMesh& to);
/// v, vt and f; all groups and objects in one.
void read_obj(std::span<const std::byte> bytes, TriangleMesh& to);
/// glTF 2.0, text with its buffers inside or GLB: the triangles of the default scene's nodes,
/// where they stand; pictures are not read.
void read_gltf(std::span<const std::byte> bytes, TriangleMesh& to);

} // namespace bathylux::files
