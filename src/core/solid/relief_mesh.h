#pragma once
#include "core/solid/skin.h"
#include "core/solid/triangle_mesh.h"

namespace bathylux {

/// How a relief becomes a mesh.
struct MeshOrder {
    double fineness = 4;          // px between points
    std::optional<double> base{}; // px: closed below, so far under height 0
    double error = 0;             // px: points that change the shape by no more are left out
    std::size_t most_points = 16'000'000;
};

/// The relief of a canvas as it lies on its body, as triangles; px, in the solid's space.
struct ReliefMesh {
    TriangleMesh mesh; // the skin's triangles first, then those of caps, base and walls
    std::size_t skin_triangles = 0;
    std::vector<Vec2> canvas;  // of every point, canvas px (of caps and base: of the edge they hang on)
    std::vector<Vec3> normals; // of the body under every point
    std::vector<Vec3> along;   // which way the canvas's x runs there, unit vectors
};

/// A mesh that spans the canvas (of a body that is a mesh: all of it). Without a base it is open, but for a
/// whole sphere, cylinder or box, which close by themselves. Leaving out points is by quadric errors (Garland
/// & Heckbert 1997; meshoptimizer). Throws Error where there would be too many points, or where the relief
/// is sunk deeper than its base.
ReliefMesh relief_mesh(const Body& body, const TexelMap& texels, double canvas_width, double canvas_height,
                       const MeshOrder& order, const TriangleMesh* of_body = nullptr);

} // namespace bathylux
