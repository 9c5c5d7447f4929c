// Steps of elements and of the finish as operations, and what they read of other elements. See graph.h.
#include "core/error.h"
#include "core/field/parallel.h"
#include "core/paint/painting.h"
#include "core/render/evaluate.h"
#include "core/render/graph.h"
#include "core/render/map.h"
#include "core/render/operation_hash.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

/// share × a quantity over a region.
Field scaled(const Field& f, float share, Region r) {
    if (f.is_constant()) return share * f.constant();
    Plane out(r.width(), r.height());
    parallel_rows(0, r.height(), [&](int y) {
        for (int x = 0; x < r.width(); ++x) out(x, y) = share * f.plane()(x, y);
    });
    return Field(std::move(out));
}

/// Whether a step goes by the box of its element.
bool framed(const StepKind& kind) { return kind.group == "colour" || kind.group == "bend"; }

/// What is read off an element so that a map can be made of it.
Read read_for(const OperationPtr& from, MapOf of) {
    const bool heights = of == MapOf::height || of == MapOf::slope || of == MapOf::slopes;
    Read read{from,
              heights              ? channel::height
              : of == MapOf::alpha ? channel::coverage
              : of == MapOf::worn  ? channel::worn
                                   : channel::tone,
              false};
    // A pixel more on every side, so that slopes go on across the region's edge.
    read.reach = of == MapOf::slope || of == MapOf::slopes ? 1 : 0;
    read.where_it_is = true;
    if (of == MapOf::height) read.statistic = Statistic::range_of_weighted;
    return read;
}

/// What reads such numbers over a region.
std::vector<std::function<MapField(Region)>> readers(const std::vector<OperationPtr>& maps,
                                                     Evaluator& evaluator, Region canvas) {
    std::vector<std::function<MapField(Region)>> out;
    for (const OperationPtr& m : maps) {
        out.emplace_back();
        if (!m) continue;
        out.back() = [&evaluator, canvas, m](Region wanted) {
            Bundle b = evaluator.run(m, canvas, wanted, channel::color);
            return MapField{b.region, std::move(b.color[0]), std::move(b.color[1]), std::move(b.coverage)};
        };
    }
    return out;
}

} // namespace

/// An operation that reads an element, or the one that is meant by none, for a map.
std::shared_ptr<Operation> Graph::reading(const char* what, const MapRef& ref, const OperationPtr& itself) {
    const Found* f = find(ref.element);
    if (!f && !(itself && ref.element.empty()))
        throw Error("There is no element " + in_quotes(ref.element) + " to be read.");
    auto out = std::make_shared<Operation>();
    const OperationPtr from = f ? masked(*f->element, f->parent) : itself;
    out->reads = {read_for(from, ref.of)};
    out->hash = (Hash() << what << from->hash << content_hash(ref) << scale_ << canvas_).value();
    out->called = std::string(what) + " of " + ref.element;
    out->extent = everywhere;
    out->worth_keeping = true;
    return out;
}

OperationPtr Graph::map(const MapRef& ref, const OperationPtr& itself) {
    const auto out = reading("map", ref, itself);
    out->gives = channel::tone;
    out->run = [ref, per_px = static_cast<float>(scale_)](const Work& work, const std::vector<Bundle>& read) {
        Bundle b;
        b.region = work.region;
        b.tone = map_values(read[0], ref, work.range, work.region, per_px);
        return b;
    };
    return out;
}

OperationPtr Graph::numbers(const MapRef& ref, const OperationPtr& itself) {
    const auto out = reading("numbers", ref, itself);
    out->gives = channel::color;
    out->run = [ref, per_px = static_cast<float>(scale_)](const Work& work, const std::vector<Bundle>& read) {
        MapField n = map_numbers(read[0], ref, work.range, work.region, per_px);
        Bundle b;
        b.region = work.region;
        b.color = {std::move(n.x), std::move(n.y), 0.0f};
        b.coverage = std::move(n.cover);
        return b;
    };
    return out;
}

Graph::Frame Graph::canvas_frame() const {
    const Canvas& c = scene_.piece->canvas;
    return {box_about(c.width, c.height),
            Affine::scaling(scale_, scale_) * Affine::translation(c.width / 2, c.height / 2)};
}

Graph::Frame Graph::frame_of(const Element& e, const Placed& placed) const {
    if (e.kind().fills) return canvas_frame();
    const Box box = own_box(scene_, e);
    if (box.empty()) return canvas_frame();
    return {box, placed.to_device};
}

/// Under what circumstances the steps of an element are done, but for the region.
Context Graph::context_of(const Placed& placed, const Frame& frame, bool lit) const {
    Context out{};
    out.canvas = canvas_, out.canvas_edge = scene_.piece->canvas.edge;
    out.length = placed.length, out.rise = placed.rise, out.to_device = placed.to_device;
    out.scale = scale_, out.unclamped = lit;
    out.box = frame.box, out.box_to_device = frame.to_device;
    return out;
}

/// What the maps among a step's parameters read; null where that is nothing.
std::vector<OperationPtr> Graph::maps_of(const Step& step, const OperationPtr& below) {
    std::vector<OperationPtr> out;
    for (const Parameter& p : step.kind().parameters) {
        if (p.type != Parameter::Type::map) continue;
        const auto ref = map_in(step.what, p);
        out.push_back(reads(ref) && readable(*ref) ? numbers(*ref, below) : nullptr);
    }
    return out;
}

Context Graph::context_at(const Element& e, const Placed& placed, std::size_t step) {
    Frame frame = frame_of(e, placed);
    for (std::size_t i = 0; i < step; ++i)
        if (const Step& s = *e.steps[i]; s.on && s.kind().boxed)
            frame.box = s.kind().boxed(s.what.data(), context_of(placed, frame, false));
    return context_of(placed, frame, false);
}

OperationPtr Graph::drift(std::string_view id, std::string_view step_id) {
    const Found* f = find(id);
    const int i = f ? index_of_step(f->element->steps, step_id) : -1;
    if (i < 0 || !f->element->steps[i]->kind().looks_at)
        throw Error("There is no step " + in_quotes(step_id) + " that bends.");
    const Element& e = *f->element;
    const Step& step = *e.steps[i];
    const Placed placed = placed_within(f->parent, e);
    const OperationPtr below = stepped(e, placed, i);
    Context context = context_at(e, placed, static_cast<std::size_t>(i));
    const Painting* painting = painting_of(scene_, e, step);
    context.painting = [painting](std::string_view) { return painting; };
    context.below_extent = below->extent;
    if (step.kind().lands) step.kind().lands(step.what.data(), below->extent, context); // or says why not
    const auto maps = maps_of(step, below);
    auto out = std::make_shared<Operation>();
    Hash h;
    h << "drift" << below->hash << step.what.hash() << canvas_ << scale_ << context.box_to_device;
    if (painting) h << painting->hash();
    for (const OperationPtr& m : maps) h << (m ? m->hash : 0);
    out->hash = h.value();
    out->called = "drift of " + e.id;
    out->gives = channel::color;
    out->extent = everywhere;
    out->run = [what = step.what, &kind = step.kind(), context, maps, scene = scene_,
                per_px = static_cast<float>(1 / scale_)](const Work& work, const std::vector<Bundle>&) {
        Context now = context;
        now.region = work.region, now.memo = work.memo;
        now.maps = readers(maps, *work.evaluator, now.canvas);
        const Looks looks = kind.looks_at(what.data(), now);
        const int w = work.region.width(), rows = work.region.height();
        Plane x(w, rows), y(w, rows);
        parallel_rows(0, rows, [&](int j) {
            for (int k = 0; k < w; ++k) {
                x(k, j) = per_px * (static_cast<float>(work.region.x0 + k) + 0.5f - looks.x(k + 1, j + 1));
                y(k, j) = per_px * (static_cast<float>(work.region.y0 + j) + 0.5f - looks.y(k + 1, j + 1));
            }
        });
        Bundle b;
        b.region = work.region;
        b.color = {Field(std::move(x)), Field(std::move(y)), 0.0f};
        b.coverage = 1.0f;
        return b;
    };
    return out;
}

OperationPtr Graph::stepped(const Element& e, const Placed& placed, int steps) {
    OperationPtr out = source(e, placed);
    std::optional<Frame> frame;
    const bool lit = is_lit_picture(*scene_.piece, e);
    for (int i = 0; i < steps && i < static_cast<int>(e.steps.size()); ++i) {
        const Step& s = *e.steps[i];
        if (!s.on) continue;
        if (framed(s.kind()) && !frame) frame = frame_of(e, placed);
        try {
            out = step(out, e.id, s, context_of(placed, frame.value_or(Frame{}), lit),
                       painting_of(scene_, e, s));
        } catch (const Error& error) {
            throw Error("Element " + in_quotes(e.name.empty() ? e.id : e.name) + ": " + error.what());
        }
        if (s.kind().boxed) frame->box = s.kind().boxed(s.what.data(), context_of(placed, *frame, lit));
    }
    return out;
}

OperationPtr Graph::step(const OperationPtr& below, std::string_view of, const Step& step, Context context,
                         const Painting* painting) {
    const StepKind& kind = step.kind();
    const Edge edge = context.canvas_edge;
    auto out = std::make_shared<Operation>();
    out->called = std::string(kind.id) + " of " + std::string(of);
    out->gives = below->gives | kind.gives;
    out->worth_keeping = true;
    out->changes = kind.gives;

    Hash h;
    h << "step" << below->hash << step.what.hash() << context.to_device << context.length << context.rise
      << canvas_ << static_cast<int>(edge) << context.unclamped;
    if (framed(kind))
        h << context.box_to_device << context.box.x0 << context.box.y0 << context.box.x1 << context.box.y1;
    if (painting) h << painting->hash();

    const bool mapped = reads(step.map) && readable(*step.map), limited = mapped || step.share < 1;
    out->outlined = !limited && !kind.drops_outline && (below->outlined || kind.whole_without_outline);
    std::vector<OperationPtr> maps; // of its own parameters; null: nothing is read
    if (kind.looks) {
        Hash given;
        given << below->hash << context.to_device << context.length << context.rise << canvas_;
        maps = maps_of(step, below);
        for (const OperationPtr& m : maps) given << (m ? m->hash : 0);
        context.reads_hash = given.value();
        h << context.reads_hash;
        context.below_extent = below->extent;
        context.painting = [painting](std::string_view) { return painting; };
        out->extent = kind.lands ? kind.lands(step.what.data(), below->extent, context) : below->extent;
        if (limited) out->extent = united(out->extent, below->extent);
        out->changes = channel::all;
    } else {
        // Some measures are never less than a px or so, however small it is looked at.
        const double own = kind.reach(step.what.data()) * context.length, reach = own > 0 ? own + 6 : 0;
        Read read{below, kind.reads | channel::coverage};
        if (kind.needs) read.always = read.always | kind.needs(step.what.data());
        read.reach = reach;
        if (kind.spreads) {
            read.within_canvas = true;
            // On a tile what leaves at one side comes back at the other: all of it is read.
            if (edge == Edge::repeat && reach > 0) read.reach = the_whole;
        }
        if (kind.whole_without_outline && !below->outlined) read.reach = the_whole;
        if (kind.needs_range) read.statistic = Statistic::range_where_it_counts;
        out->reads.push_back(read);
        // How far it writes beyond what it was given.
        const double writes = kind.spreads  ? reach + 1
                              : kind.writes ? kind.writes(step.what.data()) * context.length + 1
                                            : 0;
        out->extent = edge == Edge::repeat && writes > 1 ? everywhere : grown(below->extent, writes);
    }
    if (mapped) {
        out->reads.push_back({map(*step.map, below), channel::tone, false});
        h << out->reads.back().from->hash;
    }
    if (step.share < 1) h << "share" << step.share;
    out->hash = h.value();

    out->run = [what = step.what, &kind, context, painting, scene = scene_, limited, mapped, maps, below,
                share = step.share, hash = out->hash](const Work& work, std::vector<Bundle> read) {
        Context now = context;
        now.region = work.region, now.range = work.range, now.memo = work.memo;
        now.painting = [painting](std::string_view) { return painting; };
        Bundle made;
        if (kind.looks) {
            Evaluator& evaluator = *work.evaluator;
            Channels needed = kind.needs ? work.wanted | kind.needs(what.data()) : work.wanted;
            // Of what was brought elsewhere, tones are told from its colours.
            if (needed.has(channel::tone)) needed = needed | channel::color;
            now.below = [&, needed](Region wanted) {
                const Region there = intersect(wanted, below->extent);
                return there.empty() ? Bundle{} : evaluator.run(below, now.canvas, there, needed);
            };
            now.maps = readers(maps, evaluator, now.canvas);
            made = kind.apply(what.data(), {}, now);
            made.coverage_hash = (Hash() << hash << work.region).value();
        } else
            made = kind.apply(what.data(), read[0], now);
        if (!limited) return made;
        const Bundle before = kind.looks ? extended_with_nothing(now.below(made.region), made.region)
                                         : cropped(read[0], made.region);
        Field amount = mapped ? std::move(*read.back().tone) : Field(share);
        if (mapped && share < 1) amount = scaled(amount, share, made.region);
        Bundle b = mixed(before, std::move(made), amount);
        if (b.coverage_hash != before.coverage_hash)
            b.coverage_hash = (Hash() << hash << work.region).value();
        return b;
    };
    return out;
}

} // namespace bathylux
