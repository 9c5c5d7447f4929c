#pragma once
#include "core/render/evaluate.h"
#include "core/render/lighting.h"

namespace bathylux {

/// The heights of a relief over the whole canvas, at whatever scale.
using HeightsAt = std::function<Bundle(Evaluator&, double scale)>;

/// A relief whose light is asked for.
struct Lit {
    const Scene& scene;
    OperationPtr relief;
    Region canvas;
    double scale;
    Lighting lighting;
    HeightsAt heights_at; // of that relief
};

/// What stands in the way of a scene's lamps and skies over `wanted` (within the canvas), wherever on the
/// canvas it stands.
///
/// Canvases of one tile, and those whose edges meet, are looked at as a whole. Larger ones are cut into
/// blocks: around a block a window of the relief is swept, as wide as what can throw a shadow into it, up to
/// a limit; what lies beyond is seen from a coarser picture (see Beyond). Blocks are the same whatever is
/// asked for, and are kept in 16 bits a px: a light that did not change, or part of a canvas that is not
/// looked at, costs nothing.
InTheWay in_the_way(Evaluator& evaluator, const Lit& lit, Region wanted);

} // namespace bathylux
