#include "core/step/distance_within.h"

#include "core/shape/distance.h"

namespace bathylux {

Plane distance_within(const Bundle& b, Region wanted, float limit) {
    if (b.silhouette)
        return distance_inside(b.silhouette->edge, inside_spans(b.silhouette->fill, wanted), wanted, limit);
    return extended(distance_inside(edge_of_coverage(b.coverage, b.region),
                                    inside_spans(b.coverage, b.region), b.region, limit),
                    b.region, wanted, Edge::clamp);
}

} // namespace bathylux
