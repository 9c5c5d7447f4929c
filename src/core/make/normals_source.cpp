#include "core/make/normals_source.h"

#include <cstring>

#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/make/integrate.h"
#include "core/make/picture_source.h"
#include "core/make/recognise.h"
#include "core/step/height.h"
#include "core/step/resample.h"

namespace bathylux {

/// The height that the map came from; its colour is a plain grey.
Bundle NormalsSource::give(const SourceContext& context) const {
    if (!context.asset || !context.asset->picture) return {context.region};
    const Asset& asset = *context.asset;
    const Region region = context.region;
    const bool periodic = context.edge == Edge::repeat;
    Hash key;
    key << "normals" << asset.picture->hash << static_cast<int>(green) << periodic;
    const auto make = [&] {
        const bool up = green == GreenSays::automatic ? recognise(*asset.picture).green != Green::down
                                                      : green == GreenSays::up;
        const Plane h = integrated(slopes_of_normals(*asset.picture, up), periodic);
        auto made = std::make_shared<Picture>();
        made->width = h.width(), made->height = h.height(), made->channels = 1,
        made->format = Picture::Format::f32;
        made->samples.resize(4ull * h.width() * h.height());
        for (int y = 0; y < h.height(); ++y)
            std::memcpy(&made->samples[4ull * y * h.width()], h.row(y), 4ull * h.width());
        made->seal();
        const std::size_t bytes = made->samples.size();
        return Kept{std::move(made), bytes};
    };
    if (!context.wanted.has(channel::height | channel::color)) return picture_bundle(context, asset);
    const auto height = std::static_pointer_cast<const Picture>(
        context.memo ? context.memo->kept(key.value(), make) : make().what);
    SourceContext shape_only = context;
    shape_only.wanted = channel::coverage;
    Bundle out = picture_bundle(shape_only, asset);
    out.stored.reset();
    constexpr float grey = 0.21404114f; // 0.5 as encoded
    for (Field& c : out.color) c = Field(grey);
    if (context.wanted.has(channel::color) && !out.coverage.is_constant()) {
        const Plane& a = out.coverage.plane();
        Plane shade(region.width(), region.height());
        parallel_rows(0, region.height(), [&](int y) {
            for (int x = 0; x < region.width(); ++x) shade(x, y) = grey * a(x, y);
        });
        out.color[0] = Field(std::move(shade));
        out.color[1] = out.color[2] = out.color[0];
    }
    if (!context.wanted.has(channel::height)) return out;
    // Slopes stay what they are when the map is scaled: heights grow with lengths.
    const double grown = strength * context.to_device.mean_scale() / context.scale;
    const Affine to_picture =
        Affine::translation(height->width / 2.0, height->height / 2.0) * context.to_device.inverse();
    const PictureSampler sampler(*height, to_picture, context.edge == Edge::none ? Edge::clamp : context.edge,
                                 Picture::Reading::stored, region);
    Plane& to = give_height(out);
    parallel_rows(0, region.height(), [&](int y) {
        for (int x = 0; x < region.width(); ++x)
            to(x, y) = static_cast<float>(grown) * sampler.at(region.x0 + x + 0.5, region.y0 + y + 0.5)[0];
    });
    return out;
}

} // namespace bathylux
