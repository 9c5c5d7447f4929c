#include "core/relief/raise.h"

#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

Bundle Raise::apply(const Bundle& below, const Context& context) const {
    Bundle out = cropped(below, context.region);
    const auto by = static_cast<float>(amount * context.rise);
    if (!out.gives_height || out.height.is_constant()) {
        const float before = out.gives_height ? out.height.constant() : 0.0f;
        if (!out.gives_height) out.weight = out.coverage;
        out.gives_height = true;
        out.height = Field(before + by);
        return out;
    }
    Plane& height = give_height(out);
    parallel_rows(0, height.height(), [&](int y) {
        for (float *h = height.row(y), *end = h + height.width(); h < end; ++h) *h += by;
    });
    return out;
}

} // namespace bathylux
