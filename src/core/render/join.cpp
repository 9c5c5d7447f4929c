#include "core/render/join.h"

#include "core/colour/blend.h"
#include "core/field/parallel.h"

namespace bathylux {

namespace {

float combined(HeightMode mode, float below, float own) {
    switch (mode) {
    case HeightMode::add: return below + own;
    case HeightMode::subtract: return below - own;
    case HeightMode::higher: return std::max(below, own);
    case HeightMode::lower: return std::min(below, own);
    case HeightMode::replace: return own;
    case HeightMode::carve: return std::min(below, -own);
    }
    return own;
}

/// The rows of a field of `own`, addressed by the canvas's own y.
struct OwnRows {
    Rows rows;
    int y0;
    OwnRows(const Field& f, Region r) : rows(f, r.width()), y0(r.y0) {}
    const float* operator()(int y) const { return rows(y - y0); }
};

void join_color(Bundle& below, const Bundle& own, const Mix& mix, const Field& within) {
    const Region r = own.region, b = below.region;
    const int w = b.width(), h = b.height(), shift = r.x0 - b.x0;
    Plane* planes[3];
    for (int c = 0; c < 3; ++c) planes[c] = &below.color[c].writable(w, h);
    // What is opaque stays so, whatever lies over it.
    const bool opaque = below.coverage.is_constant() && below.coverage.constant() == 1;
    Plane* coverage = opaque ? nullptr : &below.coverage.writable(w, h);
    const OwnRows cov(own.coverage, r), red(own.color[0], r), green(own.color[1], r), blue(own.color[2], r);
    const bool plain = mix.blend == BlendMode::normal && mix.opacity == 1;
    const OwnRows shares(within, r);
    parallel_rows(r.y0, r.y1, [&](int y) {
        const float* share = shares(y);
        float* to[3];
        for (int c = 0; c < 3; ++c) to[c] = planes[c]->row(y - b.y0) + shift;
        float* covered = coverage ? coverage->row(y - b.y0) + shift : nullptr;
        const float *a = cov(y), *from[3] = {red(y), green(y), blue(y)};
        for (int x = 0; x < r.width(); ++x) {
            if (a[x] <= 0) continue;
            if (plain && a[x] >= 1) {
                for (int c = 0; c < 3; ++c) to[c][x] = from[c][x];
                if (covered) covered[x] = 1;
                continue;
            }
            const float m = covered ? std::max(share[x], covered[x]) : 1, k = mix.opacity / m;
            std::array<float, 4> backdrop{to[0][x] / m, to[1][x] / m, to[2][x] / m,
                                          covered ? covered[x] / m : 1};
            composite(mix.blend, mix.linear, {from[0][x] * k, from[1][x] * k, from[2][x] * k, a[x] * k},
                      backdrop);
            for (int c = 0; c < 3; ++c) to[c][x] = m * backdrop[c];
            if (covered) covered[x] = m * backdrop[3];
        }
    });
}

void join_coverage(Bundle& below, const Bundle& own, float opacity, const Field& within) {
    const Region r = own.region, b = below.region;
    if (below.coverage.is_constant() && below.coverage.constant() == 1) return;
    Plane& to = below.coverage.writable(b.width(), b.height());
    const OwnRows cov(own.coverage, r);
    const OwnRows shares(within, r);
    parallel_rows(r.y0, r.y1, [&](int y) {
        const float* share = shares(y);
        float* under = to.row(y - b.y0) + (r.x0 - b.x0);
        const float* a = cov(y);
        for (int x = 0; x < r.width(); ++x) {
            if (!(a[x] > 0)) continue;
            under[x] = united_coverage(a[x] * opacity, under[x], std::max(share[x], under[x]));
        }
    });
}

void join_height(Bundle& below, const Bundle& own, HeightMode mode, const Field& within) {
    const Region r = own.region, b = below.region;
    const int w = b.width(), h = b.height(), shift = r.x0 - b.x0;
    Plane& height = below.height.writable(w, h);
    const bool full = below.gives_height && below.weight.is_constant() && below.weight.constant() == 1;
    Plane* weight = full ? nullptr : &below.weight.writable(w, h);
    below.gives_height = true;
    const OwnRows own_height(own.height, r), own_weight(own.weight, r);
    const OwnRows shares(within, r);
    parallel_rows(r.y0, r.y1, [&](int y) {
        const float* share = shares(y);
        float* hb = height.row(y - b.y0) + shift;
        float* wb = weight ? weight->row(y - b.y0) + shift : nullptr;
        const float *ho = own_height(y), *wo = own_weight(y);
        for (int x = 0; x < r.width(); ++x) {
            if (wo[x] <= 0) continue;
            if (!wb) {
                hb[x] += wo[x] * (combined(mode, hb[x], ho[x]) - hb[x]);
                continue;
            }
            const float m = std::max(share[x], wb[x]), over = wo[x] / m, under = wb[x] / m;
            const float total = united_coverage(wo[x], wb[x], m);
            const float sum =
                wo[x] * (under * combined(mode, hb[x], ho[x]) + (1 - under) * combined(mode, 0, ho[x])) +
                (1 - over) * wb[x] * hb[x];
            hb[x] = sum / total;
            wb[x] = total;
        }
    });
}

void join_surface(Bundle& below, const Bundle& own, const Field& within) {
    const Region r = own.region, b = below.region;
    const int w = b.width(), h = b.height(), shift = r.x0 - b.x0;
    const bool full = below.surface_weight.is_constant() && below.surface_weight.constant() == 1;
    // What is the same above and below stays one number.
    std::vector<std::pair<Plane*, OwnRows>> changed;
    for (std::size_t i = 0; i < Bundle::surface_names.size(); ++i) {
        Field& under = *below.surface()[i];
        const Field& over = *own.surface()[i];
        if (!(under.is_constant() && over.is_constant() && under.constant() == over.constant()))
            changed.emplace_back(&under.writable(w, h), OwnRows(over, r));
    }
    if (full && changed.empty()) return;
    Plane* weight = full ? nullptr : &below.surface_weight.writable(w, h);
    const OwnRows own_weight(own.surface_weight, r);
    const OwnRows shares(within, r);
    parallel_rows(r.y0, r.y1, [&](int y) {
        const float* share = shares(y);
        float* wb = weight ? weight->row(y - b.y0) + shift : nullptr;
        const float* wo = own_weight(y);
        for (const auto& [plane, rows] : changed) {
            float* to = plane->row(y - b.y0) + shift;
            const float* from = rows(y);
            for (int x = 0; x < r.width(); ++x) {
                if (wo[x] <= 0) continue;
                const float before = wb ? wb[x] : 1.0f,
                            total = united_coverage(wo[x], before, std::max(share[x], before));
                to[x] += wo[x] / total * (from[x] - to[x]);
            }
        }
        if (wb)
            for (int x = 0; x < r.width(); ++x)
                if (wo[x] > 0) wb[x] = united_coverage(wo[x], wb[x], std::max(share[x], wb[x]));
    });
}

} // namespace

void join(Bundle& below, const Bundle& own, const Mix& mix, Channels wanted, const Field& within) {
    if (own.region.empty()) return;
    if (wanted.has(channel::color))
        join_color(below, own, mix, within);
    else
        join_coverage(below, own, mix.opacity, within);
    if (own.gives_height && wanted.has(channel::height)) join_height(below, own, mix.height, within);
    const bool surface = !(own.surface_weight.is_constant() && own.surface_weight.constant() == 0);
    if (surface && wanted.has(channel::surface)) join_surface(below, own, within);
}

} // namespace bathylux
