#include "core/relief/bevel.h"

#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/relief/height.h"
#include "core/shape/distance.h"

namespace bathylux {

namespace {

/// Distance from the element's edge over context.region, in device px; kept in the memo, so that only the
/// profile is evaluated again while width, rise or profile change.
std::shared_ptr<const Plane> distance_plane(const Bundle& below, const Context& context, float width) {
    const auto remember = [&](std::uint64_t key, const std::function<Plane()>& make) {
        return context.memo ? context.memo->plane(key, make) : std::make_shared<const Plane>(make());
    };
    const Region r = context.region;
    Hash key;
    key << "distance" << r.x0 << r.y0 << r.x1 << r.y1;
    if (below.silhouette) {
        key << below.silhouette->hash;
        return remember(key.value(), [&] {
            return distance_inside(below.silhouette->edge, inside_spans(below.silhouette->fill, r), r,
                                   std::numeric_limits<float>::infinity(), context.stop);
        });
    }
    key << below.coverage_hash << width;
    return remember(key.value(), [&] {
        const Plane all =
            distance_inside(edge_of_coverage(below.coverage, below.region),
                            inside_spans(below.coverage, below.region), below.region, width, context.stop);
        return extended(all, below.region, r, Edge::clamp);
    });
}

} // namespace

Bundle Bevel::apply(const Bundle& below, const Context& context) const {
    Bundle out = cropped(below, context.region);
    const auto width_px = static_cast<float>(width * context.length),
               rise_px = static_cast<float>(rise * context.rise);
    const auto distance = distance_plane(below, context, std::max(width_px, 1.0f));
    const ProfileCurve curve(profile);
    // Profiles are read from a fine table: a distance per pixel, not a square root.
    constexpr int samples = 4096;
    std::vector<float> table(samples + 2);
    for (int i = 0; i < samples + 2; ++i)
        table[i] = rise_px * curve(std::min(1.0f, static_cast<float>(i) / samples));
    const bool straight = profile.shape == Profile::Shape::chamfer;

    Plane& height = give_height(out);
    const int w = out.region.width();
    parallel_rows(
        0, out.region.height(),
        [&](int y) {
            const float* d = distance->row(y);
            float* h = height.row(y);
            const float per_px = width_px > 0 ? 1 / width_px : 0;
            for (int x = 0; x < w; ++x) {
                if (d[x] <= 0) continue;
                const float t = width_px > 0 ? std::min(1.0f, d[x] * per_px) : 1.0f;
                if (straight) {
                    h[x] += rise_px * t;
                    continue;
                }
                // The foot of a round profile is too steep for the table: exact there.
                const float u = t * samples;
                const int i = static_cast<int>(u);
                h[x] += i < 64 ? rise_px * curve(t)
                               : table[i] + (u - static_cast<float>(i)) * (table[i + 1] - table[i]);
            }
        },
        context.stop);
    return out;
}

std::string Bevel::says() const {
    const std::string shape = profile.shape == Profile::Shape::own
                                  ? "own profile"
                                  : std::string(profile_names[static_cast<std::size_t>(profile.shape)]);
    return shape + ", " + said(width) + " px in, " + (rise < 0 ? "down " : "up ") + said(std::abs(rise)) +
           " px";
}

} // namespace bathylux
