#include "core/relief/median_step.h"

#include "core/field/median.h"
#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

Bundle Median::apply(const Bundle& below, const Context& context) const {
    Bundle out = cropped(below, context.region);
    const int r = static_cast<int>(std::lround(radius * context.length));
    if (!below.gives_height || r < 1) return out;
    Bundle whole = below;
    Plane& height = whole.height.writable(below.region.width(), below.region.height());
    if (!(below.weight.is_constant() && below.weight.constant() == 1)) {
        const Rows k(below.weight, below.region.width());
        parallel_rows(0, height.height(), [&](int y) {
            for (int x = 0; x < height.width(); ++x)
                if (k(y)[x] < 0.5f) height(x, y) = 0;
        });
    }
    out.height = Field(median(height, below.region, context.region, r, context.canvas_edge));
    return out;
}

} // namespace bathylux
