#include "core/render/layers.h"

#include "core/colour/blend.h"
#include "core/field/parallel.h"
#include "core/piece/group.h"
#include "core/piece/twin.h"
#include "core/render/evaluate.h"
#include "core/render/join.h"
#include "core/render/obstruction.h"
#include "core/render/see_through.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

bool lets_through(const Surface& s) {
    if (s.transmission > 0) return true;
    const SurfaceMap* driven = s.map_of("transmission");
    return driven && reads(driven->map) && driven->black > 0;
}

/// A group that only keeps its elements together.
bool only_keeps(const Element& e) {
    const auto* group = e.source.as<GroupSource>();
    const Mix& m = e.mix;
    return group && !group->lit && !e.surface && m.blend == BlendMode::normal && m.opacity == 1 &&
           m.height == HeightMode::add && !m.clip && !reads(m.mask) &&
           std::none_of(e.steps.begin(), e.steps.end(), [](const Step& s) { return s.on; });
}

/// What of the picture is lit: the relief's colours replaced by others.
void recolor(Bundle& relief, const Bundle& colors) {
    for (int c = 0; c < 3; ++c)
        relief.color[c] = extended_with_nothing(colors.color[c], colors.region, relief.region);
    relief.coverage = extended_with_nothing(colors.coverage, colors.region, relief.region);
}

/// Black where there are no colours.
Bundle picture_of(Region region, std::array<Plane, 3> lit, Field coverage) {
    Bundle out;
    out.region = region;
    for (int c = 0; c < 3; ++c)
        if (lit[c].width()) out.color[c] = Field(std::move(lit[c]));
    out.coverage = std::move(coverage);
    return out;
}

} // namespace

Lighting Layers::by_itself() {
    // Laid over the flat art, and rolled off, is what all of it becomes in the end.
    Lighting out = graph_.lighting();
    out.relight = 1, out.relight_blend = BlendMode::normal, out.roll_off = RollOff::none;
    return out;
}

bool Layers::seen_through(const Element& e) const {
    const Piece& piece = *graph_.scene_.piece;
    const Element* at = &e;
    for (int i = 0; at && i < 64; ++i) {
        if (at->surface) return lets_through(*at->surface);
        const auto* twin = at->source.as<TwinSource>();
        if (!twin) break;
        at = find_element(piece.elements, twin->of);
    }
    if (!at) return false;
    if (at->is_group())
        return std::any_of(at->elements.begin(), at->elements.end(),
                           [&](const Element& c) { return c.mix.visible && seen_through(c); });
    return lets_through(piece.surface);
}

/// Whether an element, or one of those that take part in its place, is more than lit with the others.
bool Layers::apart(const Element& e) const {
    if (!e.mix.visible) return false;
    if (is_lit_picture(*graph_.scene_.piece, e) || seen_through(e)) return true;
    return only_keeps(e) && fall_apart(e.elements);
}

void Layers::gather(std::vector<Item>& to, const Elements& list, const Placed& parent) const {
    for (std::size_t i = 0; i < list.size(); ++i) {
        const Element& e = *list[i];
        if (!e.mix.visible) continue;
        const bool laid_over = is_lit_picture(*graph_.scene_.piece, e);
        if (!laid_over && only_keeps(e) && apart(e)) {
            gather(to, e.elements, inside_group(placed_within(parent, e), graph_.scene_.piece->canvas));
            continue;
        }
        to.push_back({list, i, parent,
                      laid_over         ? Part::laid_over
                      : seen_through(e) ? Part::seen_through
                                        : Part::lit});
    }
}

bool Layers::fall_apart(const Elements& list) const {
    return std::any_of(list.begin(), list.end(), [&](const Element& e) { return apart(e); });
}

Layers::Sheets Layers::sheets(const OperationPtr& ground, const Elements& list, const Placed& parent) {
    std::vector<Item> items;
    gather(items, list, parent);
    const auto joined = [&](const OperationPtr& below, const Item& item) {
        return graph_.joined_one(below, item.list, item.index, item.parent);
    };
    Sheets out{{}, ground};
    for (const Item& item : items)
        if (item.part == Part::lit) out.solid = joined(out.solid, item);

    OperationPtr relief = ground, since; // since: what is still to be lit, over what is there so far
    const auto light_what_is_there = [&] {
        if (out.list.empty())
            out.list.push_back({Part::lit, relief, nullptr});
        else if (since)
            out.list.push_back({Part::lit, relief, since});
        since = nullptr;
    };
    for (const Item& item : items) {
        const Element& e = item.element();
        const bool blended = e.mix.blend != BlendMode::normal;
        if (item.part == Part::lit && !(!out.list.empty() && blended)) {
            relief = joined(relief, item);
            if (!out.list.empty()) since = joined(since ? since : nothing(), item);
            continue;
        }
        light_what_is_there();
        bool gone = false;
        const OperationPtr clip = graph_.clip_of(item.list, item.index, item.parent, gone);
        if (gone) continue;
        // What is blended over a lit picture colours it, as it would have coloured what is lit.
        if (item.part != Part::laid_over) relief = joined(relief, item);
        // What has no surface of its own has the piece's.
        const bool plain = !e.surface && !e.is_group() && !e.kind().follows;
        out.list.push_back({item.part == Part::seen_through ? Part::seen_through : Part::laid_over, relief,
                            nullptr, &e, graph_.masked(e, item.parent), clip, plain});
    }
    light_what_is_there();
    return out;
}

Layers::Sheets Layers::sheets() {
    const Piece& piece = *graph_.scene_.piece;
    return sheets(graph_.ground(piece.canvas.background), piece.elements, root_placed(graph_.scale_));
}

HeightsAt Layers::heights_of(const Color& ground, const Elements& list, const Placed& parent) const {
    return [scene = graph_.scene_, scale = graph_.scale_, ground, list, parent](Evaluator& evaluator,
                                                                                double other) {
        Graph graph(scene, other);
        Layers layers(graph);
        const double k = other / scale;
        const Placed there{Affine::scaling(k, k) * parent.to_device, k * parent.length, parent.rise};
        const OperationPtr below = graph.ground(ground), solid = layers.fall_apart(list)
                                                                     ? layers.sheets(below, list, there).solid
                                                                     : graph.joined(below, list, there);
        return evaluator.run(solid, graph.canvas(), graph.canvas(), channel::height);
    };
}

OperationPtr Layers::picture() {
    const Piece& piece = *graph_.scene_.piece;
    return picture(piece.canvas.background, piece.elements, root_placed(graph_.scale_), graph_.relief());
}

OperationPtr Layers::picture(const Color& ground, const Elements& list, const Placed& parent,
                             const OperationPtr& relief) {
    const HeightsAt heights_at = heights_of(ground, list, parent);
    if (!fall_apart(list)) return light(relief, nullptr, {relief, heights_at});
    const Sheets all = sheets(graph_.ground(ground), list, parent);
    const Solid solid{all.solid, heights_at};
    OperationPtr so_far;
    for (const Sheet& sheet : all.list) switch (sheet.part) {
        case Part::lit: {
            const OperationPtr lit = light(sheet.relief, sheet.colors, solid);
            so_far = so_far ? laid_over(so_far, lit) : lit;
            break;
        }
        case Part::laid_over:
            so_far = graph_.joined_one(so_far, *sheet.element, sheet.own, sheet.clip);
            break;
        case Part::seen_through: so_far = see_through(sheet, so_far, solid); break;
        }
    return so_far;
}

OperationPtr Layers::laid_over(const OperationPtr& below, const OperationPtr& top) {
    auto out = std::make_shared<Operation>();
    out->hash = (Hash() << "laid over" << below->hash << top->hash).value();
    out->called = "laid over";
    out->gives = channel::color;
    out->extent = everywhere;
    out->reads = {{below}, {top}};
    out->worth_keeping = out->in_tiles = true;
    out->run = [](const Work& work, std::vector<Bundle> read) {
        Bundle lit = std::move(read[0]);
        join(lit, read[1], Mix{}, work.wanted);
        return lit;
    };
    return out;
}

OperationPtr Layers::of_group(const Element& group, const Placed& within) {
    // On level ground that is not there, so that heights join as they do on the canvas.
    const Color clear{0, 0, 0, 0};
    const OperationPtr lit =
        picture(clear, group.elements, within, graph_.joined(graph_.ground(clear), group.elements, within));
    auto out = std::make_shared<Operation>();
    out->hash = (Hash() << "group lit by itself" << lit->hash).value();
    out->called = "group " + group.id;
    out->gives = channel::color;
    for (const Element& e : group.elements)
        if (e.mix.visible) out->extent = united(out->extent, graph_.masked(e, within)->extent);
    out->reads = {{lit}};
    out->worth_keeping = true;
    out->run = [hash = out->hash](const Work& work, std::vector<Bundle> read) {
        Bundle b = std::move(read[0]);
        const Region r = work.region;
        b.coverage_hash = (Hash() << hash << r.x0 << r.y0 << r.x1 << r.y1).value();
        return b;
    };
    return out;
}

OperationPtr Layers::light(const OperationPtr& relief, const OperationPtr& colors, const Solid& solid) {
    auto out = std::make_shared<Operation>();
    const Scene& scene = graph_.scene_;
    const Edge edge = scene.piece->canvas.edge;
    Read read{relief, channel::all, false};
    read.reach = edge == Edge::repeat ? the_whole : 1;
    read.within_canvas = true;
    out->reads = {read};
    const Lighting lighting = by_itself();
    Hash h;
    h << "light" << relief->hash << solid.relief->hash << hash_of(lighting) << graph_.scale_;
    if (colors) {
        out->reads.push_back({colors});
        h << colors->hash;
    }
    out->hash = h.value();
    out->called = "light";
    out->gives = channel::color;
    out->extent = graph_.canvas_;
    // Who only looks at it has no use for what it was before.
    out->worth_keeping = out->in_tiles = solid.relief != relief || colors || !scene.piece->finish.empty();
    // What is lit may be looked at from several threads; each asks for what stands in the way by itself.
    out->run = [solid, canvas = graph_.canvas_, scale = graph_.scale_, lighting, scene,
                edge](const Work& work, std::vector<Bundle> bundles) {
        Bundle& b = bundles[0];
        if (bundles.size() > 1) recolor(b, bundles[1]);
        Field cover = cropped(b.coverage, b.region, work.region);
        if (!work.wanted.has(channel::color)) return picture_of(work.region, {}, std::move(cover));
        const Lit now{scene, solid.relief, canvas, scale, lighting, solid.heights_at};
        const InTheWay way = in_the_way(*work.evaluator, now, work.region);
        return picture_of(work.region, shade(b, work.region, scale, edge, lighting, way), std::move(cover));
    };
    return out;
}

namespace {

/// What of an element that light goes through is lit as its own: (1 − transmission) of what it scatters, and
/// its highlights, over `r`. `relief` is that of everything up to it, its colours the element's.
std::array<Plane, 3> own_light(Bundle relief, const Field& transmission, Region r, double scale, Edge edge,
                               const Lighting& lighting, const InTheWay& way) {
    const auto is = [](const Field& f, float v) { return f.is_constant() && f.constant() == v; };
    const int w = relief.region.width(), h = relief.region.height();
    // What no metal scatters is in proportion to its base colour: less of that is less of it.
    if (is(relief.metallic, 0) && is(relief.sheen, 0) && !lighting.keep_flat_color) {
        const Rows t(transmission, w);
        for (Field& c : relief.color) {
            Plane& p = c.writable(w, h);
            parallel_rows(0, h, [&](int y) {
                for (int x = 0; x < w; ++x) p(x, y) *= 1 - t(y)[x];
            });
        }
        return shade(relief, r, scale, edge, lighting, way);
    }
    Lighting scattered = lighting, mirrored = lighting;
    scattered.counted.highlights = false;
    mirrored.counted.diffuse = mirrored.counted.ambient = false;
    auto out = shade(relief, r, scale, edge, scattered, way);
    const auto shine = shade(relief, r, scale, edge, mirrored, way);
    const Field part = cropped(transmission, relief.region, r);
    const Rows t(part, r.width());
    for (int c = 0; c < 3; ++c)
        parallel_rows(0, r.height(), [&](int y) {
            for (int x = 0; x < r.width(); ++x) out[c](x, y) = (1 - t(y)[x]) * out[c](x, y) + shine[c](x, y);
        });
    return out;
}

} // namespace

OperationPtr Layers::see_through(const Sheet& sheet, const OperationPtr& below, const Solid& solid) {
    const Element& e = *sheet.element;
    const Scene& scene = graph_.scene_;
    const Edge edge = scene.piece->canvas.edge;
    const bool plain = sheet.plain;
    auto out = std::make_shared<Operation>();
    Read all{sheet.relief, channel::all, false}, itself{sheet.own, channel::all, false};
    all.reach = itself.reach = edge == Edge::repeat ? the_whole : 1;
    all.within_canvas = itself.within_canvas = true;
    out->reads = {{below}, all, itself};
    const Lighting lighting = by_itself();
    Hash h;
    h << "seen through" << below->hash << sheet.relief->hash << solid.relief->hash << sheet.own->hash
      << hash_of(lighting) << graph_.scale_ << e.mix.opacity << static_cast<int>(e.mix.blend) << e.mix.linear;
    if (sheet.clip) {
        out->reads.push_back({sheet.clip, channel::coverage, false});
        h << sheet.clip->hash;
    }
    if (plain) h << content_hash(scene.piece->surface);
    out->hash = h.value();
    out->called = "seen through " + e.id;
    out->gives = channel::color;
    out->extent = graph_.canvas_;
    out->worth_keeping = out->in_tiles = true;
    out->run = [below, solid, canvas = graph_.canvas_, scale = graph_.scale_, lighting, scene, edge, plain,
                there = out->reads[2].from->extent, mix = e.mix](const Work& work, std::vector<Bundle> read) {
        Bundle result = std::move(read[0]);
        const Region r = intersect(work.region, there);
        if (r.empty()) return result;
        const Region around = edge == Edge::repeat ? read[1].region : intersect(grow(r, 1), read[1].region);
        Bundle lit = cropped(read[1], around), own = extended_with_nothing(read[2], around);
        if (plain) set_surface(own, scene.piece->surface);
        if (read.size() > 3) limit(own, extended_with_nothing(read[3].coverage, read[3].region, around));
        Evaluator& evaluator = *work.evaluator;
        const bool colored = work.wanted.has(channel::color);
        std::array<Plane, 3> light;
        if (colored) {
            const Lit now{scene, solid.relief, canvas, scale, lighting, solid.heights_at};
            recolor(lit, own);
            light = own_light(lit, own.transmission, r, scale, edge, lighting, in_the_way(evaluator, now, r));
        }
        const auto seen = seen_below(own, r, canvas, scale, edge, [&](Region wanted) {
            if (work.region.contains(wanted))
                return LitRegion{work.region,
                                 {result.color[0], result.color[1], result.color[2], result.coverage}};
            Bundle b = evaluator.run(below, canvas, wanted, work.wanted);
            return LitRegion{b.region, {b.color[0], b.color[1], b.color[2], b.coverage}};
        });
        const Field cover = cropped(own.coverage, own.region, r),
                    through = cropped(own.transmission, own.region, r);
        const Rows covers(cover, r.width()), throughs(through, r.width());
        const std::array<Rows, 4> below_it{Rows(seen[0], r.width()), Rows(seen[1], r.width()),
                                           Rows(seen[2], r.width()), Rows(seen[3], r.width())};
        const int w = result.region.width(), rows = result.region.height(), dx = r.x0 - result.region.x0,
                  dy = r.y0 - result.region.y0;
        std::array<Plane*, 4> to;
        for (int c = 0; c < 3; ++c) to[c] = &result.color[c].writable(w, rows);
        to[3] = &result.coverage.writable(w, rows);
        parallel_rows(0, r.height(), [&](int y) {
            const float *a = covers(y), *t = throughs(y);
            const std::array<const float*, 4> looked{below_it[0](y), below_it[1](y), below_it[2](y),
                                                     below_it[3](y)};
            for (int x = 0; x < r.width(); ++x) {
                const float k = mix.opacity * a[x];
                if (!(k > 0)) continue;
                std::array<float, 4> shown, under;
                for (int c = 0; c < 3; ++c)
                    shown[c] = colored ? k * t[x] * looked[c][x] + mix.opacity * light[c](x, y) : 0;
                shown[3] = k * (1 - t[x] + t[x] * looked[3][x]);
                for (int c = 0; c < 4; ++c) under[c] = (*to[c])(x + dx, y + dy);
                // What is seen takes the place of what is there; only where it is mixed otherwise is that
                // looked at.
                if (mix.blend == BlendMode::normal)
                    for (int c = 0; c < 4; ++c) under[c] = shown[c] + (1 - k) * under[c];
                else
                    composite(mix.blend, mix.linear, shown, under);
                for (int c = 0; c < 4; ++c) (*to[c])(x + dx, y + dy) = under[c];
            }
        });
        return result;
    };
    return out;
}

} // namespace bathylux
