#pragma once
#include <memory>

#include "core/colour/blend.h"
#include "core/solid/texels.h"

namespace bathylux {

/// One of the sheets that what lies on a body falls into where something is seen through, or is lit by itself
/// before (see Layers). They all lie on the same skin, one over the other without a way between them but that
/// through a see-through one's thickness.
struct SolidSheet {
    enum class Part { lit, laid_over, seen_through };
    Part part = Part::lit;
    /// Lit: the sheet's colours on the heights and the surface of all up to it. Laid over: colours alone.
    /// Seen through: the element's colours on those heights.
    std::shared_ptr<const TexelMap> texels;
    std::shared_ptr<const TexelMap> own; // seen through: by itself, with what its surface lets through
    BlendMode blend = BlendMode::normal; // laid over, or seen through
    bool linear = false;
    float opacity = 1; // seen through; of others it is in their colours
};

} // namespace bathylux
