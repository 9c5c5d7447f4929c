#include "core/check/relief_checks.h"

#include <numbers>

#include "core/check/faults.h"
#include "core/make/normals_source.h"
#include "core/make/recognise.h"
#include "core/piece/edit.h"
#include "core/relief/deterrace.h"
#include "core/relief/meet_edges.h"
#include "core/relief/soften.h"
#include "core/relief/tones.h"
#include "core/render/views.h"

namespace bathylux {

std::string name_of(const Element& e) { return e.name.empty() ? e.id : e.name; }

const Element* owner_of_steepness(Evaluator& evaluator, const Scene& scene, const Elements& list, Vec2 at,
                                  int reach) {
    const int x = static_cast<int>(at.x), y = static_cast<int>(at.y);
    const Region around = intersect({x - reach, y - reach, x + reach + 2, y + reach + 2},
                                    canvas_region(scene.piece->canvas, 1));
    const auto drop_of = [&](const Bundle& b) {
        float low = 1e30f, high = -1e30f;
        for (int j = 0; j < b.region.height(); ++j)
            for (int i = 0; i < b.region.width(); ++i) {
                const float h = b.height.at(i, j) * b.weight.at(i, j);
                low = std::min(low, h), high = std::max(high, h);
            }
        return b.region.empty() || !b.gives_height ? 0.0f : high - low;
    };
    const Element* best = nullptr;
    float most = 0.25f;
    for (auto node = list.rbegin(); node != list.rend(); ++node) {
        const Element* e = &**node;
        if (!e->mix.visible) continue;
        const float drop = drop_of(evaluator.element(scene, e->id, around, 1));
        // In front counts for more: what lies behind may be covered.
        if (drop > 1.5f * most) most = drop, best = e;
    }
    if (!best || !best->is_group()) return best;
    const Element* inner = owner_of_steepness(evaluator, scene, best->elements, at, reach);
    return inner ? inner : best;
}

namespace {

/// An edit that adds a step of an element behind the one at `after` (−1: behind all).
template <class T> std::function<void(Piece&)> adding(const std::string& element, T step, int after = -1) {
    return [element, step, after](Piece& p) {
        change(p, element, [&](Element& e) {
            const int last = static_cast<int>(e.steps.size()) - 1;
            add_step(e, {.what = Described(step_kind(T::id), step)}, std::min(after, last));
        });
    };
}

std::string percent(double share) { return said(std::max(0.1, std::round(1000 * share) / 10)) + " %"; }

} // namespace

void look_for_terraces(Evaluator& evaluator, const Scene& scene, std::vector<Finding>& out) {
    for_each_element(scene.piece->elements, [&](const Element& e) {
        const auto asset = scene.assets->find(e.id);
        if (!e.mix.visible || asset == scene.assets->end() || !asset->second->picture ||
            asset->second->picture->bits() != 8)
            return;
        int tones = -1;
        for (std::size_t i = 0; i < e.steps.size(); ++i) {
            if (e.steps[i]->on && e.steps[i]->what.is("tones")) tones = static_cast<int>(i);
            if (e.steps[i]->on && (e.steps[i]->what.is("deterrace") || e.steps[i]->what.is("terrace")))
                return;
        }
        if (tones < 0) return;
        // The middle of a large canvas tells as much as all of it.
        const Region all = canvas_region(scene.piece->canvas, 1);
        constexpr int most = 4096;
        const int dx = std::max(0, (all.width() - most) / 2), dy = std::max(0, (all.height() - most) / 2);
        const Bundle b = evaluator.element(scene, e.id, {dx, dy, all.x1 - dx, all.y1 - dy}, 1, tones + 1);
        if (b.region.empty() || !b.gives_height) return;
        const float gap = level_gap(b.height, b.weight, b.region);
        if (gap < 0.1f) return; // finer than any light shows
        // A step shows where level ground at least 6 px wide meets level ground one rung up.
        long long shown = 0, worst = 0;
        Vec2 at;
        const Plane& h = b.height.plane();
        for (int y = 0; y < h.height(); y += 2) {
            int run = 1, before = 0;
            for (int x = 1; x < h.width(); ++x) {
                const float rise = std::abs(h(x, y) - h(x - 1, y)) / gap;
                if (rise < 0.25f) {
                    ++run;
                    continue;
                }
                if (before >= 6 && run >= 6) {
                    ++shown;
                    if (std::min(before, run) > worst && rise < 1.5f)
                        worst = std::min(before, run),
                        at = {b.region.x0 + x - run + 0.0, b.region.y0 + y + 0.5};
                }
                before = rise < 1.5f ? run : 0, run = 1;
            }
        }
        if (shown < h.height() / 8) return;
        Deterrace step;
        step.reach_px = std::clamp(2.5f * static_cast<float>(worst), 24.0f, 400.0f);
        out.push_back(
            {"terraces",
             name_of(e) + " rises in steps of " + said(std::round(gap * 100) / 100) + " px: 8 bits show", at,
             "take out the stair-steps", adding(e.id, step, tones)});
    });
}

void look_for_flipped_green(Evaluator&, const Scene& scene, std::vector<Finding>& out) {
    for_each_element(scene.piece->elements, [&](const Element& e) {
        const auto* n = e.source.as<NormalsSource>();
        const auto asset = scene.assets->find(e.id);
        if (!n || n->green == GreenSays::automatic || asset == scene.assets->end() || !asset->second->picture)
            return;
        const Green green = recognise(*asset->second->picture).green;
        if ((green != Green::up && green != Green::down) ||
            (green == Green::up) == (n->green == GreenSays::up))
            return;
        out.push_back({"flipped_green",
                       name_of(e) + " is read with its green flipped: its slopes do not fit together",
                       {e.placement.x, e.placement.y},
                       green == Green::up ? "read green as up" : "read green as down",
                       [id = e.id, green](Piece& p) {
                           change(p, id, [&](Element& c) {
                               c.source =
                                   c.source.with("green", std::string(green == Green::up ? "up" : "down"));
                           });
                       }});
    });
}

void look_for_edges(Evaluator& evaluator, const Scene& scene, std::vector<Finding>& out) {
    const Canvas& canvas = scene.piece->canvas;
    if (canvas.edge != Edge::repeat) return;
    const Bundle b = evaluator.relief(scene, canvas_region(canvas, 1), 1);
    if (b.height.is_constant()) return;
    const Plane& h = b.height.plane();
    const int w = h.width(), rows = h.height();
    if (w < 8 || rows < 8) return;
    // The leap across the join, against the largest leap in the four px on either side of it.
    float worst = 0;
    Vec2 at;
    int broken = 0;
    const auto leap = [&](const auto& value, int n, Vec2 place) {
        const float join = std::abs(value(0) - value(n - 1));
        float beside = 0;
        for (int k = 1; k < 5; ++k)
            beside = std::max(
                {beside, std::abs(value(k) - value(k - 1)), std::abs(value(n - k) - value(n - k - 1))});
        const float over = join - 1.5f * beside - 0.15f;
        if (over <= 0) return;
        ++broken;
        if (over > worst) worst = over, at = place;
    };
    for (int y = 0; y < rows; ++y) leap([&](int x) { return h(x, y); }, w, {0.5, y + 0.5});
    for (int x = 0; x < w; ++x) leap([&](int y) { return h(x, y); }, rows, {x + 0.5, 0.5});
    if (broken < (w + rows) / 100 + 2) return;
    Finding f{"edges_do_not_meet",
              "The tile's edges leap by up to " + said(std::round(worst * 10) / 10) + " px where they join",
              at,
              {},
              {}};
    // The element that leaps: what can tile is made to; what cannot gets its edges drawn together.
    const Element* owner = nullptr;
    for (const Element& e : scene.piece->elements) {
        if (!e.mix.visible) continue;
        const Bundle own = evaluator.element(scene, e.id, canvas_region(canvas, 1), 1);
        if (own.region.width() < w - 1 && own.region.height() < rows - 1) continue;
        if (own.gives_height && !own.height.is_constant()) owner = &e;
    }
    if (owner) {
        const Parameter* tile = owner->source.kind().find("tile");
        if (tile && !std::get<bool>(owner->source.get(*tile))) {
            f.fix_says = "let " + name_of(*owner) + " tile";
            f.fix = [id = owner->id](Piece& p) {
                change(p, id, [](Element& e) { e.source = e.source.with("tile", true); });
            };
        } else {
            f.fix_says = "draw the edges of " + name_of(*owner) + " together";
            f.fix = adding(owner->id, MeetEdges{});
        }
    }
    out.push_back(std::move(f));
}

void look_for_die_walls(Evaluator& evaluator, const Scene& scene, std::vector<Finding>& out) {
    const Canvas& canvas = scene.piece->canvas;
    const auto fault = fault_of(*scene.piece, "die_wall");
    if (!fault) return;
    const auto [steep, all, worst, at] = survey(evaluator, scene, *fault);
    const float limit = fault->limit;
    if (steep < 12) return;
    const double angle = std::atan(worst) / radians_per_degree;
    Finding f{"die_wall",
              "Walls stand at up to " + said(std::round(angle)) + "°; a draft of " + said(canvas.draft) +
                  "° allows " + said(90 - canvas.draft) + "°",
              at,
              {},
              {}};
    if (const Element* owner = owner_of_steepness(evaluator, scene, scene.piece->elements, at, 2)) {
        // A Gaussian turns a drop of d into a slope of at most d ÷ (σ √(2π)); how far the wall goes down is
        // looked up.
        const int reach = 24;
        const Region around = intersect({static_cast<int>(at.x) - reach, static_cast<int>(at.y) - reach,
                                         static_cast<int>(at.x) + reach, static_cast<int>(at.y) + reach},
                                        canvas_region(canvas, 1));
        const auto range = range_of(evaluator.relief(scene, around, 1).height);
        const double sigma =
            (range.second - range.first) / (0.9 * limit * std::sqrt(2 * std::numbers::pi)) + 0.5;
        f.fix_says = "soften " + name_of(*owner) + " by " + said(std::round(sigma * 10) / 10) + " px";
        f.fix = adding(owner->id, Soften{static_cast<float>(sigma)});
    }
    out.push_back(std::move(f));
}

void look_for_fine_detail(Evaluator& evaluator, const Scene& scene, std::vector<Finding>& out) {
    const auto fault = fault_of(*scene.piece, "finer_than_mesh");
    if (!fault) return;
    const double mesh = mesh_pitch(*scene.piece), sigma = mesh / 2;
    const FaultSurvey seen = survey(evaluator, scene, *fault);
    if (seen.at_fault * 500 < seen.all) return;
    Finding f{"finer_than_mesh",
              percent(double(seen.at_fault) / double(seen.all)) + " of the relief is finer than a mesh of " +
                  said(scene.piece->canvas.mesh) + " mm",
              seen.at,
              {},
              {}};
    if (const Element* owner = owner_of_steepness(evaluator, scene, scene.piece->elements, seen.at,
                                                  static_cast<int>(mesh) + 1)) {
        f.fix_says = "soften " + name_of(*owner) + " by " + said(std::round(sigma * 10) / 10) + " px";
        f.fix = adding(owner->id, Soften{static_cast<float>(sigma)});
    }
    out.push_back(std::move(f));
}

void look_for_detail_of_solid(Evaluator& evaluator, const Scene& scene, std::vector<Finding>& out) {
    const auto fault = fault_of(*scene.piece, "finer_than_solid");
    if (!fault) return;
    const FaultSurvey seen = survey(evaluator, scene, *fault);
    if (seen.at_fault * 500 < seen.all) return;
    const float fineness = scene.piece->solid->body.fineness, finer = std::max(0.25f, fineness / 2);
    out.push_back({"finer_than_solid",
                   percent(double(seen.at_fault) / double(seen.all)) +
                       " of the relief is finer than the solid's mesh: its outline and shadow leave that out",
                   seen.at, "cut the solid to " + said(finer) + " px", [finer](Piece& p) {
                       if (p.solid) p.solid->body.fineness = finer;
                   }});
}

} // namespace bathylux
