#include "core/check/checks.h"

#include <functional>
#include <numeric>

#include "core/check/relief_checks.h"
#include "core/light/shade.h"
#include "core/piece/edit.h"
#include "core/relief/soften.h"
#include "core/relief/tones.h"
#include "core/render/views.h"

namespace bathylux {

namespace {

struct Cliff {
    float drop = 0;
    Vec2 at;
    long long pixels = 0;
};

void look_for_cliffs(const Field& height, Region r, Cliff& worst) {
    if (height.is_constant()) return;
    const Plane& h = height.plane();
    for (int y = 0; y < r.height(); ++y)
        for (int x = 0; x < r.width(); ++x) {
            const float right = x + 1 < r.width() ? std::abs(h(x + 1, y) - h(x, y)) : 0;
            const float below = y + 1 < r.height() ? std::abs(h(x, y + 1) - h(x, y)) : 0;
            const float drop = std::max(right, below);
            if (drop <= cliff_drop) continue;
            ++worst.pixels;
            if (drop > worst.drop) worst.drop = drop, worst.at = {r.x0 + x + 0.5, r.y0 + y + 0.5};
        }
}

struct Clipping {
    std::vector<int> counts = std::vector<int>(1024, 0); // of the brightest channel, 1/128 apart
    long long pixels = 0, clipped = 0;
    float most = 0;
    Vec2 at;
};

/// Light is looked at on so many px at most: how much of it clips is a share, which a smaller picture tells
/// as well, and sharp shadows of a very large piece take minutes.
constexpr double most_lit_px = 6e6;

void count_clipping(const Strip& lit, double scale, Clipping& found) {
    const int w = lit.region.width();
    const Rows r(lit.channels[0], w), g(lit.channels[1], w), b(lit.channels[2], w), a(lit.channels[3], w);
    for (int y = 0; y < lit.region.height(); ++y)
        for (int x = 0; x < w; ++x) {
            if (a(y)[x] <= 0) continue;
            const float v = std::max({r(y)[x], g(y)[x], b(y)[x]}) / a(y)[x];
            ++found.pixels;
            ++found.counts[std::clamp(static_cast<int>(v * 128), 0, 1023)];
            if (v > 1.0f) ++found.clipped;
            if (v > found.most)
                found.most = v,
                found.at = {(lit.region.x0 + x + 0.5) / scale, (lit.region.y0 + y + 0.5) / scale};
        }
}

Finding clipped_light(const Piece& piece, const Clipping& found) {
    Finding out{"clipped_light",
                "Light clips on " +
                    said(std::max(0.1, std::round(1000.0 * found.clipped / found.pixels) / 10)) + " % of it",
                found.at,
                {},
                {}};
    if (piece.keep_flat_color) {
        out.fix_says = "raise the lights";
        out.fix = [](Piece& p) {
            for (auto& node : p.lights)
                node = node.with([](Light& l) {
                    if (const auto* d = l.what.as<DirectionalLight>())
                        l.what = l.what.with("elevation", d->elevation + 0.35 * (90 - d->elevation));
                    if (const auto lamp = standing(l.what)) l.what = l.what.with("z", lamp->z * 1.6);
                });
        };
        return out;
    }
    // The brightness that all but one pixel in five thousand stay below is brought to 1.
    int bin = 1023;
    for (long long above = found.counts[1023]; bin > 128 && above * 5000 <= found.pixels;)
        above += found.counts[--bin];
    const float peak = bin >= 1023 ? found.most : static_cast<float>(bin + 1) / 128;
    const float ambient = std::min(0.9f, piece.ambient.intensity);
    const float stops = std::log2((1 - ambient) / std::max(peak - ambient, 1e-3f));
    out.fix_says = "lower exposure by " + said(-stops) + " EV";
    out.fix = [stops](Piece& p) { p.exposure = std::max(-20.0f, p.exposure + stops); };
    return out;
}

/// Where on the canvas a picture has such a px: the first that is found, walking it coarsely.
Vec2 place_of(const Piece& piece, const Element& e, const Picture& p,
              const std::function<bool(int x, int y)>& such) {
    const auto parent = parent_placed(piece, e.id);
    const Affine to_canvas = (parent ? parent->to_device : Affine{}) * e.placement.matrix();
    const int step = std::max(1, std::min(p.width, p.height) / 400);
    for (int y = step / 2; y < p.height; y += step)
        for (int x = step / 2; x < p.width; x += step)
            if (such(x, y)) return to_canvas({x + 0.5 - p.width / 2.0, y + 0.5 - p.height / 2.0});
    return to_canvas({0, 0});
}

/// Tones that fell outside the window of a `tones` step, for every picture that has one.
void look_for_flattened(const Scene& scene, std::vector<Finding>& out) {
    for_each_element(scene.piece->elements, [&](const Element& e) {
        const auto asset = scene.assets->find(e.id);
        if (!e.mix.visible || asset == scene.assets->end() || !asset->second->picture ||
            asset->second->picture->is_float())
            return;
        const Picture& p = *asset->second->picture;
        for (std::size_t i = 0; i < e.steps.size(); ++i) {
            const auto* tones = e.steps[i]->what.as<Tones>();
            if (!e.steps[i]->on) continue;
            // What comes behind a step on colour, or evened light, does not read the picture's own tones.
            if (e.steps[i]->kind().group == "colour" || e.steps[i]->what.is("even_light")) return;
            if (!tones) continue;
            constexpr int bins = 256;
            const auto counts = tone_histogram(p, tones->channel, bins);
            const double total = std::max(1.0, std::accumulate(counts.begin(), counts.end(), 0.0));
            const auto flat = [&](int bin) {
                return (bin + 1.0) / bins <= tones->low || static_cast<double>(bin) / bins >= tones->high;
            };
            double cut = 0;
            int first = bins, last = -1;
            for (int k = 0; k < bins; ++k) {
                if (counts[k] == 0) continue;
                first = std::min(first, k), last = k;
                if (flat(k)) cut += counts[k];
            }
            if (cut / total < 0.005) continue;
            Finding f{"flattened",
                      said(std::round(1000 * cut / total) / 10) + " % of " + name_of(e) +
                          "'s tones come out flat",
                      {},
                      "widen the tone window",
                      {}};
            f.at = place_of(*scene.piece, e, p, [&](int x, int y) {
                const auto tone = stored_tone(p, x, y, tones->channel);
                return tone && flat(tone_bin(*tone, bins));
            });
            f.fix = [id = e.id, step = e.steps[i]->id, low = static_cast<double>(first) / bins,
                     high = (last + 1.0) / bins](Piece& piece) {
                change_step(piece, id, step,
                            [&](Step& s) { s.what = s.what.with("low", low).with("high", high); });
            };
            out.push_back(std::move(f));
        }
    });
}

} // namespace

std::vector<Finding> check_piece(Evaluator& evaluator, const Scene& scene) {
    const Piece& piece = *scene.piece;
    std::vector<Finding> out;
    Cliff cliff;
    Clipping clipping;
    std::pair<float, float> range{1e30f, -1e30f};
    const Region all = canvas_region(piece.canvas, 1);
    const double px = static_cast<double>(all.width()) * all.height();
    const double lit_scale = std::min(1.0, std::sqrt(most_lit_px / std::max(1.0, px)));
    std::vector<View> views{View::height};
    if (lit_scale == 1) views.push_back(View::lit);
    for (const Region& tile : tiles_of(all, all, evaluator.cut())) {
        // A row and a column more, so that no edge between tiles is missed.
        const auto seen = look(evaluator, scene, views,
                               intersect(Region{tile.x0, tile.y0, tile.x1 + 1, tile.y1 + 1}, all), 1);
        look_for_cliffs(seen[0].channels[0], seen[0].region, cliff);
        const auto r = range_of(seen[0].channels[0]);
        range = {std::min(range.first, r.first), std::max(range.second, r.second)};
        if (lit_scale == 1) count_clipping(seen[1], 1, clipping);
    }
    if (lit_scale < 1) {
        const Region smaller = canvas_region(piece.canvas, lit_scale);
        for (const Region& tile : tiles_of(smaller, smaller, evaluator.cut()))
            count_clipping(look(evaluator, scene, View::lit, tile, lit_scale), lit_scale, clipping);
    }
    if (cliff.pixels >= 12) {
        const Element* owner = owner_of_steepness(evaluator, scene, piece.elements, cliff.at, 2);
        Finding f{"cliff",
                  (owner ? name_of(*owner) : "The relief") + " drops " +
                      said(std::round(cliff.drop * 10) / 10) + " px at once: jagged",
                  cliff.at,
                  {},
                  {}};
        if (owner) {
            // A Gaussian turns a drop of d into a slope of at most d ÷ (σ √(2π)); a tenth to spare.
            const double sigma = cliff.drop / (0.9 * cliff_drop * std::sqrt(2 * std::numbers::pi)) + 0.3;
            f.fix_says = "soften by " + said(sigma) + " px";
            f.fix = [id = owner->id, sigma](Piece& p) {
                change(p, id, [&](Element& e) {
                    add_step(e, {.what = Described(step_kind("soften"), Soften{static_cast<float>(sigma)})});
                });
            };
        }
        out.push_back(std::move(f));
    }
    look_for_flattened(scene, out);
    for (const auto check : {look_for_terraces, look_for_flipped_green, look_for_edges, look_for_die_walls,
                             look_for_fine_detail, look_for_detail_of_solid})
        check(evaluator, scene, out);
    if (piece.canvas.height_range && (range.first < piece.canvas.height_range->first - 1e-3f ||
                                      range.second > piece.canvas.height_range->second + 1e-3f))
        out.push_back({"flattened",
                       "Heights run from " + said(range.first) + " to " + said(range.second) +
                           " px, beyond the stated range",
                       {piece.canvas.width / 2.0, piece.canvas.height / 2.0},
                       "take the range from the piece",
                       [](Piece& p) { p.canvas.height_range.reset(); }});
    if (clipping.clipped >= 16 && clipping.clipped * 200 > clipping.pixels)
        out.push_back(clipped_light(piece, clipping));
    return out;
}

} // namespace bathylux
