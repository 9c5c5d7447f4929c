#include "core/relief/meet_edges.h"

#include "core/step/height.h"

namespace bathylux {

Bundle MeetEdges::apply(const Bundle& below, const Context& context) const {
    Bundle out = cropped(below, context.region);
    // Only what reaches across the whole canvas has edges that can meet.
    if (!below.gives_height || below.height.is_constant() || !(below.region == context.canvas)) return out;
    Plane& h = give_height(out);
    const int w = h.width(), rows = h.height();
    const auto fade = [&](int from_edge, int n) {
        const double reach = std::max(1.0, std::min(width * context.length, n / 2.0)),
                     t = (from_edge + 0.5) / reach;
        return t >= 1 ? 0.0f : static_cast<float>((1 - t) * (1 - t) * (1 + 2 * t));
    };
    const auto draw = [&](const auto& at, int n) {
        // What the join should leap by is what it leaps beside it.
        const float leap = at(0) - at(n - 1), natural = 0.5f * ((at(1) - at(0)) + (at(n - 1) - at(n - 2)));
        const float half = 0.5f * (leap - natural);
        for (int k = 0; k < n / 2; ++k) {
            const float f = fade(k, n);
            if (f == 0) break;
            at(k) -= half * f;
            at(n - 1 - k) += half * f;
        }
    };
    if (w > 3)
        for (int y = 0; y < rows; ++y) draw([&](int x) -> float& { return h(x, y); }, w);
    if (rows > 3)
        for (int x = 0; x < w; ++x) draw([&](int y) -> float& { return h(x, y); }, rows);
    return out;
}

} // namespace bathylux
