#pragma once
#include "core/solid/relief_mesh.h"

namespace bathylux {

/// A mesh of one's own with a relief on it: cut until no edge is longer than asked, and displaced.
struct MeshBody {
    using Point = TriangleMesh::Point;
    struct Corner {
        std::uint32_t point = 0;
        Point normal{};                   // that it is shaded with
        float canvas_x = 0, canvas_y = 0; // canvas px; not numbers where the canvas does not reach
    };
    std::vector<Point> base, points; // before and after the relief
    std::vector<std::array<Corner, 3>> triangles;
    bool coarser = false; // there would have been too many points
};

/// The mesh is moved so that the middle of its bounding box is the origin, and scaled so that its farthest
/// point lies at the body's radius. Points that lie at one place are one, so that nothing tears. `smooth`
/// rounds off edges up to 50°. Wrapped whole, the canvas lies by the mesh's texture coordinates, or where it
/// has none by longitude and latitude; placed, by px along the surface from the place that faces +z
/// (discrete exponential map, Schmidt, Grimm & Wyvill 2006).
MeshBody mesh_body(const Body& body, const TexelMap& texels, double canvas_width, double canvas_height,
                   double fineness, std::size_t most_points, const TriangleMesh& mesh);

/// The same to be written out.
ReliefMesh displaced_mesh(const Body& body, const TexelMap& texels, double canvas_width, double canvas_height,
                          const MeshOrder& order, const TriangleMesh& mesh);

} // namespace bathylux
