#pragma once
#include "core/render/obstruction.h"

namespace bathylux {

/// The lit picture of a relief that covers `region` and a pixel around it: colour (linear, premultiplied,
/// rolled off where the light says so), coverage, and the lights' bodies. `way` covers `region`.
Bundle lit_picture(const Bundle& relief, Region region, double scale, Edge edge, const Lighting& lighting,
                   const InTheWay& way);

/// The operation that lights a relief, and those that finish it: what the piece looks like in the end. Its
/// results are colour and coverage.
OperationPtr finished(Evaluator& evaluator, const Lit& lit, Graph& graph);

} // namespace bathylux
