#pragma once
#include "core/render/solid_sheets.h"
#include "core/solid/solid_picture.h"

namespace bathylux {

/// A relief over more px than this is read at a smaller scale.
constexpr double most_skin_px = 4.2e6;

/// What a skin is made of: the relief ready to be read, and the mesh where the body is one.
struct SkinParts {
    std::shared_ptr<const TexelMap> texels;
    std::shared_ptr<const TriangleMesh> mesh;
    SolidSheets sheets;
    bool repeats = false; // the canvas goes on past its sides
};
/// `in_sheets`: with what it is lit in, which a mesh has no use for.
SkinParts skin_parts(Evaluator& evaluator, const Scene& scene, bool in_sheets = false);

/// The solid of a piece (one on a plane where it has none), ready to be looked at. Geometry and relief are
/// kept in the evaluator's budget as long as neither the body nor the elements change. Throws Error where its
/// mesh is missing. `coarse`: where its geometry is not at hand, a coarser one is made, whose finer relief
/// shows in the normals.
SolidScene solid_scene(Evaluator& evaluator, const Scene& scene, bool coarse = false);

/// The lights of a scene as they stand about its solid.
Lighting lighting_in_space(const Scene& scene, const Laying& laying, const Camera& camera);

/// A light as it stands about the solid; none for skies.
std::optional<Lamp> lamp_about(const Piece& piece, const Light& light, const Laying& laying,
                               const Camera& camera);
/// Gives a light that stands in space or before the camera another place there (y up); of a far light, the
/// direction it comes from.
void put_about(const Piece& piece, Light& light, const Camera& camera, Vec3 place);

/// The piece seen from its camera after so many of the steps that lead once round it.
Piece turned_round(Piece piece, int step, int steps);

/// What a picture of the solid looks like in the end: before its backdrop, with the piece's finish over it,
/// laid over the flat art and rolled off as the piece says. Linear, premultiplied.
Bundle finished_solid(Evaluator& evaluator, const Scene& scene, const SolidScene& solid,
                      const SolidPicture& picture);

} // namespace bathylux
