#pragma once
#include "core/render/evaluate.h"
#include "core/solid/sheet.h"

namespace bathylux {

/// What a piece's solid is lit in, back to front; none where all of it is lit in one go.
struct SolidSheets {
    std::vector<SolidSheet> list;
    /// What throws shadow, where that is not all of the relief: light goes through the rest.
    std::shared_ptr<const TexelMap> solid;
};

/// `around`, `down`: the canvas goes on past its sides (see TexelMap). Kept in the evaluator's budget.
SolidSheets solid_sheets(Evaluator& evaluator, const Scene& scene, double scale, bool around, bool down);

} // namespace bathylux
