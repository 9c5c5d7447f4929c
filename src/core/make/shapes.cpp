#include "core/make/shapes.h"

#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/step/step_kind.h"

namespace bathylux {

namespace {
/// Flattened pieces stray this far, in device px, from their curves; distances are refined beyond it.
constexpr double flat_enough = 0.02;
} // namespace

std::shared_ptr<const Silhouette> silhouette_of(const std::vector<Layer>& layers, const Affine& map,
                                                std::uint64_t hash) {
    auto out = std::make_shared<Silhouette>();
    out->hash = hash;
    if (layers.size() == 1) {
        out->fill = flatten(layers[0].outline.transformed(map), flat_enough);
        out->edge = boundary_of(out->fill);
        return out;
    }
    // The union: boundaries of the parts, put together, and the boundary of that.
    Polyline all;
    for (const Layer& layer : layers) {
        const Polyline part = boundary_of(flatten(layer.outline.transformed(map), flat_enough));
        const int shift = static_cast<int>(all.curves.size());
        for (Segment s : part.segments) {
            if (s.curve >= 0) s.curve += shift;
            all.segments.push_back(s);
        }
        all.curves.insert(all.curves.end(), part.curves.begin(), part.curves.end());
        all.bounds.add(part.bounds);
    }
    out->edge = boundary_of(all);
    out->fill = out->edge;
    return out;
}

Bundle shapes_bundle(const SourceContext& context, const std::vector<Layer>& layers, std::uint64_t hash) {
    const Affine& map = context.to_device;
    const Region region = context.region;
    Hash h;
    h << "silhouette" << hash << map.a << map.b << map.c << map.d << map.e << map.f;
    const auto make = [&] {
        auto made = silhouette_of(layers, map, h.value());
        const std::size_t bytes = 64 * (made->fill.segments.size() + made->edge.segments.size());
        return Kept{std::move(made), bytes};
    };
    const auto silhouette = std::static_pointer_cast<const Silhouette>(
        context.memo ? context.memo->kept(h.value(), make) : make().what);
    Bundle out;
    out.region = region;
    Plane cover = coverage(silhouette->fill, region);
    const auto linear = [](const Color& c) {
        return std::array{srgb_decode(c.r), srgb_decode(c.g), srgb_decode(c.b)};
    };
    const int w = region.width(), rows = region.height();
    if (!context.wanted.has(channel::color | channel::tone))
        ; // nobody looks at its colour
    else if (layers.size() == 1) {
        const auto rgb = linear(layers[0].color);
        for (int c = 0; c < 3; ++c) {
            if (rgb[c] == 0) {
                out.color[c] = 0.0f;
                continue;
            }
            Plane plane(w, rows);
            parallel_rows(0, rows, [&](int y) {
                for (int x = 0; x < w; ++x) plane(x, y) = rgb[c] * cover(x, y);
            });
            out.color[c] = Field(std::move(plane));
        }
    } else {
        // Painted one over the other, then held by the exact coverage of the whole: where two shapes meet,
        // nothing of the ground shines through.
        std::array<Plane, 4> sum{Plane(w, rows, 0.0f), Plane(w, rows, 0.0f), Plane(w, rows, 0.0f),
                                 Plane(w, rows, 0.0f)};
        for (const Layer& layer : layers) {
            const Polyline fill = flatten(layer.outline.transformed(map), flat_enough);
            const Region part = intersect(covering(fill.bounds), region);
            if (part.empty()) continue;
            const Plane a = coverage(fill, part);
            const auto rgb = linear(layer.color);
            parallel_rows(part.y0, part.y1, [&](int y) {
                for (int x = part.x0; x < part.x1; ++x) {
                    const float k = a(x - part.x0, y - part.y0);
                    if (k <= 0) continue;
                    const int i = x - region.x0, j = y - region.y0;
                    for (int c = 0; c < 4; ++c) {
                        const float v = c < 3 ? rgb[c] : 1.0f;
                        sum[c](i, j) += k * (v - sum[c](i, j));
                    }
                }
            });
        }
        parallel_rows(0, rows, [&](int y) {
            for (int x = 0; x < w; ++x) {
                const float k = sum[3](x, y) > 0 ? cover(x, y) / sum[3](x, y) : 0;
                for (int c = 0; c < 3; ++c) sum[c](x, y) *= k;
            }
        });
        for (int c = 0; c < 3; ++c) out.color[c] = Field(std::move(sum[c]));
    }
    out.coverage = Field(std::move(cover));
    out.silhouette = silhouette;
    out.coverage_hash = silhouette->hash;
    return out;
}

Bundle RectangleSource::give(const SourceContext& context) const {
    return shapes_bundle(context, {{rectangle_outline(width, height, corner), color}}, context.hash);
}
std::string RectangleSource::says() const {
    return said(width) + " × " + said(height) + " px" +
           (corner > 0 ? ", corners " + said(corner) + " px" : "");
}

Bundle EllipseSource::give(const SourceContext& context) const {
    return shapes_bundle(context, {{ellipse_outline(width, height), color}}, context.hash);
}
std::string EllipseSource::says() const { return said(width) + " × " + said(height) + " px"; }

} // namespace bathylux
