#include "core/check/faults.h"

#include <cmath>

#include "core/field/gaussian.h"
#include "core/field/parallel.h"

namespace bathylux {

namespace {

/// Calls `see` with what is measured over each tile of the canvas.
template <class F> void measured(Evaluator& evaluator, const Scene& scene, const Fault& fault, const F& see) {
    const Region all = canvas_region(scene.piece->canvas, 1);
    for (const Region& own : tiles_of(all, all, evaluator.cut()))
        see(fault.measure(
                evaluator.relief(scene, intersect(grow(own, fault.overlap), all), 1, {}, channel::height),
                own),
            own);
}

Plane slope_of(const Bundle& b, Region own) {
    Plane out(own.width(), own.height());
    const Rows rows(b.height, b.region.width());
    const int w = b.region.width(), n = b.region.height();
    parallel_rows(0, own.height(), [&](int j) {
        const int y = j + own.y0 - b.region.y0;
        const float *above = rows(std::max(0, y - 1)), *row = rows(y), *below = rows(std::min(n - 1, y + 1));
        for (int i = 0; i < own.width(); ++i) {
            const int x = i + own.x0 - b.region.x0;
            const float gx = 0.5f * (row[std::min(w - 1, x + 1)] - row[std::max(0, x - 1)]),
                        gy = 0.5f * (below[x] - above[x]);
            out(i, j) = std::sqrt(gx * gx + gy * gy);
        }
    });
    return out;
}

/// What a mesh of that pitch cannot hold is what a Gaussian of half of it takes away.
Fault finer_than(double pitch) {
    const double sigma = pitch / 2;
    return {gaussian_reach(sigma), static_cast<float>(0.1 * pitch), [sigma](const Bundle& b, Region own) {
                if (b.height.is_constant()) return Plane(own.width(), own.height(), 0.0f);
                Plane out = gaussian(b.height.plane(), b.region, own, sigma, Edge::clamp);
                const int dx = own.x0 - b.region.x0, dy = own.y0 - b.region.y0;
                parallel_rows(0, own.height(), [&](int y) {
                    for (int x = 0; x < own.width(); ++x)
                        out(x, y) = std::abs(b.height.plane()(x + dx, y + dy) - out(x, y));
                });
                return out;
            }};
}

} // namespace

double mesh_pitch(const Piece& piece) {
    const double px = piece.canvas.mesh * piece.canvas.px_per_mm;
    return px >= 1 ? px : 0;
}

double solid_pitch(const Piece& piece) {
    if (!piece.solid) return 0;
    const Body& body = piece.solid->body;
    const double px = body.fineness / 4.0 / (body.scale * std::min(body.scale_u, body.scale_v));
    return px >= 1 ? px : 0;
}

std::optional<Fault> fault_of(const Piece& piece, std::string_view check) {
    const Canvas& canvas = piece.canvas;
    if (check == "die_wall" && canvas.draft > 0)
        return Fault{1, std::tan(static_cast<float>((90 - canvas.draft) * radians_per_degree)), slope_of};
    if (check == "finer_than_mesh" && mesh_pitch(piece) > 0) return finer_than(mesh_pitch(piece));
    if (check == "finer_than_solid" && solid_pitch(piece) > 0) return finer_than(solid_pitch(piece));
    return std::nullopt;
}

FaultSurvey survey(Evaluator& evaluator, const Scene& scene, const Fault& fault) {
    FaultSurvey out;
    measured(evaluator, scene, fault, [&](const Plane& p, Region own) {
        for (int y = 0; y < own.height(); ++y)
            for (int x = 0; x < own.width(); ++x) {
                const float v = p(x, y);
                ++out.all, out.at_fault += v > fault.limit;
                if (v > out.worst) out.worst = v, out.at = {own.x0 + x + 0.5, own.y0 + y + 0.5};
            }
    });
    return out;
}

Plane fault_map(Evaluator& evaluator, const Scene& scene, const Fault& fault) {
    const Region all = canvas_region(scene.piece->canvas, 1);
    Plane out(all.width(), all.height());
    measured(evaluator, scene, fault, [&](const Plane& p, Region own) {
        for (int y = 0; y < own.height(); ++y)
            for (int x = 0; x < own.width(); ++x)
                out(own.x0 + x, own.y0 + y) = p(x, y) > fault.limit ? 1.0f : 0;
    });
    return out;
}

} // namespace bathylux
