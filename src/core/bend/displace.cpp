#include "core/bend/displace.h"

#include <cmath>

#include "core/bend/bent.h"
#include "core/field/gaussian.h"
#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

/// What is read, over `wanted`: straight × cover + elsewhere × (1 − cover), softened.
Field softened(const Field& straight, const MapField& by, float elsewhere, Region wanted, double sigma) {
    const bool soft = sigma > 0.05;
    if (by.cover.is_constant() && by.cover.constant() == 1 && !soft && by.region == wanted) return straight;
    Plane m(by.region.width(), by.region.height());
    const Rows v(straight, m.width()), a(by.cover, m.width());
    parallel_rows(0, m.height(), [&](int y) {
        const float *p = v(y), *k = a(y);
        float* to = m.row(y);
        // Where all of it counts that is what is read, bit for bit.
        for (int x = 0; x < m.width(); ++x) to[x] = k[x] * p[x] + (1 - k[x]) * elsewhere;
    });
    if (soft) return Field(gaussian(m, by.region, wanted, sigma, Edge::clamp));
    return Field(by.region == wanted ? std::move(m) : extended(m, by.region, wanted, Edge::clamp));
}

} // namespace

Looks Displace::looks_at(const Context& context) const {
    const Region all = grow(context.region, 1);
    const double sigma = soften * context.length;
    std::optional<MapField> map;
    if (!context.maps.empty() && context.maps[0])
        map = context.maps[0](grow(all, sigma > 0.05 ? gaussian_reach(sigma) : 0));
    Looks out{context.region, Plane(all.width(), all.height()), Plane(all.width(), all.height())};
    const bool slopes = map && by && by->of == MapOf::slopes, pair = map && by && is_pair(by->of);
    const float elsewhere = slopes ? 0.0f : 0.5f;
    const Field mx = map ? softened(map->x, *map, elsewhere, all, sigma) : Field(elsewhere),
                my = pair ? softened(map->y, *map, elsewhere, all, sigma) : mx;
    const Rows along(mx, all.width()), over(my, all.width());
    // What is looked at lies at p − d: for slopes, d is minus them.
    const auto to_right = static_cast<float>(across * context.length),
               downwards = static_cast<float>(down * context.length);
    const float gain = slopes ? -1.0f : 2.0f, less = slopes ? 0.0f : 1.0f;
    parallel_rows(0, all.height(), [&](int y) {
        const float *u = along(y), *v = over(y);
        float *px = out.x.row(y), *py = out.y.row(y);
        const float cy = static_cast<float>(all.y0 + y) + 0.5f;
        for (int x = 0; x < all.width(); ++x) {
            px[x] = static_cast<float>(all.x0 + x) + 0.5f - to_right * (gain * u[x] - less);
            py[x] = cy - downwards * (gain * v[x] - less);
        }
    });
    return out;
}

Bundle Displace::apply(const Bundle&, const Context& context) const {
    const bool read = !context.maps.empty() && context.maps[0];
    if (!read || (across == 0 && down == 0))
        return extended_with_nothing(context.below(context.region), context.region);
    return bent(looks_at(context), context, edge);
}

Region Displace::lands(Region below, const Context& context) const {
    if (!reads(by)) return below;
    constexpr double endless = 1e30;
    const double k = by->of == MapOf::slopes ? endless : context.length;
    return bent_extent(below, edge, context, across == 0 ? 0 : k * std::abs(across),
                       down == 0 ? 0 : k * std::abs(down));
}

std::string Displace::says() const {
    std::string out;
    if (across != 0) out += said(across) + " px across";
    if (down != 0) out += (out.empty() ? "" : ", ") + said(down) + " px down";
    if (out.empty()) out = "not at all";
    if (by && by->of == MapOf::slopes) out = "by slopes, " + out;
    return out;
}

} // namespace bathylux
