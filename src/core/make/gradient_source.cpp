#include "core/make/gradient_source.h"

#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/field/srgb_simd.h"
#include "core/make/shapes.h"
#include "core/step/color_words.h"
#include "core/step/height.h"
#include "core/step/step_kind.h"

namespace bathylux {

Bundle GradientSource::give(const SourceContext& context) const {
    const Box place = box(context.canvas);
    // The rectangle's exact edge, black; then its colours.
    const std::vector<Layer> rectangle{
        {rectangle_outline(place.width(), place.height(), 0), Color{0, 0, 0, 1}}};
    const std::uint64_t named = (Hash() << "gradient" << place.width() << place.height()).value();
    Bundle out = shapes_bundle(context, rectangle, named);
    const Gradient gradient({shape, angle, repeats, mirrored}, stops, mix_in, place, context.to_device);
    if (gradient.opaque() && !context.wanted.has(channel::color | channel::tone)) return out;
    const Region r = out.region;
    const int w = r.width(), h = r.height();
    const Field cover = out.coverage;
    const Rows covered(cover, w);
    std::array<Plane, 3> color{Plane(w, h), Plane(w, h), Plane(w, h)};
    Plane alpha = gradient.opaque() ? Plane() : Plane(w, h);
    parallel_rows(0, h, [&](int y) {
        std::vector<float> own(static_cast<std::size_t>(w) + 16);
        const std::array<float*, 3> rgb{color[0].row(y), color[1].row(y), color[2].row(y)};
        gradient.row(r.x0, r.y0 + y, w, {rgb[0], rgb[1], rgb[2], own.data()});
        for (int x = 0; x < w; ++x) own[x] *= covered(y)[x];
        decode_row(rgb, own.data(), w, true);
        if (!gradient.opaque()) std::copy_n(own.data(), w, alpha.row(y));
    });
    for (int c = 0; c < 3; ++c) out.color[c] = Field(std::move(color[c]));
    if (gradient.opaque()) return out;
    // Where colours let something through, the edge is that of what they cover.
    out.coverage = Field(std::move(alpha));
    out.silhouette.reset();
    out.coverage_hash = (Hash() << "gradient's" << context.hash << out.coverage_hash).value();
    return out;
}

std::string GradientSource::says() const {
    std::string out =
        in_words(stops) + ", " + std::string(gradient_shape_words[static_cast<std::size_t>(shape)]);
    if (repeats != 1 && shape != GradientShape::corners) out += ", " + counted(repeats) + " times";
    return out;
}

} // namespace bathylux
