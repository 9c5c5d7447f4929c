#pragma once
#include <filesystem>

#include "core/render/solid_view.h"

namespace bathylux::files {

/// How a relief is written as a mesh.
struct MeshExport {
    double fineness = 0;             // px between points; 0: the body's
    std::optional<double> base_mm{}; // closed below, so far under height 0
    double error_mm = 0;             // points that change the shape by no more are left out
    int texture = 0; // px of the longer side of a GLB's textures; 0: the canvas's, at most 4096
};

/// Whether a path's ending is that of a mesh we write: STL, OBJ, PLY, GLB.
bool is_mesh_out(const std::filesystem::path& path);

/// Writes the relief on its body: STL (binary), PLY (binary) and OBJ in mm, GLB in metres with base colour,
/// normal, metallic and roughness as textures. Throws Error or Cancelled; the file appears only when whole.
void export_mesh(Evaluator& evaluator, const Scene& scene, const std::filesystem::path& path,
                 const MeshExport& how);

} // namespace bathylux::files
