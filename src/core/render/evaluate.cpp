#include "core/render/evaluate.h"

#include <limits>

#include "core/colour/srgb.h"
#include "core/error.h"
#include "core/field/parallel.h"
#include "core/paint/painting.h"
#include "core/piece/codec.h"
#include "core/piece/references.h"
#include "core/piece/sources.h"
#include "core/relief/height.h"
#include "core/render/evaluate_parts.h"
#include "core/render/map.h"

namespace bathylux {

namespace {

/// What an element is made from beside its own parameters: files, strokes, the frame, the maps it reads.
void add_inputs(Hash& h, const Scene& scene, const Element& e, int depth) {
    if (const auto found = scene.assets->find(e.id); found != scene.assets->end()) h << found->second->hash;
    if (e.source.is("sprites")) h << scene.frame;
    for (const Step& s : e.steps)
        if (const auto* p = painting_of(scene, e, s)) h << p->hash();
    for (const Element& c : e.elements) add_inputs(h, scene, c, depth);
    if (depth > 64) return; // a circle: refused elsewhere
    for (const std::string& id : maps_of(e))
        if (const Element* map = find_element(scene.piece->elements, id)) {
            h << to_json(*map).dump();
            // Where the map lies counts as well, and so do the groups around it.
            if (const auto parent = parent_placed(*scene.piece, id))
                h << parent->to_device.a << parent->to_device.b << parent->to_device.c << parent->to_device.d
                  << parent->to_device.e << parent->to_device.f << parent->length << parent->rise;
            add_inputs(h, scene, *map, depth + 1);
        }
}

} // namespace

std::uint64_t element_hash(const Scene& scene, const Element& e) {
    Hash h;
    h << to_json(e).dump();
    add_inputs(h, scene, e, 0);
    return h.value();
}

namespace {

std::size_t bytes_of(const Bundle& b) {
    std::size_t n = sizeof(Bundle);
    for (const Field* f : {&b.color[0], &b.color[1], &b.color[2], &b.coverage, &b.height, &b.weight})
        n += f->bytes();
    for (const Field* f : b.surface()) n += f->bytes();
    if (b.tone) n += b.tone->bytes();
    return n;
}

/// How far beyond its source's box an element's steps can write, device px; infinite for what fills the
/// canvas.
double spread_of(const Element& e, const Placed& placed, Edge canvas_edge, int steps) {
    double spread = 2;
    for (int i = 0; i < steps; ++i) {
        const Step& s = e.steps[i];
        if (!s.on || (!s.kind().spreads && !s.kind().writes)) continue;
        const double r = (s.kind().spreads ? s.kind().reach : s.kind().writes)(s.what.data()) * placed.length;
        // On a tile what leaves at one side comes back at the other.
        spread += canvas_edge == Edge::repeat && r > 0 ? std::numeric_limits<double>::infinity() : r + 1;
    }
    return spread;
}

bool fills_canvas(const Element& e);

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
    if (fills_canvas(e)) return region;
    const Box box = element_box(scene, e, parent);
    if (box.empty()) return {};
    return intersect(grow(covering(box), static_cast<int>(std::ceil(spread))), region);
}

/// Whether a source gives something everywhere.
bool fills_canvas(const Element& e) {
    if (e.source.is("noise") || e.source.is("pattern") || e.source.is("paint")) return true;
    return e.placement.edge != Edge::none &&
           (e.source.is("picture") || e.source.is("normals") || e.source.is("sprites"));
}

} // namespace

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
      << to_string(p.canvas.background) << to_json(p.surface).dump();
    for (const Element& e : p.elements) h << element_hash(scene, e);
    return h.value();
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

namespace {
void set_surface(Bundle& out, const Surface& s) {
    out.roughness = s.roughness, out.metallic = s.metallic, out.specular = s.specular;
    out.coat = s.coat, out.coat_roughness = s.coat_roughness;
    out.sheen = s.sheen, out.sheen_roughness = s.sheen_roughness, out.sheen_tint = s.sheen_tint;
}
} // namespace

Bundle Evaluator::relief(const Scene& scene, Region region, double scale, std::stop_token stop,
                         const Progress& progress) {
    const Piece& piece = *scene.piece;
    refuse_cycles(piece);
    const Frame frame{scene, canvas_region(piece.canvas, scale), scale, stop};
    const Placed root = root_placed(scale);

    std::vector<std::uint64_t> hashes;
    for (const Element& e : piece.elements) hashes.push_back(element_hash(scene, e));
    Hash ground;
    ground << "joined" << region << scale << frame.canvas << to_string(piece.canvas.background)
           << to_json(piece.surface).dump() << static_cast<int>(piece.canvas.edge);
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
        set_surface(out, piece.surface);
        out.surface_weight = 1.0f;
    }
    for (std::size_t i = first; i < piece.elements.size(); ++i) {
        join_element(frame, piece.elements, i, root, region, out);
        if (progress) progress(static_cast<double>(i + 1) / static_cast<double>(piece.elements.size()));
        if (i + 1 == changed && changed < piece.elements.size() && budget_ > 0)
            keep(joined_key(changed), std::make_shared<const Bundle>(out), bytes_of(out));
    }
    return out;
}

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

/// Lays the i-th of a list of elements over what lies below it.
void Evaluator::join_element(const Frame& frame, const std::vector<Element>& list, std::size_t i,
                             const Placed& parent, Region region, Bundle& below) {
    const Element& e = list[i];
    const Region r = reach_of(frame.scene, e, parent, region, static_cast<int>(e.steps.size()));
    if (r.empty()) return;
    Bundle b = own(frame, e, parent, r, -1);
    if (e.mix.mask) limit(b, map(frame, *e.mix.mask, b.region), frame.stop);
    if (e.mix.clip) {
        // The next element below that is not clipped itself.
        std::size_t k = i;
        while (k > 0 && list[k - 1].mix.clip) --k;
        if (k > 0) {
            const Element& base = list[k - 1];
            const Region s = intersect(
                reach_of(frame.scene, base, parent, b.region, static_cast<int>(base.steps.size())), b.region);
            Bundle shape;
            if (!s.empty()) shape = own(frame, base, parent, s, -1);
            if (!s.empty() && base.mix.mask)
                limit(shape, map(frame, *base.mix.mask, shape.region), frame.stop);
            limit(b, extended_with_nothing(shape.coverage, shape.region, b.region), frame.stop);
        }
    }
    join(below, b, e.mix, frame.stop);
}

Field Evaluator::map(const Scene& scene, const MapRef& ref, Region region, double scale,
                     std::stop_token stop) {
    refuse_cycles(*scene.piece);
    return map(Frame{scene, canvas_region(scene.piece->canvas, scale), scale, stop}, ref, region);
}

/// What another element serves as a map, over a region of the canvas.
Field Evaluator::map(const Frame& frame, const MapRef& ref, Region region) {
    const Found found =
        find_placed(frame.scene, frame.scene.piece->elements, root_placed(frame.scale), ref.element);
    if (!found.element) return 1.0f;
    Element e = *found.element;
    e.mix.visible = true;
    const auto over = [&](Region r) {
        const Region reached = reach_of(frame.scene, e, found.parent, r, static_cast<int>(e.steps.size()));
        Bundle b;
        if (!reached.empty()) b = own(frame, e, found.parent, reached, -1);
        if (e.mix.mask && !b.region.empty()) limit(b, map(frame, *e.mix.mask, b.region), frame.stop);
        return b;
    };
    // A pixel more on every side, so that slopes go on across the region's edge.
    const Region wide =
        intersect(grow(region, 1), frame.canvas.contains(region) ? frame.canvas : grow(region, 1));
    std::pair<float, float> range{0, 1};
    if (ref.of == MapOf::height) {
        Hash key;
        key << "map range" << element_hash(frame.scene, e) << found.parent.to_device << frame.canvas;
        const auto ends = plane(key.value(), [&] {
            const auto r = height_range_of(over(frame.canvas), frame.canvas);
            Plane p(2, 1);
            p(0, 0) = r.first, p(1, 0) = r.second;
            return p;
        });
        range = {(*ends)(0, 0), (*ends)(1, 0)};
    }
    return map_values(over(wide), ref, range, region, static_cast<float>(frame.scale), frame.stop);
}

Bundle Evaluator::own(const Frame& frame, const Element& e, const Placed& parent, Region region, int steps) {
    const int count = steps < 0 ? static_cast<int>(e.steps.size()) : steps;
    const Placed placed = placed_within(parent, e);
    Bundle out = stepped(frame, e, placed, region, count);
    if (out.region != region) out = cropped(out, intersect(out.region, region));
    if (e.surface) give_surface(frame, *e.surface, out);
    return out;
}

/// The element's own surface: wherever it is, whatever its steps were; maps are read here.
void Evaluator::give_surface(const Frame& frame, const Surface& surface, Bundle& out) {
    set_surface(out, surface);
    out.surface_weight = out.coverage;
    if (out.region.empty()) return;
    const int w = out.region.width(), h = out.region.height();
    const auto driven = [&](std::string_view name, float value) -> Field {
        const SurfaceMap* m = surface.map_of(name);
        if (!m) return value;
        const Field by = map(frame, *m->map, out.region);
        Plane p(w, h);
        const Rows rows(by, w);
        parallel_rows(
            0, h,
            [&](int y) {
                for (int x = 0; x < w; ++x) p(x, y) = m->black + (value - m->black) * rows(y)[x];
            },
            frame.stop);
        return Field(std::move(p));
    };
    for (std::size_t i = 0; i < Bundle::surface_names.size(); ++i)
        if (surface.map_of(Bundle::surface_names[i]))
            *out.surface()[i] = driven(Bundle::surface_names[i], out.surface()[i]->constant());
    const Field own = driven("own_color", surface.own_color);
    if (own.is_constant() && own.constant() == 0) return;
    const Rows k(own, w), cover(out.coverage, w);
    const std::array<float, 3> base{srgb_decode(surface.color.r), srgb_decode(surface.color.g),
                                    srgb_decode(surface.color.b)};
    for (int c = 0; c < 3; ++c) {
        Plane& to = out.color[c].writable(w, h);
        parallel_rows(0, h, [&](int y) {
            for (int x = 0; x < w; ++x) to(x, y) += k(y)[x] * (base[c] * cover(y)[x] - to(x, y));
        });
    }
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
    if (!std::isfinite(reach) && !region.contains(frame.canvas)) {
        // It reads the whole: done once for the whole, and kept.
        const Bundle whole = stepped(frame, e, placed, frame.canvas, steps);
        return cropped(whole, intersect(whole.region, region));
    }
    const Edge edge = frame.scene.piece->canvas.edge;
    Region below_region = std::isfinite(reach) ? grow(region, static_cast<int>(std::ceil(reach))) : region;
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
    Context context{wanted, frame.canvas, placed.length, placed.rise, edge, this, frame.stop};
    context.to_device = placed.to_device;
    context.painting = [&frame, &e, &step](std::string_view) { return painting_of(frame.scene, e, step); };
    Bundle out = kind.apply(step.what.data(), below, context);
    if (step.map) {
        const Bundle before = cropped(below, out.region);
        out = mixed(before, std::move(out), map(frame, *step.map, out.region), frame.stop);
        if (out.coverage_hash != before.coverage_hash) out.coverage_hash = key.value();
    }
    if (frame.stop.stop_requested()) throw Cancelled();
    keep(key.value(), std::make_shared<const Bundle>(out), bytes_of(out));
    return out;
}

} // namespace bathylux
