#include "core/colour/invert.h"

#include "core/colour/recolour.h"

namespace bathylux {

Bundle Invert::apply(const Bundle& below, const Context& context) const {
    return recoloured_by_channel(below, context, 1, -1, [](float c) { return 1 - c; });
}

} // namespace bathylux
