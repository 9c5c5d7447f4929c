// What the sources of elements give, each in its way, before any step. See evaluate.cpp for the rest.
#include <cstring>

#include "core/check/recognise.h"
#include "core/colour/srgb.h"
#include "core/field/parallel.h"
#include "core/make/form.h"
#include "core/make/noise.h"
#include "core/make/pattern.h"
#include "core/paint/painting.h"
#include "core/piece/codec.h"
#include "core/piece/resample.h"
#include "core/piece/sources.h"
#include "core/relief/height.h"
#include "core/relief/integrate.h"
#include "core/render/evaluate_parts.h"

namespace bathylux {

namespace {

std::shared_ptr<const Silhouette> make_silhouette(const std::vector<Layer>& layers, const Affine& map,
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

/// Gives shapes the colour of a picture that lies where they lie (a drawing's gradients).
void paint(Bundle& shape, const Asset& asset, const Affine& map) {
    const Picture& p = *asset.picture;
    const Affine to_picture = Affine::translation(p.width / 2.0, p.height / 2.0) *
                              Affine::scaling(p.width / asset.width, p.height / asset.height) * map.inverse();
    const PictureSampler sampler(p, to_picture, Edge::clamp, true);
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

Bundle Evaluator::source(const Frame& frame, const Element& e, const Placed& placed, Region region) {
    Bundle out;
    out.region = region;
    const auto plain_shape = [&](Outline outline, const Color& color) {
        Hash h;
        h << to_json(e).at("source").dump();
        return shapes(frame, {Layer{std::move(outline), color}}, h.value(), placed.to_device, region);
    };
    const Asset* asset = frame.asset(e);
    if (!placed.to_device.invertible())
        ; // scaled to nothing: it gives nothing
    else if (const auto* r = e.source.as<RectangleSource>())
        out = plain_shape(rectangle_outline(r->width, r->height, r->corner), r->color);
    else if (const auto* o = e.source.as<EllipseSource>())
        out = plain_shape(ellipse_outline(o->width, o->height), o->color);
    else if (const auto* form = e.source.as<FormSource>()) {
        out = plain_shape(is_round(form->shape) ? ellipse_outline(form->width, form->height)
                                                : rectangle_outline(form->width, form->height, 0),
                          form->color);
        const Affine to_form = placed.to_device.inverse();
        const auto rise = static_cast<float>(placed.rise);
        Plane& height = give_height(out);
        parallel_rows(0, region.height(), [&](int y) {
            for (int x = 0; x < region.width(); ++x)
                height(x, y) = rise * form_height(*form, to_form({region.x0 + x + 0.5, region.y0 + y + 0.5}));
        });
    } else if (e.source.is("noise") || e.source.is("pattern"))
        out = computed(frame, e, placed, region);
    else if (e.source.is("paint")) {
        if (asset && asset->painting) {
            out.gives_height = true;
            out.weight = 1.0f;
            out.height = Field(
                painted(*asset->painting, placed.to_device, region, static_cast<float>(placed.rise)).height);
        }
    } else if (e.is_group())
        out = group(frame, e, placed, region);
    else if (asset && asset->picture && e.source.is("normals"))
        out = normal_map(frame, e, *asset, placed, region);
    else if (asset && e.source.is("sprites")) {
        if (const Asset* shown =
                asset->frame(frame.scene.frame + static_cast<int>(e.source.as<SpritesSource>()->frame)))
            out = picture(frame, e, *shown, placed.to_device, region);
    } else if (asset && asset->picture && asset->layers.empty())
        out = picture(frame, e, *asset, placed.to_device, region);
    else if (asset && !asset->layers.empty()) {
        out = shapes(frame, asset->layers, asset->hash, placed.to_device, region);
        if (asset->picture) paint(out, *asset, placed.to_device);
    }
    return out;
}

Bundle Evaluator::shapes(const Frame& frame, const std::vector<Layer>& layers, std::uint64_t hash,
                         const Affine& map, Region region) {
    Hash h;
    h << "silhouette" << hash << map;
    auto silhouette = find<Silhouette>(h.value());
    if (!silhouette) {
        silhouette = make_silhouette(layers, map, h.value());
        keep(h.value(), silhouette,
             64 * (silhouette->fill.segments.size() + silhouette->edge.segments.size()));
    }
    Bundle out;
    out.region = region;
    Plane cover = coverage(silhouette->fill, region, frame.stop);
    const auto linear = [](const Color& c) {
        return std::array{srgb_decode(c.r), srgb_decode(c.g), srgb_decode(c.b)};
    };
    const int w = region.width(), rows = region.height();
    if (layers.size() == 1) {
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
            const Plane a = coverage(fill, part, frame.stop);
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

Bundle Evaluator::picture(const Frame& frame, const Element& e, const Asset& asset, const Affine& map,
                          Region region) {
    Bundle out;
    out.region = region;
    const Picture& p = *asset.picture;
    const Edge edge = e.placement.edge;
    const Affine to_picture = Affine::translation(p.width / 2.0, p.height / 2.0) *
                              Affine::scaling(asset.width > 0 ? p.width / asset.width : 1,
                                              asset.height > 0 ? p.height / asset.height : 1) *
                              map.inverse();
    const bool transparent = p.is_transparent();
    const int w = region.width(), h = region.height();

    Plane rim;
    if (edge == Edge::none) {
        Hash key;
        key << "rim" << asset.width << asset.height << map;
        const auto silhouette =
            make_silhouette({Layer{rectangle_outline(asset.width, asset.height, 0), {}}}, map, key.value());
        rim = coverage(silhouette->fill, region, frame.stop);
        if (!transparent) out.silhouette = silhouette;
    }
    const PictureSampler sampler(p, to_picture, edge == Edge::none ? Edge::clamp : edge, true);
    std::array<Plane, 3> color{Plane(w, h), Plane(w, h), Plane(w, h)};
    Plane cover = edge != Edge::none && !transparent ? Plane() : Plane(w, h);
    parallel_rows(
        0, h,
        [&](int y) {
            for (int x = 0; x < w; ++x) {
                const float k = rim.width() ? rim(x, y) : 1.0f;
                if (k <= 0) {
                    for (Plane& c : color) c(x, y) = 0;
                    cover(x, y) = 0;
                    continue;
                }
                const auto rgba = sampler.at(region.x0 + x + 0.5, region.y0 + y + 0.5);
                for (int c = 0; c < 3; ++c) color[c](x, y) = rgba[c] * k;
                if (cover.width()) cover(x, y) = rgba[3] * k;
            }
        },
        frame.stop);
    for (int c = 0; c < 3; ++c) out.color[c] = Field(std::move(color[c]));
    out.coverage = cover.width() ? Field(std::move(cover)) : Field(1.0f);
    out.stored = std::make_shared<StoredSamples>(
        StoredSamples{asset.picture, to_picture, edge == Edge::none ? Edge::clamp : edge});
    Hash key;
    key << "picture" << asset.hash << map << static_cast<int>(edge) << region;
    out.coverage_hash = key.value();
    return out;
}

/// Noise and patterns fill the canvas; what tiles is counted out from its corner, unturned.
Bundle Evaluator::computed(const Frame& frame, const Element& e, const Placed& placed, Region region) {
    Grid grid{region, placed.to_device.inverse(), 1 / placed.to_device.mean_scale(), {}};
    const auto* n = e.source.as<NoiseSource>();
    const auto* p = e.source.as<PatternSource>();
    if (n ? n->tile : p->tile) {
        const double k = 1 / frame.scale;
        grid.from_device =
            Affine::scaling(k, k) * Affine::translation(-placed.to_device.e, -placed.to_device.f);
        grid.step = k;
        const Canvas& c = frame.scene.piece->canvas;
        grid.tile = {0, 0, c.width, c.height};
    }
    Hash key;
    key << "computed" << to_json(e).at("source").dump() << grid.from_device << region;
    const auto kept =
        plane(key.value(), [&] { return n ? noise(*n, grid, frame.stop) : pattern(*p, grid, frame.stop); });
    Bundle out;
    out.region = region;
    Plane grey(region.width(), region.height());
    parallel_rows(0, region.height(), [&](int y) {
        const float* from = kept->row(y);
        float* to = grey.row(y);
        for (int x = 0; x < region.width(); ++x) to[x] = fast_srgb_decode(from[x]);
    });
    out.tone = Field(*kept);
    out.color[0] = Field(std::move(grey));
    out.color[1] = out.color[2] = out.color[0];
    out.coverage = 1.0f;
    out.coverage_hash = key.value();
    return out;
}

/// The height that a normal map came from; its colour is a plain grey.
Bundle Evaluator::normal_map(const Frame& frame, const Element& e, const Asset& asset, const Placed& placed,
                             Region region) {
    const auto& n = *e.source.as<NormalsSource>();
    const bool up = n.green == GreenSays::automatic ? recognise(*asset.picture).green != Green::down
                                                    : n.green == GreenSays::up;
    const bool periodic = e.placement.edge == Edge::repeat;
    Hash key;
    key << "normals" << asset.picture->hash << up << periodic;
    auto height = find<Picture>(key.value());
    if (!height) {
        const Plane h = integrated(slopes_of_normals(*asset.picture, up), periodic, frame.stop);
        auto made = std::make_shared<Picture>();
        made->width = h.width(), made->height = h.height(), made->channels = 1,
        made->format = Picture::Format::f32;
        made->samples.resize(4ull * h.width() * h.height());
        for (int y = 0; y < h.height(); ++y)
            std::memcpy(&made->samples[4ull * y * h.width()], h.row(y), 4ull * h.width());
        made->seal();
        keep(key.value(), made, 5 * made->samples.size());
        height = made;
    }
    Bundle out = picture(frame, e, asset, placed.to_device, region);
    out.stored.reset();
    constexpr float grey = 0.21404114f; // 0.5 as encoded
    for (Field& c : out.color) c = Field(grey);
    if (!out.coverage.is_constant()) {
        const Plane& a = out.coverage.plane();
        Plane shade(region.width(), region.height());
        parallel_rows(0, region.height(), [&](int y) {
            for (int x = 0; x < region.width(); ++x) shade(x, y) = grey * a(x, y);
        });
        out.color[0] = Field(std::move(shade));
        out.color[1] = out.color[2] = out.color[0];
    }
    // Slopes stay what they are when the map is scaled: heights grow with lengths.
    const double grown = n.strength * placed.to_device.mean_scale() / frame.scale;
    const Affine to_picture =
        Affine::translation(height->width / 2.0, height->height / 2.0) * placed.to_device.inverse();
    const PictureSampler sampler(*height, to_picture,
                                 e.placement.edge == Edge::none ? Edge::clamp : e.placement.edge, false);
    Plane& to = give_height(out);
    parallel_rows(
        0, region.height(),
        [&](int y) {
            for (int x = 0; x < region.width(); ++x)
                to(x, y) =
                    static_cast<float>(grown) * sampler.at(region.x0 + x + 0.5, region.y0 + y + 0.5)[0];
        },
        frame.stop);
    return out;
}

Bundle Evaluator::group(const Frame& frame, const Element& e, const Placed& placed, Region region) {
    Bundle out;
    out.region = region;
    const Placed inner = inside_group(placed, frame.scene.piece->canvas);
    for (std::size_t i = 0; i < e.elements.size(); ++i)
        join_element(frame, e.elements, i, inner, region, out);
    Hash key;
    key << "group" << element_hash(frame.scene, e) << placed.to_device << region;
    out.coverage_hash = key.value();
    return out;
}

} // namespace bathylux
