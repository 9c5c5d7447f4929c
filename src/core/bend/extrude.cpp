#include "core/bend/extrude.h"

#include <algorithm>
#include <cmath>

#include "core/bend/extrude_simd.h"
#include "core/field/distance_transform.h"
#include "core/field/parallel.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

constexpr float least_size = 0.02f; // of what tapers to a point

/// Where the sweep has come from: p(s) of a place.
struct Sweep {
    Vec2 centre, way;
    double taper;

    double size(double s) const { return std::max<double>(least_size, 1 + s * (taper - 1)); }
    Vec2 to(Vec2 p, double s) const { return centre + size(s) * (p - centre) + s * way; }
    Vec2 from(Vec2 q, double s) const { return centre + (1 / size(s)) * (q - centre - s * way); }
};

Sweep sweep_of(const Extrude& e, const Context& c) {
    const double a = e.angle * radians_per_degree, l = e.length * c.length;
    return {c.box.empty() ? Vec2{c.to_device.e, c.to_device.f} : c.box_to_device(c.box.centre()),
            {l * std::cos(a), -l * std::sin(a)},
            e.taper};
}

/// What boxes a region's sweep, either way.
template <class Map> Region swept(Region r, const Map& map) {
    Box out;
    for (int i = 0; i <= 32; ++i)
        for (const Vec2 p : {Vec2{double(r.x0), double(r.y0)},
                             {double(r.x1), double(r.y0)},
                             {double(r.x0), double(r.y1)},
                             {double(r.x1), double(r.y1)}})
            out.add(map(p, i / 32.0));
    return grow(covering(out), 4);
}

/// Coverage read between px, and how far it is at least to some.
class Extruded {
  public:
    /// Around it there is nothing, as far as blocks of px may read that lie next to it.
    static constexpr int margin = 40;

    explicit Extruded(const Bundle& b)
        : r_(b.region), plane_(std::move(extended_with_nothing(b.coverage, r_, grow(r_, margin))
                                             .writable(r_.width() + 2 * margin, r_.height() + 2 * margin))),
          far_(distance_transform(r_.width(), r_.height(), [&](int y, float* row) {
              const float* a = plane_.row(y + margin) + margin;
              for (int x = 0; x < r_.width(); ++x) row[x] = a[x] > 0 ? 0.0f : 1e20f;
          })) {}
    /// px that can be gone without meeting any, at least; 0 where there is some between the px about a place.
    double free(Vec2 p) const {
        const double x = p.x - r_.x0, y = p.y - r_.y0;
        const double dx = std::max({0.0, -x, x - r_.width()}), dy = std::max({0.0, -y, y - r_.height()});
        if (dx > 0 || dy > 0) return std::hypot(dx, dy); // as far as to the region that is held
        const int i = std::min(static_cast<int>(x), r_.width() - 1),
                  j = std::min(static_cast<int>(y), r_.height() - 1);
        // A px about reads between, and the place is not the px's middle.
        return std::max(0.0, double(far_(i, j)) - 2.2);
    }
    /// Column 0 of a row, counted in the region; the margin stands around it.
    const float* row(int j) const { return plane_.row(j + margin) + margin; }
    int stride() const { return plane_.stride(); }
    Region region() const { return r_; }

  private:
    Region r_;
    Plane plane_, far_;
};

/// At most half a px is gone from one of so many even steps of s to the next, whatever part of it is asked
/// for.
int steps_of(const Sweep& sweep, Region all) {
    double far = 0;
    for (const Vec2 p : {Vec2{double(all.x0), double(all.y0)},
                         {double(all.x1), double(all.y0)},
                         {double(all.x0), double(all.y1)},
                         {double(all.x1), double(all.y1)}})
        far = std::max(far, length(p - sweep.centre));
    const double most = length(sweep.way) + std::abs(sweep.taper - 1) * std::min(far, 20000.0);
    return std::clamp(static_cast<int>(std::ceil(2 * most)), 1, 100000);
}

/// How far s can go on from where a place p is, so that the place moves by no more than `free` px: as it goes
/// it hastens, for the sweep's size shrinks and its own way bends.
double stride(const Sweep& sweep, Vec2 p, double s, double free) {
    const Vec2 d = sweep.way + (sweep.taper - 1) * (p - sweep.centre);
    const double size = sweep.size(s), first = free * size / std::max(1e-9, length(d)),
                 least = std::min(size, sweep.size(std::min(1.0, s + first)));
    return std::min(first, free * least / std::max(1e-9, length(d) + std::abs(sweep.taper - 1) * free));
}

/// Walks a block of px, whose corner is (left, top), from s = 0 on until each has met what it sees. Who looks
/// is open in `block`. Sizes change evenly, so that a block's rows and columns are rows and columns at every
/// step.
void march(const Extruded& body, const Sweep& sweep, int steps, int left, int top, SweepBlock& block) {
    const Region r = body.region();
    const Vec2 centre{left + SweepBlock::width / 2.0, top + SweepBlock::height / 2.0};
    const double radius = std::hypot(SweepBlock::width, SweepBlock::height) / 2;
    SweepPlaces places;
    for (int k = 0; k <= steps && block.any();) {
        const double s = static_cast<double>(k) / steps;
        const Vec2 p = sweep.from(centre, s);
        // What lies about the block's middle lies the farther about p, the smaller the sweep is where a
        // stride ends.
        const double all = body.free(p), end = std::min(1.0, s + stride(sweep, p, s, all)),
                     free = all - radius / std::min(sweep.size(s), sweep.size(end)) - 1;
        if (free > 0) {
            // Steps that meet nothing are left out.
            k += std::max(1, static_cast<int>(stride(sweep, p, s, free) * steps));
            block.before.fill(0);
            continue;
        }
        const double by = 1 / sweep.size(s);
        const Vec2 off = sweep.centre - by * (sweep.centre + s * sweep.way);
        std::array<int, SweepBlock::height> rows;
        places_along({by, off.x - 0.5, left, r.x0, r.width()}, places.column, places.right);
        places_along({by, off.y - 0.5, top, r.y0, r.height()}, rows, places.down);
        for (std::size_t y = 0; y < rows.size(); ++y) places.row[y] = body.row(rows[y]);
        sweep_step(block, places, body.stride(), k, steps);
        ++k;
    }
}

} // namespace

Bundle Extrude::apply(const Bundle&, const Context& context) const {
    const Region r = context.region;
    const Sweep sweep = sweep_of(*this, context);
    Bundle out = extended_with_nothing(context.below(r), r);
    const Bundle source = context.below(
        intersect(swept(r, [&](Vec2 q, double s) { return sweep.from(q, s); }), context.below_extent));
    if (source.region.empty() || !(length > 0 || taper != 1)) return out;
    const Extruded body(source);
    const int steps = steps_of(sweep, context.below_extent);
    const int w = r.width(), h = r.height();
    const std::array<float, 3> base{srgb_decode(color.r), srgb_decode(color.g), srgb_decode(color.b)};
    const auto high = static_cast<float>(rise * context.rise);
    const bool stands = out.gives_height || high != 0;
    if (stands) give_height(out);
    const Field face = out.coverage, faced = out.weight;
    const Rows covers(face, w), weights(faced, w);
    std::array<Plane*, 3> colors;
    for (int c = 0; c < 3; ++c) colors[c] = &out.color[c].writable(w, h);
    Plane &cover = out.coverage.writable(w, h), *height = stands ? &out.height.writable(w, h) : nullptr,
          *weight = stands ? &out.weight.writable(w, h) : nullptr;
    const bool surfaced = !(out.surface_weight.is_constant() && out.surface_weight.constant() == 0);
    Plane* surface = surfaced ? &out.surface_weight.writable(w, h) : nullptr;
    constexpr int wide = SweepBlock::width, tall = SweepBlock::height;
    parallel_blocks(0, h, tall, [&](int top, int end) {
        SweepBlock block;
        for (int left = 0; left < w; left += wide) {
            const int right = std::min(w, left + wide);
            block.begin();
            for (int y = top; y < end; ++y)
                for (int x = left; x < right; ++x)
                    if (covers(y)[x] < 1) block.look(x - left, y - top);
            march(body, sweep, steps, r.x0 + left, r.y0 + top, block);
            for (int y = top; y < end; ++y)
                for (int x = left; x < right; ++x) {
                    const float over = covers(y)[x], k = weights(y)[x];
                    if (height && k > 0) (*height)(x, y) += high;
                    if (over >= 1) continue;
                    const std::size_t i = SweepBlock::index(x - left, y - top);
                    const float s = block.s[i];
                    const float seen = (1 - over) * block.cover[i];
                    if (!(seen > 0)) continue;
                    for (int c = 0; c < 3; ++c)
                        (*colors[c])(x, y) += seen * base[c] * (color.a * (1 - darken * s));
                    cover(x, y) += seen * color.a;
                    if (surface) (*surface)(x, y) += seen;
                    if (!height) continue;
                    const float both = k + seen;
                    (*height)(x, y) = ((*height)(x, y) * k + high * (1 - s) * seen) / both;
                    (*weight)(x, y) = std::min(1.0f, both);
                }
        }
    });
    out.silhouette.reset(), out.stored.reset(), out.tone.reset();
    return out;
}

Region Extrude::lands(Region below, const Context& context) const {
    if (below.empty()) return below;
    constexpr Region all{-(1 << 24), -(1 << 24), 1 << 24, 1 << 24};
    if (below == all) return below;
    const Sweep sweep = sweep_of(*this, context);
    return intersect(united(below, swept(below, [&](Vec2 p, double s) { return sweep.to(p, s); })), all);
}

std::string Extrude::says() const {
    std::string out = said(length) + " px at " + said(angle) + "°";
    if (taper != 1) out += ", to " + said(100 * taper) + " %";
    if (rise != 0) out += (rise > 0 ? ", up " : ", down ") + said(std::abs(rise)) + " px";
    return out;
}

} // namespace bathylux
