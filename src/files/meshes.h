#pragma once
#include <filesystem>
#include <memory>
#include <span>

#include "core/solid/triangle_mesh.h"
#include "files/pictures.h"

namespace bathylux::files {

/// Larger meshes are refused.
constexpr std::size_t most_mesh_bytes = std::size_t{256} << 20;
constexpr std::size_t most_mesh_triangles = 4'000'000, most_mesh_parts = 65536;

/// Whether a file name's ending is that of a mesh we read: glTF, GLB, OBJ, PLY, STL.
bool is_mesh_name(const std::filesystem::path& path);

/// A mesh out of the bytes of a file, all its parts in one. Throws Error: what is wrong with `name`.
std::shared_ptr<const TriangleMesh> read_mesh(std::span<const std::byte> bytes, const std::string& name);

} // namespace bathylux::files
