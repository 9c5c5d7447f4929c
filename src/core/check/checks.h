#pragma once
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "core/render/evaluate.h"

namespace bathylux {

/// Something a practitioner would want to know before the work leaves the house: what, where, what would
/// help.
struct Finding {
    std::string check;    // "cliff", "terraces", "flattened", "flipped_green", "edges_do_not_meet",
                          // "clipped_light", "die_wall", "finer_than_mesh",
                          // "finer_than_solid"
    std::string says;     // a sentence
    Vec2 at;              // canvas px: the worst place
    std::string fix_says; // what the fix does, as a button would say it
    std::function<void(Piece&)> fix; // changes a piece so that the check passes
};

/// Between neighbouring pixels a height may differ by this much (76°) before its edge looks jagged.
constexpr float cliff_drop = 4;

/// Looks at the whole piece: cliffs steeper than the pixel grid can show, heights flattened by a tone
/// window or a stated range, lights that clip. Throws Cancelled when asked to stop.
std::vector<Finding> check_piece(Evaluator& evaluator, const Scene& scene);

} // namespace bathylux
