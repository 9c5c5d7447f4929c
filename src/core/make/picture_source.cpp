#include "core/make/picture_source.h"

#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/make/shapes.h"
#include "core/step/resample.h"

namespace bathylux {

namespace {
void add(Hash& h, const Affine& m) { h << m.a << m.b << m.c << m.d << m.e << m.f; }
} // namespace

Bundle picture_bundle(const SourceContext& context, const Asset& asset) {
    Bundle out;
    const Region region = context.region;
    out.region = region;
    const Picture& p = *asset.picture;
    const Edge edge = context.edge;
    const Affine& map = context.to_device;
    const Affine to_picture = Affine::translation(p.width / 2.0, p.height / 2.0) *
                              Affine::scaling(asset.width > 0 ? p.width / asset.width : 1,
                                              asset.height > 0 ? p.height / asset.height : 1) *
                              map.inverse();
    const bool transparent = p.is_transparent();
    const int w = region.width(), h = region.height();

    Plane rim;
    if (edge == Edge::none) {
        Hash rim_name;
        rim_name << "rim" << asset.width << asset.height;
        add(rim_name, map);
        const auto silhouette = silhouette_of({Layer{rectangle_outline(asset.width, asset.height, 0), {}}},
                                              map, rim_name.value());
        rim = coverage(silhouette->fill, region);
        if (!transparent) out.silhouette = silhouette;
    }
    const auto stored = std::make_shared<const StoredSamples>(
        StoredSamples{asset.picture, to_picture, edge == Edge::none ? Edge::clamp : edge});
    Hash key;
    key << "picture" << asset.hash << static_cast<int>(edge) << region.x0 << region.y0 << region.x1
        << region.y1;
    add(key, map);
    const std::uint64_t name = key.value();
    // Tones are read from the stored samples: what nobody looks at is not made.
    const bool colored = context.wanted.has(channel::color);
    Plane cover = edge != Edge::none && !transparent ? Plane() : Plane(w, h);
    if (!colored && !cover.width()) {
        out.coverage = 1.0f;
        out.stored = stored;
        out.coverage_hash = name;
        return out;
    }
    std::array<Plane, 3> color;
    if (colored) color = {Plane(w, h), Plane(w, h), Plane(w, h)};
    const PictureSampler sampler(p, to_picture, edge == Edge::none ? Edge::clamp : edge,
                                 Picture::Reading::color, region);
    parallel_rows(0, h, [&](int y) {
        for (int x = 0; x < w; ++x) {
            const float k = rim.width() ? rim(x, y) : 1.0f;
            if (k <= 0) {
                if (colored)
                    for (Plane& c : color) c(x, y) = 0;
                cover(x, y) = 0;
                continue;
            }
            const auto rgba = sampler.at(region.x0 + x + 0.5, region.y0 + y + 0.5);
            for (int c = 0; colored && c < 3; ++c) color[c](x, y) = rgba[c] * k;
            if (cover.width()) cover(x, y) = rgba[3] * k;
        }
    });
    for (int c = 0; colored && c < 3; ++c) out.color[c] = Field(std::move(color[c]));
    out.coverage = cover.width() ? Field(std::move(cover)) : Field(1.0f);
    out.stored = stored;
    out.coverage_hash = name;
    return out;
}

Bundle PictureSource::give(const SourceContext& context) const {
    if (!context.asset || !context.asset->picture) return {context.region};
    return picture_bundle(context, *context.asset);
}

} // namespace bathylux
