#pragma once
#include "core/render/obstruction.h"

namespace bathylux {

/// The operation whose results are what the piece looks like in the end: lit (see Layers), the lights' bodies
/// shown, finished where that is asked for, laid over the flat art, rolled off. Colour and coverage.
OperationPtr finished(const Lit& lit, Graph& graph, bool with_finish = true);

/// Lays a lit picture over the flat art, and rolls it off, as the light says; both over one region.
void show_as_told(const Lighting& lighting, const Bundle& art, Bundle& lit);

/// The lit picture of a relief that covers `region` and a pixel around it, without layers or finish: linear,
/// premultiplied, rolled off where the light says so, and the lights' bodies. `way` covers `region`.
Bundle lit_picture(const Bundle& relief, Region region, double scale, Edge edge, const Lighting& lighting,
                   const InTheWay& way);

} // namespace bathylux
