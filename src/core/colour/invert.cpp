#include "core/colour/invert.h"

#include "core/colour/recolour.h"

namespace bathylux {

Bundle Invert::apply(const Bundle& below, const Context& context) const {
    return recoloured<Values::encoded>(below, context, [](Rgb v) {
        return Rgb{1 - v[0], 1 - v[1], 1 - v[2]};
    });
}

} // namespace bathylux
