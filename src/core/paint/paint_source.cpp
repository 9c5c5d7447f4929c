#include "core/paint/paint_source.h"

#include "core/field/hash.h"
#include "core/paint/painting.h"

namespace bathylux {

Bundle PaintSource::give(const SourceContext& context) const {
    Bundle out;
    out.region = context.region;
    if (context.ink && context.ink->inked()) {
        auto planes = ink_of(*context.ink, context.to_device, context.region);
        for (std::size_t c = 0; c < 3; ++c) out.color[c] = Field(std::move(planes[c]));
        out.coverage = Field(std::move(planes[3]));
        const Region r = context.region;
        const Affine& m = context.to_device;
        out.coverage_hash = (Hash() << "ink" << context.ink->hash() << m.a << m.b << m.c << m.d << m.e << m.f
                                    << r.x0 << r.y0 << r.x1 << r.y1)
                                .value();
    }
    const Painting* painting = context.asset ? context.asset->painting.get() : nullptr;
    if (!painting || file.empty()) return out;
    out.gives_height = true;
    out.weight = 1.0f;
    out.height =
        Field(painted(*painting, context.to_device, context.region, static_cast<float>(rise * context.rise))
                  .height);
    return out;
}

} // namespace bathylux
