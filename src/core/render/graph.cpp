#include "core/render/graph.h"

#include "core/error.h"
#include "core/field/parallel.h"
#include "core/field/srgb.h"
#include "core/paint/painting.h"
#include "core/piece/group.h"
#include "core/piece/references.h"
#include "core/piece/twin.h"
#include "core/render/join.h"
#include "core/render/layers.h"
#include "core/render/operation_hash.h"
#include "core/step/height.h"

namespace bathylux {

void set_surface(Bundle& out, const Surface& s) {
    out.roughness = s.roughness, out.metallic = s.metallic, out.specular = s.specular;
    out.coat = s.coat, out.coat_roughness = s.coat_roughness;
    out.sheen = s.sheen, out.sheen_roughness = s.sheen_roughness, out.sheen_tint = s.sheen_tint;
    out.transmission = s.transmission, out.ior = s.ior, out.thickness = s.thickness;
    out.attenuation_distance = s.attenuation_distance;
    const Color& c = s.attenuation_color;
    out.attenuation = {srgb_decode(c.r), srgb_decode(c.g), srgb_decode(c.b)};
}

OperationPtr nothing() {
    auto out = std::make_shared<Operation>();
    out->hash = (Hash() << "nothing").value();
    out->called = "nothing";
    out->run = [](const Work& work, const std::vector<Bundle>&) { return Bundle{work.region}; };
    return out;
}

Graph::Graph(const Scene& scene, double scale)
    : scene_(scene), scale_(scale), canvas_(canvas_region(scene.piece->canvas, scale)) {
    refuse_cycles(*scene.piece);
    place(scene.piece->elements, root_placed(scale));
}

void Graph::place(const Elements& list, const Placed& parent) {
    for (const Element& e : list) {
        found_.try_emplace(e.id, Found{&e, parent});
        if (!e.elements.empty())
            place(e.elements, inside_group(placed_within(parent, e), scene_.piece->canvas));
    }
}

const Graph::Found* Graph::find(std::string_view id) const {
    const auto found = found_.find(id);
    return found == found_.end() ? nullptr : &found->second;
}

/// Whether what is read is there: an element, or the one that reads.
bool Graph::readable(const MapRef& ref) const { return ref.element.empty() || find(ref.element); }

/// The canvas itself, of a colour: level, of the piece's own surface.
OperationPtr Graph::ground(const Color& g) const {
    const Piece& piece = *scene_.piece;
    auto ground = std::make_shared<Operation>();
    Hash h;
    h << "ground" << canvas_ << g.r << g.g << g.b << g.a << content_hash(piece.surface)
      << static_cast<int>(piece.canvas.edge);
    ground->hash = h.value();
    ground->called = "ground";
    ground->extent = everywhere;
    ground->run = [g, surface = piece.surface](const Work& work, const std::vector<Bundle>&) {
        Bundle out;
        out.region = work.region;
        out.color = {g.a * srgb_decode(g.r), g.a * srgb_decode(g.g), g.a * srgb_decode(g.b)};
        out.coverage = g.a;
        out.gives_height = true;
        out.weight = 1.0f;
        set_surface(out, surface);
        out.surface_weight = 1.0f;
        return out;
    };
    return ground;
}

OperationPtr Graph::relief() {
    const Piece& piece = *scene_.piece;
    if (!relief_)
        relief_ = joined(ground(piece.canvas.background), piece.elements, root_placed(scale_), true);
    return relief_;
}

const Lighting& Graph::lighting() {
    if (!lighting_) lighting_ = lighting_of(scene_);
    return *lighting_;
}

OperationPtr Graph::element(std::string_view id, int steps) {
    const Found* f = find(id);
    if (!f) throw Error("There is no element " + in_quotes(id) + ".");
    if (steps < 0) return own(*f->element, f->parent);
    return surfaced(stepped(*f->element, placed_within(f->parent, *f->element), steps), *f->element);
}

OperationPtr Graph::shown(std::string_view id) {
    const Found* f = find(id);
    if (!f) throw Error("There is no element " + in_quotes(id) + ".");
    return masked(*f->element, f->parent);
}

/// Lays elements, back to front, over what lies below.
OperationPtr Graph::joined(OperationPtr below, const Elements& list, const Placed& parent, bool root) {
    for (std::size_t i = 0; i < list.size(); ++i) {
        const OperationPtr with = joined_one(below, list, i, parent);
        if (with != below && root) {
            auto told = std::make_shared<Operation>(*with);
            told->share = static_cast<double>(i + 1) / static_cast<double>(list.size());
            told->worth_keeping = i + 1 == list.size();
            below = told;
        } else
            below = with;
    }
    return below;
}

/// What an element of a list is clipped to: the next element below it that is not clipped itself; null where
/// it is not clipped. `gone`: that is not there, and so is nothing of the element.
OperationPtr Graph::clip_of(const Elements& list, std::size_t i, const Placed& parent, bool& gone) {
    const int behind = clipped_to(list, i);
    if (behind < 0) return nullptr;
    const Element& base = *list[static_cast<std::size_t>(behind)];
    gone = !base.mix.visible;
    return gone ? nullptr : masked(base, parent);
}

OperationPtr Graph::joined_one(OperationPtr below, const Elements& list, std::size_t i,
                               const Placed& parent) {
    const Element& e = *list[i];
    if (!e.mix.visible) return below;
    bool gone = false;
    const OperationPtr shape = clip_of(list, i, parent, gone);
    return gone ? below : joined_one(below, e, masked(e, parent), shape, parent.stands);
}

OperationPtr Graph::joined_one(const OperationPtr& below, const Element& e, const OperationPtr& masked,
                               const OperationPtr& shape, bool stands) {
    auto join_one = std::make_shared<Operation>();
    join_one->reads = {{below}, {masked}};
    join_one->reads[1].where_it_is = true;
    const Mix& mix = e.mix;
    Hash h;
    h << "join" << below->hash << join_one->reads[1].from->hash << static_cast<int>(mix.blend) << mix.opacity
      << static_cast<int>(mix.height) << mix.linear << stands;
    if (shape) {
        h << "clip" << shape->hash;
        Read read{shape, channel::coverage, false};
        read.where_it_is = true;
        join_one->reads.push_back(read);
    }
    join_one->hash = h.value();
    join_one->called = "join " + e.id;
    join_one->extent = united(below->extent, join_one->reads[1].from->extent);
    join_one->run = [mix, stands](const Work& work, std::vector<Bundle> read) {
        Bundle out = std::move(read[0]);
        Bundle& over = read[1];
        if (over.region.empty()) return out;
        Field within = 1.0f;
        if (read.size() > 2)
            limit(over, within = extended_with_nothing(read[2].coverage, read[2].region, over.region));
        Mix how = mix;
        if (stands && !over.gives_height) {
            // It neither lifts nor lowers what lies below, but what comes to the whole counts for it, too.
            over.gives_height = true, over.height = 0.0f, over.weight = over.coverage;
            how.height = HeightMode::add;
        }
        join(out, over, how, work.wanted, within);
        return out;
    };
    join_one->straight = true;
    return join_one;
}

/// An element with its mask, as it is before it joins what lies below.
OperationPtr Graph::masked(const Element& e, const Placed& parent) {
    const Key key = key_of(e, parent);
    if (const auto made = masked_.find(key); made != masked_.end()) return made->second;
    OperationPtr out = own(e, parent);
    if (reads(e.mix.mask) && readable(*e.mix.mask)) {
        auto mask = std::make_shared<Operation>();
        mask->reads = {{out}, {map(*e.mix.mask, out), channel::tone, false}};
        mask->hash = (Hash() << "mask" << out->hash << mask->reads[1].from->hash).value();
        mask->called = "mask of " + e.id;
        mask->gives = out->gives;
        mask->extent = out->extent;
        mask->run = [](const Work&, std::vector<Bundle> read) {
            Bundle b = std::move(read[0]);
            limit(b, *read[1].tone);
            return b;
        };
        out = mask;
    }
    masked_[key] = out;
    return out;
}

Graph::Key Graph::key_of(const Element& e, const Placed& parent) {
    Hash h;
    h << parent;
    return {&e, h.value()};
}

OperationPtr Graph::own(const Element& e, const Placed& parent) {
    const Key key = key_of(e, parent);
    if (const auto made = own_.find(key); made != own_.end()) return made->second;
    const Placed placed = placed_within(parent, e);
    const OperationPtr out = surfaced(stepped(e, placed, static_cast<int>(e.steps.size())), e);
    own_[key] = out;
    return out;
}

/// The element's own surface: wherever it is, whatever its steps were.
OperationPtr Graph::surfaced(OperationPtr own, const Element& e) {
    if (!e.surface) return own;
    const Surface& surface = *e.surface;
    auto out = std::make_shared<Operation>();
    out->called = "surface of " + e.id;
    out->extent = own->extent;
    out->gives = own->gives | channel::surface;
    out->changes = channel::surface;
    if (surface.own_color > 0 || surface.map_of("own_color")) out->changes = out->changes | channel::color;
    out->reads = {{own}};
    Hash h;
    h << "surface" << own->hash << content_hash(surface);
    std::vector<std::string> driven;
    for (const SurfaceMap& m : surface.maps)
        if (reads(m.map) && readable(*m.map)) {
            out->reads.push_back({map(*m.map, own), channel::tone, false});
            h << out->reads.back().from->hash;
            driven.push_back(m.parameter);
        }
    out->hash = h.value();
    out->run = [surface, driven](const Work& work, std::vector<Bundle> read) {
        Bundle b = std::move(read[0]);
        set_surface(b, surface);
        b.surface_weight = b.coverage;
        const int w = b.region.width(), rows = b.region.height();
        const auto value_of = [&](std::string_view name, float value) -> Field {
            for (std::size_t i = 0; i < driven.size(); ++i) {
                if (driven[i] != name) continue;
                const float black = surface.map_of(name)->black;
                const Field& by = *read[i + 1].tone;
                Plane p(w, rows);
                const Rows from(by, w);
                parallel_rows(0, rows, [&](int y) {
                    for (int x = 0; x < w; ++x) p(x, y) = black + (value - black) * from(y)[x];
                });
                return Field(std::move(p));
            }
            return value;
        };
        if (work.wanted.has(channel::surface))
            for (std::size_t i = 0; i < Bundle::surface_names.size(); ++i) // colours are not driven
                *b.surface()[i] = value_of(Bundle::surface_names[i], b.surface()[i]->constant());
        const Field own_color = value_of("own_color", surface.own_color);
        if (!work.wanted.has(channel::color) || (own_color.is_constant() && own_color.constant() == 0))
            return b;
        const Rows k(own_color, w), cover(b.coverage, w);
        const std::array<float, 3> base{srgb_decode(surface.color.r), srgb_decode(surface.color.g),
                                        srgb_decode(surface.color.b)};
        for (int c = 0; c < 3; ++c) {
            Plane& to = b.color[c].writable(w, rows);
            parallel_rows(0, rows, [&](int y) {
                for (int x = 0; x < w; ++x) to(x, y) += k(y)[x] * (base[c] * cover(y)[x] - to(x, y));
            });
        }
        return b;
    };
    return out;
}

OperationPtr Graph::source(const Element& e, const Placed& placed) {
    const SourceKind& kind = e.kind();
    auto out = std::make_shared<Operation>();
    out->called = std::string(kind.id) + " " + e.id;
    out->gives = kind.gives;
    Hash h;
    if (kind.follows) return followed(e, placed);
    if (e.is_group()) {
        const auto* group = e.source.as<GroupSource>();
        const Placed within = inside_group(placed, scene_.piece->canvas);
        if (group && group->lit) return Layers(*this).of_group(e, within);
        const OperationPtr inside = joined(nothing(), e.elements, within);
        out->reads = {{inside}};
        out->hash = (Hash() << "group" << inside->hash << placed).value();
        out->extent = inside->extent;
        out->run = [hash = out->hash](const Work& work, std::vector<Bundle> read) {
            Bundle b = std::move(read[0]);
            b.coverage_hash = (Hash() << hash << work.region).value();
            b.silhouette.reset(), b.stored.reset(), b.tone.reset();
            return b;
        };
        return out;
    }
    std::shared_ptr<const Asset> asset;
    if (const auto found = scene_.assets->find(e.id); found != scene_.assets->end()) asset = found->second;
    const Canvas& canvas = scene_.piece->canvas;
    h << "source" << e.source.hash() << placed << scale_ << static_cast<int>(e.placement.edge);
    if (asset) h << asset->hash;
    const Painting* ink = ink_on(scene_, e);
    if (ink) h << "ink" << ink->hash();
    if (kind.framed) h << scene_.frame;
    out->outlined = kind.outlined && (!kind.edged || kind.edged(e.source.data()));
    if (kind.fills) h << canvas_ << canvas.width << canvas.height;
    out->hash = h.value();
    const bool there = placed.to_device.invertible();
    if (there) {
        const Box box = transformed(kind.box(e.source.data(), asset.get(), {canvas.width, canvas.height}),
                                    placed.to_device);
        out->extent = kind.fills || (kind.has_rim && e.placement.edge != Edge::none && !box.empty())
                          ? everywhere
                          : grown(covering(box), 2);
    }
    SourceContext context{};
    context.hash = (Hash() << e.source.hash() << (asset ? asset->hash : 0)).value();
    context.to_device = placed.to_device, context.rise = placed.rise, context.scale = scale_;
    context.canvas = {canvas.width, canvas.height};
    context.edge = e.placement.edge;
    context.frame = scene_.frame;
    context.ink = ink; // of the scene's, which the operation holds
    out->run = [there, context, asset, source = e.source, &kind,
                assets = scene_.assets](const Work& work, const std::vector<Bundle>&) {
        if (!there || !kind.give) return Bundle{work.region}; // scaled to nothing: it gives nothing
        SourceContext now = context;
        now.region = work.region, now.wanted = work.wanted, now.memo = work.memo;
        now.asset = asset.get();
        return kind.give(source.data(), now);
    };
    return out;
}

/// What another element gives after its steps, at the place of a twin of it. Where the twin is larger, so is
/// all that its steps do.
OperationPtr Graph::followed(const Element& twin, const Placed& placed) {
    const auto* source = twin.source.as<TwinSource>();
    const Found* f = source ? find(source->of) : nullptr;
    if (!f || !placed.to_device.invertible()) return nothing();
    const double was = f->element->placement.matrix().mean_scale(), is = twin.placement.matrix().mean_scale(),
                 grown = was > 0 ? is / was : 1;
    Element& copy = followed_.emplace_back(*f->element);
    const Edge edge = copy.placement.edge;
    copy.placement = twin.placement;
    copy.placement.edge = edge;
    // The twin's placement lies within `placed` already: it is taken out again, so that groups find theirs.
    const Placed parent{placed.to_device * twin.placement.matrix().inverse(), placed.length * grown,
                        placed.rise * grown, placed.stands};
    return own(copy, parent);
}

OperationPtr Graph::picture() { return Layers(*this).picture(); }

OperationPtr Graph::finish(OperationPtr picture) {
    // Its steps are told in canvas px, as all are; they belong to no element.
    for (const Step& s : scene_.piece->finish)
        if (s.on)
            picture =
                step(picture, finish_id, s, context_of(root_placed(scale_), canvas_frame(), true), nullptr);
    return picture;
}

bool Graph::finish_reads_height() const {
    const Steps& finish = scene_.piece->finish;
    return std::any_of(finish.begin(), finish.end(), [](const Step& s) {
        const auto reads_height = [](const std::optional<MapRef>& m) {
            return reads(m) && m->element.empty() && (m->of == MapOf::height || m->of == MapOf::slope);
        };
        return s.on && ((s.kind().needs && s.kind().needs(s.what.data()).has(channel::height)) ||
                        reads_height(s.map));
    });
}

bool is_lit_picture(const Piece& piece, const Element& element) {
    const Element* shown = shown_by(piece, element);
    const auto* group = shown ? shown->source.as<GroupSource>() : nullptr;
    return group && group->lit;
}

} // namespace bathylux
