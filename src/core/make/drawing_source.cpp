#include "core/make/drawing_source.h"

#include "core/field/parallel.h"
#include "core/make/shapes.h"
#include "core/step/resample.h"

namespace bathylux {

namespace {

/// Gives shapes the colour of a picture that lies where they lie (a drawing's gradients).
void paint_over(Bundle& shape, const Asset& asset, const Affine& map) {
    const Picture& p = *asset.picture;
    const Affine to_picture = Affine::translation(p.width / 2.0, p.height / 2.0) *
                              Affine::scaling(p.width / asset.width, p.height / asset.height) * map.inverse();
    const PictureSampler sampler(p, to_picture, Edge::clamp, Picture::Reading::color, shape.region);
    const Region r = shape.region;
    const Rows cover(shape.coverage, r.width());
    std::array<Plane*, 3> to{};
    for (int c = 0; c < 3; ++c) to[c] = &shape.color[c].writable(r.width(), r.height());
    parallel_rows(0, r.height(), [&](int y) {
        for (int x = 0; x < r.width(); ++x) {
            const float a = cover(y)[x];
            if (a <= 0) continue;
            const auto rgba = sampler.at(r.x0 + x + 0.5, r.y0 + y + 0.5);
            if (rgba[3] <= 0) continue;
            for (int c = 0; c < 3; ++c) (*to[c])(x, y) = rgba[c] / rgba[3] * a;
        }
    });
}

} // namespace

Bundle SvgSource::give(const SourceContext& context) const {
    if (!context.asset || context.asset->layers.empty()) return {context.region};
    Bundle out = shapes_bundle(context, context.asset->layers, context.asset->hash);
    if (context.asset->picture && context.wanted.has(channel::color | channel::tone))
        paint_over(out, *context.asset, context.to_device);
    return out;
}

} // namespace bathylux
