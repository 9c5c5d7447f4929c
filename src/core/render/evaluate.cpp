#include "core/render/evaluate.h"

#include <limits>

#include "core/colour/srgb.h"
#include "core/error.h"
#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/piece/codec.h"
#include "core/piece/resample.h"
#include "core/piece/sources.h"
#include "core/relief/height.h"

namespace bathylux {

struct Evaluator::Frame {
    const Scene& scene;
    Region canvas;
    double scale;
    std::stop_token stop;

    const Asset* asset(const Element& e) const {
        const auto found = scene.assets->find(e.id);
        return found == scene.assets->end() ? nullptr : found->second.get();
    }
};

namespace {

/// Flattened pieces stray this far, in device px, from their curves; distances are refined beyond it.
constexpr double flat_enough = 0.02;

void add_assets(Hash& h, const Scene& scene, const Element& e) {
    if (const auto found = scene.assets->find(e.id); found != scene.assets->end()) h << found->second->hash;
    for (const Element& c : e.elements) add_assets(h, scene, c);
}

std::uint64_t element_hash(const Scene& scene, const Element& e) {
    Hash h;
    h << to_json(e).dump();
    add_assets(h, scene, e);
    return h.value();
}

Hash& operator<<(Hash& h, Region r) { return h << r.x0 << r.y0 << r.x1 << r.y1; }
Hash& operator<<(Hash& h, const Affine& m) { return h << m.a << m.b << m.c << m.d << m.e << m.f; }

std::size_t bytes_of(const Bundle& b) {
    std::size_t n = sizeof(Bundle);
    for (const Field* f : {&b.color[0], &b.color[1], &b.color[2], &b.coverage, &b.height, &b.weight,
                           &b.roughness, &b.metallic})
        n += f->bytes();
    return n;
}

/// How far beyond its source's box an element's steps can write, device px; infinite for what fills the
/// canvas.
double spread_of(const Element& e, const Placed& placed, Edge canvas_edge, int steps) {
    double spread = 2;
    for (int i = 0; i < steps; ++i) {
        const Step& s = e.steps[i];
        if (!s.on || !s.kind().spreads) continue;
        const double r = s.kind().reach(s.what.data()) * placed.length;
        // On a tile what leaves at one side comes back at the other.
        spread += canvas_edge == Edge::repeat && r > 0 ? std::numeric_limits<double>::infinity() : r + 1;
    }
    return spread;
}

/// The part of `region` that an element can write to.
Region reach_of(const Scene& scene, const Element& e, const Placed& parent, Region region, int steps) {
    if (!e.mix.visible) return {};
    const Placed placed = placed_within(parent, e);
    const double spread = spread_of(e, placed, scene.piece->canvas.edge, steps);
    if (!std::isfinite(spread)) return region;
    if (e.is_group()) {
        const Placed inner = inside_group(placed, scene.piece->canvas);
        Box all;
        const Region wide = grow(region, static_cast<int>(std::ceil(spread)));
        for (const Element& c : e.elements) {
            const Region r = reach_of(scene, c, inner, wide, static_cast<int>(c.steps.size()));
            if (!r.empty()) all.add(Box{double(r.x0), double(r.y0), double(r.x1), double(r.y1)});
        }
        return all.empty() ? Region{}
                           : intersect(grow(covering(all), static_cast<int>(std::ceil(spread))), region);
    }
    if (e.source.is("picture") && e.placement.edge != Edge::none) return region;
    const Box box = element_box(scene, e, parent);
    if (box.empty()) return {};
    return intersect(grow(covering(box), static_cast<int>(std::ceil(spread))), region);
}

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

} // namespace

template <class T> std::shared_ptr<const T> Evaluator::find(std::uint64_t key) {
    const std::lock_guard lock(mutex_);
    const auto found = index_.find(key);
    if (found == index_.end()) return nullptr;
    used_.splice(used_.begin(), used_, found->second);
    return std::static_pointer_cast<const T>(found->second->what);
}

void Evaluator::keep(std::uint64_t key, std::shared_ptr<const void> what, std::size_t bytes) {
    if (bytes > budget_) return;
    const std::lock_guard lock(mutex_);
    if (index_.contains(key)) return;
    used_.push_front({key, std::move(what), bytes});
    index_[key] = used_.begin();
    bytes_ += bytes;
    while (bytes_ > budget_) {
        bytes_ -= used_.back().bytes;
        index_.erase(used_.back().key);
        used_.pop_back();
    }
}

std::shared_ptr<const Plane> Evaluator::plane(std::uint64_t key, const std::function<Plane()>& make) {
    if (auto kept = find<Plane>(key)) return kept;
    auto made = std::make_shared<const Plane>(make());
    keep(key, made, made->bytes());
    return made;
}

std::uint64_t relief_hash(const Scene& scene) {
    const Piece& p = *scene.piece;
    Hash h;
    h << p.canvas.width << p.canvas.height << static_cast<int>(p.canvas.edge)
      << to_string(p.canvas.background) << p.surface.roughness << p.surface.metallic;
    for (const Element& e : p.elements) h << element_hash(scene, e);
    return h.value();
}

Bundle Evaluator::relief(const Scene& scene, Region region, double scale, std::stop_token stop,
                         const Progress& progress) {
    const Piece& piece = *scene.piece;
    const Frame frame{scene, canvas_region(piece.canvas, scale), scale, stop};
    const Placed root = root_placed(scale);

    std::vector<std::uint64_t> hashes;
    for (const Element& e : piece.elements) hashes.push_back(element_hash(scene, e));
    Hash ground;
    ground << "joined" << region << scale << frame.canvas << to_string(piece.canvas.background)
           << piece.surface.roughness << piece.surface.metallic << static_cast<int>(piece.canvas.edge);
    const auto joined_key = [&](std::size_t count) {
        Hash h = ground;
        for (std::size_t i = 0; i < count; ++i) h << hashes[i];
        return h.value();
    };
    // What lies below the element being worked on is kept: it is the one that differs from last time.
    std::size_t changed = 0;
    {
        const std::lock_guard lock(mutex_);
        while (changed < hashes.size() && changed < last_elements_.size() &&
               hashes[changed] == last_elements_[changed])
            ++changed;
        last_elements_ = hashes;
    }

    Bundle out;
    std::size_t first = 0;
    if (const auto kept = changed > 0 ? find<Bundle>(joined_key(changed)) : nullptr) {
        out = *kept;
        first = changed;
    } else {
        const Color& g = piece.canvas.background;
        out.region = region;
        out.color = {g.a * srgb_decode(g.r), g.a * srgb_decode(g.g), g.a * srgb_decode(g.b)};
        out.coverage = g.a;
        out.gives_height = true;
        out.weight = 1.0f;
        out.roughness = piece.surface.roughness;
        out.metallic = piece.surface.metallic;
        out.surface_weight = 1.0f;
    }
    for (std::size_t i = first; i < piece.elements.size(); ++i) {
        const Element& e = piece.elements[i];
        const Region r = reach_of(scene, e, root, region, static_cast<int>(e.steps.size()));
        if (!r.empty()) join(out, own(frame, e, root, r, -1), e.mix, stop);
        if (progress) progress(static_cast<double>(i + 1) / static_cast<double>(piece.elements.size()));
        if (i + 1 == changed && changed < piece.elements.size() && budget_ > 0)
            keep(joined_key(changed), std::make_shared<const Bundle>(out), bytes_of(out));
    }
    return out;
}

namespace {

struct Found {
    const Element* element = nullptr;
    Placed parent;
};

Found find_placed(const Scene& scene, const std::vector<Element>& list, const Placed& parent,
                  std::string_view id) {
    for (const Element& e : list) {
        if (e.id == id) return {&e, parent};
        if (const Found f = find_placed(scene, e.elements,
                                        inside_group(placed_within(parent, e), scene.piece->canvas), id);
            f.element)
            return f;
    }
    return {};
}

} // namespace

Bundle Evaluator::element(const Scene& scene, std::string_view id, Region region, double scale,
                          std::stop_token stop, int steps) {
    const Frame frame{scene, canvas_region(scene.piece->canvas, scale), scale, stop};
    const Found found = find_placed(scene, scene.piece->elements, root_placed(scale), id);
    if (!found.element) throw Error("There is no element \"" + std::string(id) + "\".");
    Element e = *found.element;
    e.mix.visible = true;
    const int count = steps < 0 ? static_cast<int>(e.steps.size()) : steps;
    const Region r = reach_of(scene, e, found.parent, region, count);
    return r.empty() ? Bundle{} : own(frame, e, found.parent, r, count);
}

Bundle Evaluator::own(const Frame& frame, const Element& e, const Placed& parent, Region region, int steps) {
    const int count = steps < 0 ? static_cast<int>(e.steps.size()) : steps;
    const Placed placed = placed_within(parent, e);
    Bundle out = stepped(frame, e, placed, region, count);
    if (out.region == region) return out;
    return cropped(out, intersect(out.region, region));
}

/// The element after its first `steps` steps; the result's region contains `region`.
Bundle Evaluator::stepped(const Frame& frame, const Element& e, const Placed& placed, Region region,
                          int steps) {
    while (steps > 0 && !e.steps[steps - 1].on) --steps;
    if (steps == 0) return source(frame, e, placed, region);

    // Mixing and what comes later do not count: moving them must not compute this again.
    Element part = e;
    part.mix = {};
    part.name.clear();
    part.steps.resize(steps);
    Hash key;
    key << "stepped" << element_hash(frame.scene, part) << placed.to_device << placed.length << placed.rise
        << region << frame.canvas << static_cast<int>(frame.scene.piece->canvas.edge);
    if (const auto kept = find<Bundle>(key.value())) return *kept;

    const Step& step = e.steps[steps - 1];
    const StepKind& kind = step.kind();
    const double reach = kind.reach(step.what.data()) * placed.length;
    const Edge edge = frame.scene.piece->canvas.edge;
    Region below_region = grow(region, static_cast<int>(std::ceil(reach)));
    if (kind.spreads) {
        // The canvas ends where it ends; on a tile the whole of it is read.
        if (edge == Edge::repeat && !frame.canvas.contains(below_region))
            below_region = frame.canvas;
        else
            below_region = intersect(below_region, frame.canvas);
    } else {
        const Region needed =
            reach_of(frame.scene, part,
                     Placed{placed.to_device * e.placement.matrix().inverse(), placed.length, placed.rise},
                     below_region, steps - 1);
        below_region = needed.empty()
                           ? region
                           : Region{std::min(needed.x0, region.x0), std::min(needed.y0, region.y0),
                                    std::max(needed.x1, region.x1), std::max(needed.y1, region.y1)};
    }
    Bundle below = stepped(frame, e, placed, below_region, steps - 1);
    const Region wanted = intersect(region, below.region);
    const Context context{wanted, frame.canvas, placed.length, placed.rise, edge, this, frame.stop};
    Bundle out = kind.apply(step.what.data(), below, context);
    if (frame.stop.stop_requested()) throw Cancelled();
    keep(key.value(), std::make_shared<const Bundle>(out), bytes_of(out));
    return out;
}

namespace {

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
    else if (e.is_group())
        out = group(frame, e, placed, region);
    else if (asset && asset->picture && asset->layers.empty())
        out = picture(frame, e, *asset, placed.to_device, region);
    else if (asset && !asset->layers.empty()) {
        out = shapes(frame, asset->layers, asset->hash, placed.to_device, region);
        if (asset->picture) paint(out, *asset, placed.to_device);
    }
    if (e.surface) {
        out.roughness = e.surface->roughness;
        out.metallic = e.surface->metallic;
        out.surface_weight = out.coverage;
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

Bundle Evaluator::group(const Frame& frame, const Element& e, const Placed& placed, Region region) {
    Bundle out;
    out.region = region;
    const Placed inner = inside_group(placed, frame.scene.piece->canvas);
    for (const Element& child : e.elements) {
        const Region r = reach_of(frame.scene, child, inner, region, static_cast<int>(child.steps.size()));
        if (!r.empty()) join(out, own(frame, child, inner, r, -1), child.mix, frame.stop);
    }
    Hash key;
    key << "group" << element_hash(frame.scene, e) << placed.to_device << region;
    out.coverage_hash = key.value();
    return out;
}

} // namespace bathylux
