#pragma once
#include <functional>
#include <optional>
#include <string_view>

#include "core/render/evaluate.h"

namespace bathylux {

/// What a check measures at every px of the relief, and from where on that is too much.
struct Fault {
    int overlap = 1; // px around a region that are read
    float limit = 0;
    /// Over `own`, of a relief that covers it and the overlap, as far as there is canvas.
    std::function<Plane(const Bundle& relief, Region own)> measure;
};

/// Of "die_wall" (how much a px rises a px), "finer_than_mesh" and "finer_than_solid" (px of height that
/// points so far apart cannot hold); none where the piece asks for no such thing.
std::optional<Fault> fault_of(const Piece& piece, std::string_view check);

/// Px between the points of the canvas's mesh, and of the solid's geometry where it is cut finest, on the
/// canvas; 0: none.
double mesh_pitch(const Piece& piece);
double solid_pitch(const Piece& piece);

/// How much of a relief is at fault, and where most.
struct FaultSurvey {
    long long at_fault = 0, all = 0;
    float worst = 0;
    Vec2 at; // canvas px
};
FaultSurvey survey(Evaluator& evaluator, const Scene& scene, const Fault& fault);

/// 1 where it is at fault, else 0: px of the canvas.
Plane fault_map(Evaluator& evaluator, const Scene& scene, const Fault& fault);

} // namespace bathylux
