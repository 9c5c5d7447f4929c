#include "core/finish/vignette.h"

#include <cmath>

#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

Bundle Vignette::apply(const Bundle& below, const Context& context) const {
    const Region r = context.region, all = context.canvas;
    Bundle out = cropped(below, r);
    const double cx = all.width() / 2.0, cy = all.height() / 2.0, per = 1 / std::hypot(cx, cy);
    const double from = radius - softness / 2, width = std::max(1e-6, double(softness));
    std::array<Plane*, 3> planes;
    for (int c = 0; c < 3; ++c) planes[c] = &out.color[c].writable(r.width(), r.height());
    parallel_rows(0, r.height(), [&](int y) {
        const double dy = (r.y0 + y + 0.5 - cy) * per;
        float* rows[3] = {planes[0]->row(y), planes[1]->row(y), planes[2]->row(y)};
        for (int x = 0; x < r.width(); ++x) {
            const double dx = (r.x0 + x + 0.5 - cx) * per,
                         t = std::clamp((std::sqrt(dx * dx + dy * dy) - from) / width, 0.0, 1.0);
            const auto k = static_cast<float>(1 - strength * t * t * (3 - 2 * t));
            for (float* row : rows) row[x] *= k;
        }
    });
    return out;
}

std::string Vignette::says() const {
    return (strength >= 0 ? "corners darker by " : "corners brighter by ") + said(100 * std::abs(strength)) +
           " %";
}

} // namespace bathylux
