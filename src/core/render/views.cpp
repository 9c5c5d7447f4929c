#include "core/render/views.h"

#include "core/field/parallel.h"
#include "core/light/normals.h"
#include "core/relief/height.h"

namespace bathylux {

namespace {
/// A strip holds about this many pixels: some 200 MB while it is worked on.
constexpr long long strip_pixels = 3 << 20;
} // namespace

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
    case View::lit:
        for (Plane& p : shade(relief, region, scale, edge, lighting, stop))
            out.channels.emplace_back(std::move(p));
        out.channels.push_back(part(relief.coverage));
        break;
    }
    return out;
}

Region region_with_neighbours(const Canvas& canvas, Region wanted, double scale) {
    const Region all = canvas_region(canvas, scale);
    return canvas.edge == Edge::repeat ? all : intersect(grow(wanted, 1), all);
}

void render_strips(Evaluator& evaluator, const Scene& scene, View view, double scale,
                   const std::function<void(const Strip&)>& sink, std::stop_token stop,
                   const Evaluator::Progress& progress) {
    const Canvas& canvas = scene.piece->canvas;
    const Region all = canvas_region(canvas, scale);
    const Lighting lighting = lighting_of(*scene.piece);
    const int rows =
        canvas.edge == Edge::repeat
            ? all.height()
            : static_cast<int>(std::clamp<long long>(strip_pixels / all.width(), 64, all.height()));
    for (int y = 0; y < all.y1; y += rows) {
        const Region wanted{0, y, all.x1, std::min(all.y1, y + rows)};
        const auto part = [&](double done) {
            if (progress) progress((wanted.y0 + done * wanted.height()) / all.height());
        };
        const Bundle relief =
            evaluator.relief(scene, region_with_neighbours(canvas, wanted, scale), scale, stop, part);
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
