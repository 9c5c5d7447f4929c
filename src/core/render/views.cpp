#include "core/render/views.h"

#include "core/field/parallel.h"
#include "core/light/normals.h"
#include "core/light/occlusion.h"
#include "core/relief/height.h"
#include "core/render/tied_lights.h"

namespace bathylux {

namespace {
/// A strip holds about this many pixels: some 200 MB while it is worked on.
constexpr long long strip_pixels = 3 << 20;
/// Half the divergence of the unit normal's flat part: the mean curvature of the relief as a surface.
Plane curvature(const Bundle& relief, Region region, double scale, Edge edge, std::stop_token stop) {
    const Region wide = edge == Edge::repeat ? relief.region : intersect(grow(region, 1), relief.region);
    const auto n = normals(relief.height, relief.region, wide, static_cast<float>(scale), edge, stop);
    Plane out(region.width(), region.height());
    const int w = wide.width(), h = wide.height();
    parallel_rows(0, region.height(), [&](int y) {
        const int j = region.y0 + y - wide.y0;
        const int above = wrapped(j - 1, h, edge), below = wrapped(j + 1, h, edge);
        for (int x = 0; x < region.width(); ++x) {
            const int i = region.x0 + x - wide.x0;
            const int left = wrapped(i - 1, w, edge), right = wrapped(i + 1, w, edge);
            const float dx = n[0](right, j) - n[0](left, j), dy = n[1](i, above) - n[1](i, below); // y up
            out(x, y) = static_cast<float>(0.25 * scale) * (dx + dy);
        }
    });
    return out;
}

/// Rolls bright light off, on straight colour.
void roll_off(std::array<Plane, 3>& lit, const Field& coverage, RollOff how) {
    const int w = lit[0].width();
    const Rows cover(coverage, w);
    parallel_rows(0, lit[0].height(), [&](int y) {
        const float* a = cover(y);
        for (Plane& p : lit) {
            float* v = p.row(y);
            for (int x = 0; x < w; ++x)
                if (a[x] > 0) v[x] = a[x] * rolled_off(how, v[x] / a[x]);
        }
    });
}

} // namespace

Lighting lighting_of(const Scene& scene) {
    Panoramas panoramas;
    for (const Light& l : scene.piece->lights)
        if (const auto found = scene.assets->find(panorama_key(l.id)); found != scene.assets->end())
            panoramas[l.id] = found->second->picture;
    return lighting_of(*scene.piece, lights_on_canvas(*scene.piece), panoramas);
}

LitParts lit_parts(const Bundle& relief, Region region, double scale, Edge edge, const Lighting& lighting,
                   std::stop_token stop) {
    const auto counting = [&](Counted counted) {
        Lighting l = lighting;
        l.counted = counted, l.relight = 1, l.relight_blend = BlendMode::normal;
        return shade(relief, region, scale, edge, l, stop);
    };
    const auto minus = [](std::array<Plane, 3>& from, const std::array<Plane, 3>& what) {
        for (int c = 0; c < 3; ++c)
            parallel_rows(0, from[c].height(), [&](int y) {
                for (int x = 0; x < from[c].width(); ++x) from[c](x, y) -= what[c](x, y);
            });
    };
    LitParts out;
    const auto part = [&](Part p) -> std::array<Plane, 3>& { return out.parts[static_cast<std::size_t>(p)]; };
    Counted around;
    around.lamps = around.occlusion = false;
    part(Part::ambient) = counting(around);
    around.occlusion = true;
    part(Part::occlusion) = counting(around);
    minus(part(Part::occlusion), part(Part::ambient));
    Counted lamps;
    lamps.skies = lamps.ambient = lamps.shadow = lamps.highlights = false;
    part(Part::diffuse) = counting(lamps);
    lamps.diffuse = false, lamps.highlights = true;
    part(Part::highlights) = counting(lamps);
    // What is missing from the whole is what the shadows take, and what is laid over in the end.
    part(Part::shadow) = shade(relief, region, scale, edge, lighting, stop);
    for (const Part p : {Part::ambient, Part::occlusion, Part::diffuse, Part::highlights})
        minus(part(Part::shadow), part(p));
    return out;
}

Strip view_of(View view, const Bundle& relief, Region region, double scale, Edge edge,
              const Lighting& lighting, std::stop_token stop) {
    Strip out{region, {}};
    const auto part = [&](const Field& f) { return cropped(f, relief.region, region); };
    switch (view) {
    case View::art:
        for (const Field& c : relief.color) out.channels.push_back(part(c));
        out.channels.push_back(part(relief.coverage));
        break;
    case View::height: out.channels.push_back(part(relief.height)); break;
    case View::normals:
        for (Plane& p : normals(relief.height, relief.region, region, static_cast<float>(scale), edge, stop))
            out.channels.emplace_back(std::move(p));
        break;
    case View::lit: {
        auto lit = shade(relief, region, scale, edge, lighting, stop);
        Field cover = part(relief.coverage);
        show_bodies(lighting, region, scale, relief, lit, cover);
        out.channels.push_back(std::move(cover));
        if (lighting.roll_off != RollOff::none) roll_off(lit, out.channels[0], lighting.roll_off);
        for (int c = 0; c < 3; ++c) out.channels.insert(out.channels.begin() + c, Field(std::move(lit[c])));
        break;
    }
    case View::occlusion:
        out.channels.push_back(
            cropped(Field(occlusion(relief.height, relief.region, static_cast<float>(scale), edge, {}, stop)),
                    relief.region, region));
        break;
    case View::slope: {
        auto n = normals(relief.height, relief.region, region, static_cast<float>(scale), edge, stop);
        parallel_rows(0, region.height(), [&](int y) {
            float* z = n[2].row(y);
            for (int x = 0; x < region.width(); ++x)
                z[x] = std::acos(std::min(1.0f, z[x])) / static_cast<float>(radians_per_degree);
        });
        out.channels.emplace_back(std::move(n[2]));
        break;
    }
    case View::curvature: out.channels.emplace_back(curvature(relief, region, scale, edge, stop)); break;
    case View::roughness: out.channels.push_back(part(relief.roughness)); break;
    case View::metallic: out.channels.push_back(part(relief.metallic)); break;
    case View::mask: out.channels.push_back(part(relief.coverage)); break;
    }
    return out;
}

bool looks_far(View view, const Lighting& lighting) {
    return view == View::occlusion || (view == View::lit && lighting.looks_far());
}

int channels_of(View view) { return is_color(view) ? 4 : view == View::normals ? 3 : 1; }
bool is_color(View view) { return view == View::art || view == View::lit; }

float as_share(View view, float v) {
    if (view == View::slope) return v / 90;
    if (view == View::curvature) return 0.5f + 2 * v;
    return v;
}

Region region_with_neighbours(const Canvas& canvas, Region wanted, double scale, bool whole) {
    const Region all = canvas_region(canvas, scale);
    return whole || canvas.edge == Edge::repeat ? all : intersect(grow(wanted, 2), all);
}

void render_strips(Evaluator& evaluator, const Scene& scene, View view, double scale,
                   const std::function<void(const Strip&)>& sink, std::stop_token stop,
                   const Evaluator::Progress& progress) {
    const Canvas& canvas = scene.piece->canvas;
    const Region all = canvas_region(canvas, scale);
    const Lighting lighting = lighting_of(scene);
    const int rows =
        canvas.edge == Edge::repeat || looks_far(view, lighting)
            ? all.height()
            : static_cast<int>(std::clamp<long long>(strip_pixels / all.width(), 64, all.height()));
    for (int y = 0; y < all.y1; y += rows) {
        const Region wanted{0, y, all.x1, std::min(all.y1, y + rows)};
        const auto part = [&](double done) {
            if (progress) progress((wanted.y0 + done * wanted.height()) / all.height());
        };
        const Bundle relief =
            evaluator.relief(scene, region_with_neighbours(canvas, wanted, scale, looks_far(view, lighting)),
                             scale, stop, part);
        sink(view_of(view, relief, wanted, scale, canvas.edge, lighting, stop));
    }
}

std::pair<float, float> range_of(const Field& field) {
    if (field.is_constant()) return {field.constant(), field.constant()};
    const Plane& p = field.plane();
    std::vector<std::pair<float, float>> rows(p.height());
    parallel_rows(0, p.height(), [&](int y) {
        const auto [low, high] = std::minmax_element(p.row(y), p.row(y) + p.width());
        rows[y] = {*low, *high};
    });
    std::pair<float, float> out = rows.empty() ? std::pair{0.0f, 0.0f} : rows[0];
    for (const auto& r : rows) out = {std::min(out.first, r.first), std::max(out.second, r.second)};
    return out;
}

std::pair<float, float> stated_range(Evaluator& evaluator, const Scene& scene, double scale,
                                     std::stop_token stop) {
    if (scene.piece->canvas.height_range) return *scene.piece->canvas.height_range;
    std::pair<float, float> out{1e30f, -1e30f};
    render_strips(
        evaluator, scene, View::height, scale,
        [&](const Strip& s) {
            const auto r = range_of(s.channels[0]);
            out = {std::min(out.first, r.first), std::max(out.second, r.second)};
        },
        stop);
    return out;
}

} // namespace bathylux
