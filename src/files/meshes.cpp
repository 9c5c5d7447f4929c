#include "files/meshes.h"

#include <algorithm>
#include <cmath>

#include "core/error.h"
#include "core/field/hash.h"
#include "files/mesh_readers.h"
#include "files/sample_encoder.h"

namespace bathylux::files {

namespace {

using Reader = void (*)(std::span<const std::byte>, TriangleMesh&);
constexpr std::array<std::pair<std::string_view, Reader>, 5> readers{
    {{".glb", read_gltf}, {".gltf", read_gltf}, {".obj", read_obj}, {".ply", read_ply}, {".stl", read_stl}}};

Reader reader_of(const std::filesystem::path& path) {
    const std::string ending = ending_of(path);
    for (const auto& [name, read] : readers)
        if (name == ending) return read;
    return nullptr;
}

} // namespace

bool is_mesh_name(const std::filesystem::path& path) { return reader_of(path) != nullptr; }

std::shared_ptr<const TriangleMesh> read_mesh(std::span<const std::byte> bytes, const std::string& name) {
    const Reader read = reader_of(name);
    if (!read) throw Error(name + " is no mesh: a body takes glTF, GLB, OBJ, PLY or STL.");
    if (bytes.size() > most_mesh_bytes) throw Error(name + " is larger than 256 MiB: make the mesh smaller.");
    auto out = std::make_shared<TriangleMesh>();
    try {
        read(bytes, *out);
    } catch (const MeshTrouble& trouble) {
        throw Error(name + " " + trouble.says);
    }
    for (const auto& p : out->points)
        for (const float v : p)
            if (!std::isfinite(v) || std::abs(v) > 1e12f)
                throw Error(name + " has points that are no places: it cannot be used as a body.");
    for (const auto& t : out->triangles)
        for (const std::uint32_t i : t)
            if (i >= out->points.size())
                throw Error(name + " names points that it does not have: it is damaged.");
    for (const auto& t : out->texture)
        for (const auto& uv : t)
            if (!std::isfinite(uv[0]) || !std::isfinite(uv[1]))
                throw Error(name + " has texture coordinates that are no numbers.");
    if (out->triangles.empty()) throw Error(name + " has no triangles.");
    if (out->texture.size() != out->triangles.size()) out->texture.clear();
    out->hash = Hash().bytes(bytes.data(), bytes.size()).value();
    return out;
}

} // namespace bathylux::files
