#include "core/bend/pushed.h"

#include "core/bend/bent.h"
#include "core/field/parallel.h"
#include "core/paint/painting.h"
#include "core/step/height.h"

namespace bathylux {

Looks Pushed::looks_at(const Context& context) const {
    const Region all = grow(context.region, 1);
    Looks out{context.region, Plane(all.width(), all.height()), Plane(all.width(), all.height())};
    const Painting* painting = context.painting ? context.painting(file) : nullptr;
    const bool any = painting && !painting->empty();
    const auto d = any ? drift_of(*painting, context.to_device, all) : std::array<Plane, 2>{};
    parallel_rows(0, all.height(), [&](int y) {
        float *px = out.x.row(y), *py = out.y.row(y);
        for (int x = 0; x < all.width(); ++x) {
            const Vec2 by = any ? context.to_device.direction({d[0](x, y), d[1](x, y)}) : Vec2{};
            px[x] = static_cast<float>(all.x0 + x + 0.5 - by.x);
            py[x] = static_cast<float>(all.y0 + y + 0.5 - by.y);
        }
    });
    return out;
}

Bundle Pushed::apply(const Bundle&, const Context& context) const {
    const Painting* painting = context.painting ? context.painting(file) : nullptr;
    if (!painting || painting->empty())
        return extended_with_nothing(context.below(context.region), context.region);
    return bent(looks_at(context), context, edge);
}

Region Pushed::lands(Region below, const Context& context) const {
    const Painting* painting = context.painting ? context.painting(file) : nullptr;
    if (!painting || painting->empty()) return below;
    if (edge != Edge::none || context.canvas_edge == Edge::repeat)
        return bent_extent(below, Edge::repeat, context, 0, 0);
    // Beyond the strokes nothing moves.
    const Region b = painting->bounds();
    const double k = 1 / painting->density();
    const Region strokes = covering(transformed({b.x0 * k, b.y0 * k, b.x1 * k, b.y1 * k}, context.to_device));
    return united(below, grow(strokes, 2));
}

} // namespace bathylux
