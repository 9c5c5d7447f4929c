#include "core/step/distance_within.h"

#include <algorithm>

#include "core/field/distance_transform.h"
#include "core/field/parallel.h"
#include "core/shape/distance.h"

namespace bathylux {

namespace {

/// From the middle of every px that is at least half covered to the nearest that is not, less half a px.
Plane distance_in_picture(const Field& coverage, Region have, float limit) {
    const int w = have.width();
    const Rows cover(coverage, w);
    Plane out = distance_transform(w, have.height(), [&](int y, float* row) {
        for (int x = 0; x < w; ++x) row[x] = cover(y)[x] >= 0.5f ? 1e20f : 0.0f;
    });
    parallel_rows(0, have.height(), [&](int y) {
        for (int x = 0; x < w; ++x) out(x, y) = std::clamp(out(x, y) - 0.5f, 0.0f, limit);
    });
    return out;
}

} // namespace

Plane distance_within(const Bundle& b, Region wanted, float limit) {
    if (b.silhouette)
        return distance_inside(b.silhouette->edge, inside_spans(b.silhouette->fill, wanted), wanted, limit);
    return extended(distance_in_picture(b.coverage, b.region, limit), b.region, wanted, Edge::clamp);
}

} // namespace bathylux
