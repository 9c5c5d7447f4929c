#include "core/paint/paint_source.h"

#include "core/paint/painting.h"

namespace bathylux {

Bundle PaintSource::give(const SourceContext& context) const {
    Bundle out;
    out.region = context.region;
    if (!context.asset || !context.asset->painting) return out;
    out.gives_height = true;
    out.weight = 1.0f;
    out.height = Field(
        painted(*context.asset->painting, context.to_device, context.region, static_cast<float>(context.rise))
            .height);
    return out;
}

} // namespace bathylux
