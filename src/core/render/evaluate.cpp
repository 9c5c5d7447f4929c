#include "core/render/evaluate.h"

#include <cmath>
#include <optional>

#include "core/error.h"
#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/render/map.h"
#include "core/step/height.h"

namespace bathylux {

struct Evaluator::Run {
    Region canvas;
    const Progress& progress;
    std::uint64_t number;
};

namespace {

std::size_t bytes_of(const Bundle& b) {
    std::size_t n = sizeof(Bundle);
    for (const Field& f : b.color) n += f.bytes();
    for (const Field* f : {&b.coverage, &b.height, &b.weight, &b.surface_weight, &b.worn}) n += f->bytes();
    for (const Field* f : b.surface()) n += f->bytes();
    if (b.tone) n += b.tone->bytes();
    return n;
}

std::uint64_t key_of(const Operation& op, Region r, Channels wanted) {
    Hash h;
    h << "result" << op.hash << r.x0 << r.y0 << r.x1 << r.y1 << wanted.bits;
    return h.value();
}

/// The region that is read so that `wanted` can be made.
Region region_read(const Read& read, Region wanted, Region canvas) {
    if (read.reach == the_whole) return canvas;
    const int reach = static_cast<int>(std::ceil(read.reach));
    if (read.within_canvas) return intersect(grow(wanted, reach), canvas);
    // What lies around counts only where there is something, and no farther away than the canvas is large:
    // what fills all there is would be made for miles.
    const Region near = about(canvas);
    return united(wanted, intersect(intersect(grow(wanted, reach), read.from->extent), near));
}

/// What an operation is asked for: coverage always, and colour where it has no tones of its own.
Channels asked_of(const Operation& op, Channels wanted) {
    if (wanted.has(channel::tone) && !op.gives.has(channel::tone)) wanted = wanted | channel::color;
    return (wanted & op.gives) | channel::coverage;
}

} // namespace

std::vector<Region> tiles_of(Region canvas, Region region, Cut cut) {
    if (cut.one(canvas)) return {canvas};
    std::vector<Region> out;
    const Region r = intersect(region, canvas);
    for (int y = r.y0 / cut.side * cut.side; y < r.y1; y += cut.side)
        for (int x = r.x0 / cut.side * cut.side; x < r.x1; x += cut.side)
            out.push_back(intersect({x, y, x + cut.side, y + cut.side}, canvas));
    return out;
}

bool Evaluator::seen_before(const Run& run, const Operation& op) {
    const std::lock_guard lock(seen_mutex_);
    if (seen_.size() > 100'000) seen_.clear();
    return seen_.try_emplace(op.hash, run.number).first->second < run.number;
}

std::shared_ptr<const Bundle> Evaluator::find(const Run& run, const Operation& op, Region region,
                                              Channels wanted) {
    // What was made for more answers for less.
    for (const Region r : {region, run.canvas})
        for (const Channels c : {wanted, asked_of(op, channel::all)}) {
            if (!r.contains(region)) continue;
            if (const auto kept = std::static_pointer_cast<const Bundle>(budget_->find(key_of(op, r, c))))
                return kept;
        }
    return nullptr;
}

/// What is read of an operation so that `region` can be made.
Bundle Evaluator::read(const Run& run, const Read& read, Region region, Channels wanted) {
    Region r = region_read(read, region, run.canvas);
    if (read.where_it_is) r = intersect(r, read.from->extent);
    if (r.empty()) return {};
    return evaluate(run, *read.from, r, read.what_is_wanted ? read.always | wanted : read.always);
}

std::pair<float, float> Evaluator::statistic(const Run& run, const Read& read) {
    struct Ends {
        std::pair<float, float> range;
    };
    Hash h;
    h << "statistic" << static_cast<int>(read.statistic) << read.from->hash << run.canvas.x1 << run.canvas.y1;
    const auto make = [&] {
        std::pair<float, float> out{1e30f, -1e30f};
        const auto add = [&](float v) { out = {std::min(out.first, v), std::max(out.second, v)}; };
        for (const Region& tile : tiles_of(run.canvas, run.canvas, cut_)) {
            const Region there = intersect(tile, read.from->extent);
            const Bundle b = there.empty() ? Bundle{} : evaluate(run, *read.from, there, channel::height);
            if (read.statistic == Statistic::range_of_weighted) {
                const auto r = height_range_of(b, tile);
                add(r.first), add(r.second);
                continue;
            }
            if (b.region.empty() || !b.gives_height) continue;
            const int w = b.region.width();
            const Rows heights(b.height, w), weights(b.weight, w);
            for (int y = 0; y < b.region.height(); ++y)
                for (int x = 0; x < w; ++x)
                    if (weights(y)[x] >= 0.5f) add(heights(y)[x]);
        }
        if (out.first > out.second) out = {0, 0};
        return Kept{std::make_shared<const Ends>(Ends{range_beyond_rounding(out)}), sizeof(Ends)};
    };
    return std::static_pointer_cast<const Ends>(budget_->kept(h.value(), make))->range;
}

Bundle Evaluator::evaluate(const Run& run, const Operation& op, Region region, Channels wanted) {
    // A long row of elements is walked down to what is known, and up again.
    std::vector<const Operation*> row;
    const Operation* at = &op;
    std::optional<Bundle> below;
    for (; at->straight; at = at->reads[0].from.get()) {
        if (const auto kept = find(run, *at, region, asked_of(*at, wanted))) {
            below = cropped(*kept, intersect(region, kept->region));
            break;
        }
        row.push_back(at);
    }
    if (row.empty() && !below) return evaluate_one(run, op, region, wanted);
    if (!below) below = evaluate_one(run, *at, region, wanted);
    while (!row.empty()) {
        below = done(run, *row.back(), region, asked_of(*row.back(), wanted), std::move(*below));
        row.pop_back();
    }
    return std::move(*below);
}

Bundle Evaluator::evaluate_one(const Run& run, const Operation& op, Region region, Channels wanted) {
    stop_here();
    wanted = asked_of(op, wanted);
    if (!op.reads.empty() && !op.changes.has(wanted)) {
        // What knows the canvas only gives no more of what it leaves as it is.
        const Read& first = op.reads[0];
        const bool bound = first.within_canvas || first.reach == the_whole;
        const Region there = bound ? intersect(region, run.canvas) : region;
        return there.empty() ? Bundle{} : evaluate(run, *first.from, there, wanted);
    }
    if (const auto kept = find(run, op, region, wanted))
        return cropped(*kept, intersect(region, kept->region));
    const bool local = op.reads.empty() || op.reads[0].reach != the_whole;
    if (local && op.in_tiles && !cut_.one(run.canvas) &&
        region.area() > static_cast<long long>(cut_.side) * cut_.side && run.canvas.contains(region))
        return gathered(run, op, region, wanted);
    // What has no local form is done once for the whole.
    if (!local && !(region == run.canvas)) {
        const Bundle whole = evaluate_one(run, op, run.canvas, wanted);
        return cropped(whole, intersect(region, whole.region));
    }
    return done(run, op, region, wanted, std::nullopt);
}

/// A large region of a picture, out of the tiles that it touches.
Bundle Evaluator::gathered(const Run& run, const Operation& op, Region region, Channels wanted) {
    Bundle out;
    out.region = region;
    const std::array<Field*, 4> fields{&out.color[0], &out.color[1], &out.color[2], &out.coverage};
    const std::vector<Region> tiles = tiles_of(run.canvas, region, cut_);
    for (std::size_t i = 0; i < tiles.size(); ++i) {
        const Bundle part = evaluate_one(run, op, tiles[i], wanted);
        const Region both = intersect(tiles[i], region);
        const std::array<const Field*, 4> parts{&part.color[0], &part.color[1], &part.color[2],
                                                &part.coverage};
        for (std::size_t c = 0; c < 4; ++c) {
            // What is the same in all tiles stays one number.
            Field& to = *fields[c];
            if (i == 0 && parts[c]->is_constant()) to = *parts[c];
            if (to.is_constant() && parts[c]->is_constant() && to.constant() == parts[c]->constant())
                continue;
            Plane& plane = to.writable(region.width(), region.height());
            const Rows rows(*parts[c], part.region.width());
            for (int y = both.y0; y < both.y1; ++y)
                std::copy_n(rows(y - part.region.y0) + (both.x0 - part.region.x0), both.width(),
                            plane.row(y - region.y0) + (both.x0 - region.x0));
        }
    }
    return out;
}

/// Reads what is read (the first may be given), and does it.
Bundle Evaluator::done(const Run& run, const Operation& op, Region region, Channels wanted,
                       std::optional<Bundle> first) {
    const bool known = seen_before(run, op);
    Work work{region, wanted, {0, 0}, budget_.get(), this};
    std::vector<Bundle> bundles;
    for (std::size_t i = 0; i < op.reads.size(); ++i) {
        const Read& r = op.reads[i];
        if (r.statistic != Statistic::none) work.range = statistic(run, r);
        bundles.push_back(i == 0 && first ? std::move(*first) : read(run, r, work.region, wanted));
        if (i > 0 || r.where_it_is) continue;
        work.region = intersect(region, bundles[0].region);
        if (work.region.empty()) return {};
        // What rests below what changes is found again the next time.
        if (const Operation& below = *r.from;
            !known && !below.worth_keeping && !below.reads.empty() && seen_before(run, below))
            budget_->keep(key_of(below, bundles[0].region,
                                 asked_of(below, r.what_is_wanted ? r.always | wanted : r.always)),
                          {std::make_shared<const Bundle>(bundles[0]), bytes_of(bundles[0])});
    }
    Bundle out = op.run(work, std::move(bundles));
    stop_here();
    if (op.worth_keeping && budget_->limit() > 0)
        budget_->keep(key_of(op, region, wanted), {std::make_shared<const Bundle>(out), bytes_of(out)});
    if (op.share > 0 && run.progress) run.progress(op.share);
    return out;
}

Bundle Evaluator::run(const OperationPtr& operation, Region canvas, Region region, Channels wanted,
                      const Progress& progress) {
    std::uint64_t number = 0;
    {
        const std::lock_guard lock(seen_mutex_);
        number = ++questions_;
    }
    return evaluate({canvas, progress, number}, *operation, region, wanted);
}

Bundle Evaluator::relief(const Scene& scene, Region region, double scale, const Progress& progress,
                         Channels wanted) {
    Graph graph(scene, scale);
    return run(graph.relief(), graph.canvas(), region, wanted, progress);
}

Bundle Evaluator::element(const Scene& scene, std::string_view id, Region region, double scale, int steps) {
    Graph graph(scene, scale);
    const OperationPtr op = graph.element(id, steps);
    const Region there = intersect(region, op->extent);
    return there.empty() ? Bundle{} : run(op, graph.canvas(), there, channel::all);
}

Field Evaluator::map(const Scene& scene, const MapRef& ref, Region region, double scale) {
    Graph graph(scene, scale);
    return *run(graph.map(ref), graph.canvas(), region, channel::tone).tone;
}

std::uint64_t relief_hash(const Scene& scene, double scale) { return Graph(scene, scale).relief()->hash; }

} // namespace bathylux
