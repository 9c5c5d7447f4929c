#include "core/relief/bevel.h"

#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/shape/distance.h"
#include "core/shape/mitre.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

/// Pixels outside: all of a row that `inside` leaves.
Spans complement(const Spans& inside, int width) {
    Spans out(inside.size());
    for (std::size_t y = 0; y < inside.size(); ++y) {
        int from = 0;
        for (const auto& [a, b] : inside[y]) {
            if (a > from) out[y].emplace_back(from, a);
            from = std::max(from, b);
        }
        if (from < width) out[y].emplace_back(from, width);
    }
    return out;
}

Plane less(Plane a, const Plane& b) {
    for (int y = 0; y < a.height(); ++y)
        for (int x = 0; x < a.width(); ++x) a(x, y) -= b(x, y);
    return a;
}

/// Distance from the element's edge over context.region, in device px, negative outside where `both` asks for
/// it; kept in the memo, so that only the profile is evaluated again while width, rise or profile change.
std::shared_ptr<const Plane> distance_plane(const Bevel& bevel, const Bundle& below, const Context& context,
                                            float width) {
    const auto remember = [&](std::uint64_t key, const std::function<Plane()>& make) {
        return context.memo ? context.memo->plane(key, make) : std::make_shared<const Plane>(make());
    };
    const Region r = context.region;
    const bool both = bevel.side == BevelSide::both, sharp = bevel.corner == BevelCorner::sharp;
    const float rounding =
        bevel.corner == BevelCorner::round ? static_cast<float>(bevel.rounding * context.length) : 0.0f;
    Hash key;
    key << "distance" << r.x0 << r.y0 << r.x1 << r.y1 << both << sharp << rounding;
    constexpr float endless = std::numeric_limits<float>::infinity();
    const auto finished = [&](Plane d, const Contours& contours, Region have) {
        if (sharp) mitre_corners(d, contours, have, width);
        if (rounding > 0) round_ridges(d, rounding);
        return d;
    };
    if (below.silhouette) {
        key << below.silhouette->hash << (both || sharp ? width : 0.0f);
        return remember(key.value(), [&] {
            const Silhouette& s = *below.silhouette;
            // Ridges are rounded by what lies around them.
            const Region wide = grow(r, static_cast<int>(std::ceil(rounding)));
            const Spans inside = inside_spans(s.fill, wide);
            Plane d = distance_inside(s.edge, inside, wide, endless);
            if (both)
                d = less(std::move(d),
                         distance_inside(s.edge, complement(inside, wide.width()), wide, width + 1));
            return extended(finished(std::move(d), sharp ? contours_of(s.fill) : Contours{}, wide), wide, r,
                            Edge::clamp);
        });
    }
    key << below.coverage_hash << width;
    return remember(key.value(), [&] {
        const Region all = below.region;
        const Polyline edge = edge_of_coverage(below.coverage, all);
        const Spans inside = inside_spans(below.coverage, all);
        Plane d = distance_inside(edge, inside, all, width + rounding);
        if (both)
            d = less(std::move(d), distance_inside(edge, complement(inside, all.width()), all, width + 1));
        return extended(finished(std::move(d), sharp ? contours_of(below.coverage, all) : Contours{}, all),
                        all, r, Edge::clamp);
    });
}

} // namespace

Bundle Bevel::apply(const Bundle& below, const Context& context) const {
    Bundle out = cropped(below, context.region);
    const auto width_px = static_cast<float>(width * context.length),
               rise_px = static_cast<float>(rise * context.rise);
    const auto distance = distance_plane(*this, below, context, std::max(width_px, 1.0f));
    const ProfileCurve curve(profile);
    // Profiles are read from a fine table: a distance per pixel, not a square root.
    constexpr int samples = 4096;
    std::vector<float> table(samples + 2);
    for (int i = 0; i < samples + 2; ++i)
        table[i] = rise_px * curve(std::min(1.0f, static_cast<float>(i) / samples));
    const bool straight = profile.shape == Profile::Shape::chamfer, both = side == BevelSide::both;
    // From 0 at `foot` to 1 at `width` inwards.
    const float foot = both ? -width_px : 0.0f, per_px = width_px > 0 ? 1 / (width_px - foot) : 0;

    Plane& height = give_height(out);
    const int w = out.region.width();
    Plane* weight = both ? &out.weight.writable(w, out.region.height()) : nullptr;
    parallel_rows(0, out.region.height(), [&](int y) {
        const float* d = distance->row(y);
        float* h = height.row(y);
        for (int x = 0; x < w; ++x) {
            if (d[x] <= foot) continue;
            // Astride the outline the edge belongs to the element on either side of it.
            if (weight) (*weight)(x, y) = 1;
            const float t = width_px > 0 ? std::min(1.0f, (d[x] - foot) * per_px) : 1.0f;
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
    });
    return out;
}

std::string Bevel::says() const {
    const std::string shape = profile.shape == Profile::Shape::own
                                  ? "own profile"
                                  : std::string(profile_names[static_cast<std::size_t>(profile.shape)]);
    return shape + ", " + said(width) + " px in, " + (rise < 0 ? "down " : "up ") + said(std::abs(rise)) +
           " px" + (side == BevelSide::both ? ", both sides" : "") +
           (corner == BevelCorner::sharp   ? ", sharp"
            : corner == BevelCorner::round ? ", rounded"
                                           : "");
}

} // namespace bathylux
