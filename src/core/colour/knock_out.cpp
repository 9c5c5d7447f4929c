#include "core/colour/knock_out.h"

#include "core/field/hash.h"
#include "core/field/oklab.h"
#include "core/field/parallel.h"
#include "core/shape/distance.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

/// Keeps only what goes (below `least` stays) where it is joined to the region's rim or to where nothing was.
void join_to_rim(Plane& stays, const Field& coverage, float least) {
    const int w = stays.width(), h = stays.height();
    std::vector<std::uint8_t> reached(static_cast<std::size_t>(w) * h, 0);
    std::vector<std::pair<int, int>> open;
    const Rows cover(coverage, w);
    const auto visit = [&](int x, int y) {
        if (x < 0 || y < 0 || x >= w || y >= h) return;
        auto& mark = reached[static_cast<std::size_t>(y) * w + x];
        if (mark || (stays(x, y) >= least && cover(y)[x] > 0.02f)) return;
        mark = 1;
        open.emplace_back(x, y);
    };
    for (int x = 0; x < w; ++x) visit(x, 0), visit(x, h - 1);
    for (int y = 0; y < h; ++y) visit(0, y), visit(w - 1, y);
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x)
            if (cover(y)[x] <= 0.02f) visit(x, y);
    while (!open.empty()) {
        const auto [x, y] = open.back();
        open.pop_back();
        visit(x - 1, y), visit(x + 1, y), visit(x, y - 1), visit(x, y + 1);
    }
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x)
            if (!reached[static_cast<std::size_t>(y) * w + x]) {
                // The soft edge itself is reached from outside: a neighbour that is keeps it soft.
                bool beside = false;
                for (int dy = -2; dy <= 2 && !beside; ++dy)
                    for (int dx = -2; dx <= 2 && !beside; ++dx)
                        if (x + dx >= 0 && y + dy >= 0 && x + dx < w && y + dy < h)
                            beside = reached[static_cast<std::size_t>(y + dy) * w + x + dx];
                if (!beside) stays(x, y) = 1;
            }
}

} // namespace

Bundle KnockOut::apply(const Bundle& below, const Context& context) const {
    const Region all = below.region;
    const int w = all.width(), h = all.height();
    const float key[3] = {srgb_decode(color.r), srgb_decode(color.g), srgb_decode(color.b)};
    const Lab gone = to_oklab(key[0], key[1], key[2]);
    Plane stays(w, h);
    const Rows red(below.color[0], w), green(below.color[1], w), blue(below.color[2], w),
        alpha(below.coverage, w);
    parallel_rows(0, h, [&](int y) {
        for (int x = 0; x < w; ++x) {
            const float a = alpha(y)[x], k = a > 1e-30f ? 1 / a : 0;
            const float d = distance(to_oklab(red(y)[x] * k, green(y)[x] * k, blue(y)[x] * k), gone);
            stays(x, y) = a <= 0 ? 0 : std::clamp((d - tolerance) / std::max(softness, 1e-4f), 0.0f, 1.0f);
        }
    });
    if (connected) join_to_rim(stays, below.coverage, 0.5f);

    Bundle out = below;
    if (clean) {
        // Seen = stays × own + (1 − stays) × background; kept premultiplied: own × stays.
        for (int c = 0; c < 3; ++c) {
            Plane& plane = out.color[c].writable(w, h);
            parallel_rows(0, h, [&](int y) {
                const float* a = alpha(y);
                for (int x = 0; x < w; ++x) {
                    const float s = stays(x, y);
                    if (s > 0 && s < 1)
                        plane(x, y) = std::max(0.0f, plane(x, y) - (1 - s) * key[c] * a[x]) / s;
                }
            });
        }
    }
    if (grow != 0) {
        // Signed distance to where half stays, from both sides; the new edge is anti-aliased across one px.
        const Field half(stays);
        const float limit = static_cast<float>(std::abs(grow) * context.length) + 2;
        const Polyline edge = edge_of_coverage(half, all);
        const Plane inside = distance_inside(edge, inside_spans(half, all), all, limit);
        Plane rest(w, h);
        for (int y = 0; y < h; ++y)
            for (int x = 0; x < w; ++x) rest(x, y) = 1 - stays(x, y);
        const Plane outside = distance_inside(edge, inside_spans(Field(std::move(rest)), all), all, limit);
        const auto by = static_cast<float>(grow * context.length);
        parallel_rows(0, h, [&](int y) {
            for (int x = 0; x < w; ++x) {
                const float signed_distance = inside(x, y) > 0 ? inside(x, y) : -outside(x, y);
                const float moved = std::clamp(signed_distance + by + 0.5f, 0.0f, 1.0f);
                stays(x, y) = grow < 0 ? std::min(moved, stays(x, y)) : std::max(moved, stays(x, y));
            }
        });
    }
    limit(out, Field(std::move(stays)));
    out.silhouette.reset();
    Hash hash;
    hash << below.coverage_hash << to_string(color) << tolerance << softness << connected << grow;
    out.coverage_hash = hash.value();
    return cropped(out, context.region);
}

} // namespace bathylux
