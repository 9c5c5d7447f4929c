#include "core/bend/extrude.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/bend/extrude_simd.h"
#include "core/field/distance_transform.h"
#include "core/field/parallel.h"
#include "core/field/renew.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

/// The smallest size of what tapers to a point.
constexpr double least_size = 1e-3;

/// Where the sweep has come from. Of w = s ÷ size(s) the way back is straight and even, p = q − w × drift(q),
/// and what lies about q lies grown by 1 + w × shrink about p.
struct Sweep {
    Vec2 centre, way;
    double shrink; // 1 − taper
    double last;   // w at the end

    Vec2 drift(Vec2 q) const { return way - shrink * (q - centre); }
    Vec2 from(Vec2 q, double w) const { return q - w * drift(q); }
    double grown(double w) const { return 1 + w * shrink; }
};

Sweep sweep_of(const Extrude& e, const Context& c) {
    const double a = e.angle * radians_per_degree, l = e.length * c.length, shrink = 1.0 - e.taper;
    const double end = shrink > 0 ? std::min(1.0, (1 - least_size) / shrink) : 1;
    return {c.box.empty() ? Vec2{c.to_device.e, c.to_device.f} : c.box_to_device(c.box.centre()),
            {l * std::cos(a), -l * std::sin(a)},
            shrink,
            end / (1 - end * shrink)};
}

/// What holds a region and what it goes to, straight.
template <class Map> Region swept(Region r, const Map& to) {
    Box out;
    for (const Vec2 p : {Vec2{double(r.x0), double(r.y0)},
                         {double(r.x1), double(r.y0)},
                         {double(r.x0), double(r.y1)},
                         {double(r.x1), double(r.y1)}})
        out.add(p), out.add(to(p));
    return grow(covering(out), 4);
}

/// Coverage read between px, and how far it is at least to some.
class Extruded {
  public:
    explicit Extruded(const Bundle& b)
        : r_(b.region), plane_(std::move(extended_with_nothing(b.coverage, r_, grow(r_, margin))
                                             .writable(r_.width() + 2 * margin, r_.height() + 2 * margin))),
          far_(distance_transform((r_.width() + cell - 1) / cell, (r_.height() + cell - 1) / cell,
                                  [&](int j, float* to) { fill_seeds(j, to); })) {}
    /// px that can be gone without meeting any, at least; 0 where there is some between the px about a place.
    double free(Vec2 p) const {
        const double x = p.x - r_.x0, y = p.y - r_.y0;
        const double dx = std::max({0.0, -x, x - r_.width()}), dy = std::max({0.0, -y, y - r_.height()});
        if (dx > 0 || dy > 0) return std::hypot(dx, dy); // as far as to the region that is held
        const int i = std::min(static_cast<int>(x), r_.width() - 1) / cell,
                  j = std::min(static_cast<int>(y), r_.height() - 1) / cell;
        // The place is not its cell's middle, nor is a px its own, and a px about that is read between.
        constexpr double less = (cell + (cell - 1) + 2) * std::numbers::sqrt2 / 2 + 0.01;
        return std::max(0.0, double{far_(i, j)} * cell - less);
    }
    SweptShape silhouette() const { return {r_, row(0), plane_.stride()}; }

  private:
    static constexpr int margin = SweptShape::margin;
    const float* row(int j) const { return plane_.row(j + margin) + margin; }

    static constexpr int cell = 4; // px of the silhouette a side, for which it is known how far some are

    void fill_seeds(int j, float* to) const {
        for (int i = 0; i < (r_.width() + cell - 1) / cell; ++i) {
            bool some = false;
            for (int y = cell * j; y < std::min(cell * (j + 1), r_.height()); ++y)
                for (int x = cell * i; x < cell * (i + 1); ++x) some |= row(y)[x] > 0;
            to[i] = some ? 0.0f : 1e20f;
        }
    }

    Region r_;
    Plane plane_, far_;
};

/// Walks a block of px, whose corner is (left, top), back until each has met what it sees. Who looks is open
/// in `block`. Sizes change evenly, so that a block's rows and columns are rows and columns at every step, of
/// which none is longer than half a px.
void march(const Extruded& body, const Sweep& sweep, int left, int top, SweepBlock& block) {
    constexpr int wide = SweepBlock::width, tall = SweepBlock::height;
    // How far it may go is asked for either half.
    const std::array<Vec2, 2> middles{
        {{left + wide * 0.25, top + tall * 0.5}, {left + wide * 0.75, top + tall * 0.5}}};
    const double radius = std::hypot(wide / 2 - 1, tall - 1) / 2,
                 pace = std::max({1e-9, length(sweep.drift(middles[0])), length(sweep.drift(middles[1]))}) +
                        std::abs(sweep.shrink) * radius;
    const int steps = static_cast<int>(std::clamp(std::ceil(2 * pace * sweep.last), 1.0, 1e9));
    const double step = sweep.last / steps;
    const auto free_from = [&](Vec2 middle, double w) {
        const double all = body.free(sweep.from(middle, w)), end = std::min(sweep.last, w + all / pace);
        return all - radius * std::max(sweep.grown(w), sweep.grown(end));
    };
    for (int k = 0; k <= steps && block.any();) {
        const double w = k * step;
        double free = free_from(middles[0], w);
        if (free > 0) free = std::min(free, free_from(middles[1], w));
        if (free > 0) {
            // Steps that meet nothing are left out.
            k += static_cast<int>(std::clamp(free / (pace * step), 1.0, 1.0 + steps - k));
            block.before.fill(0);
            continue;
        }
        const double by = sweep.grown(w);
        sweep_step(block, body.silhouette(),
                   {by, sweep.centre - by * sweep.centre - w * sweep.way, left, top, static_cast<float>(w),
                    static_cast<float>(step)});
        ++k;
    }
}

} // namespace

Bundle Extrude::apply(const Bundle&, const Context& context) const {
    const Region r = context.region;
    const Sweep sweep = sweep_of(*this, context);
    Bundle out = extended_with_nothing(context.below(r), r);
    // What fills all there is is not looked for farther away than the canvas is large.
    const Region back = swept(r, [&](Vec2 q) { return sweep.from(q, sweep.last); });
    const Bundle source =
        context.below(intersect(intersect(back, context.below_extent), united(r, about(context.canvas))));
    if (source.region.empty() || !(length > 0 || taper != 1)) return out;
    const Extruded body(source);
    const int w = r.width(), h = r.height();
    const auto high = static_cast<float>(rise * context.rise);
    const SweptLook look{{srgb_decode(color.r), srgb_decode(color.g), srgb_decode(color.b), color.a},
                         darken,
                         high,
                         static_cast<float>(sweep.shrink)};
    const bool stands = out.gives_height || high != 0;
    if (stands) give_height(out);
    const Field face = out.coverage, faced = out.weight;
    const Rows covers(face, w), weights(faced, w);
    const RowsAnew red(out.color[0], w, h), green(out.color[1], w, h), blue(out.color[2], w, h),
        cover(out.coverage, w, h);
    std::optional<RowsAnew> height, weight, surface;
    if (stands) height.emplace(out.height, w, h), weight.emplace(out.weight, w, h);
    if (!(out.surface_weight.is_constant() && out.surface_weight.constant() == 0))
        surface.emplace(out.surface_weight, w, h);
    // Blocks lie on a grid of their own: how finely one is walked does not hang on what is asked for.
    constexpr int wide = SweepBlock::width, tall = SweepBlock::height;
    parallel_rows(floor_div(r.y0, tall), -floor_div(-r.y1, tall), [&](int block_row) {
        SweepBlock block;
        const int y0 = block_row * tall - r.y0, top = std::max(0, y0), end = std::min(h, y0 + tall);
        const int first = floor_div(r.x0, wide) * wide - r.x0;
        Plane met(w - first + wide, tall), at(w - first + wide, tall); // of all the row's blocks
        for (int x0 = first; x0 < w; x0 += wide) {
            std::array<const float*, tall> faces{};
            for (int y = top; y < end; ++y) faces[static_cast<std::size_t>(y - y0)] = covers(y) + x0;
            begin_sweep(block, faces, std::max(0, -x0), std::min(wide, w - x0));
            march(body, sweep, r.x0 + x0, r.y0 + y0, block);
            for (int y = 0; y < tall; ++y) {
                std::copy_n(&block.cover[SweepBlock::index(0, y)], wide, met.row(y) + (x0 - first));
                std::copy_n(&block.w[SweepBlock::index(0, y)], wide, at.row(y) + (x0 - first));
            }
        }
        for (int y = top; y < end; ++y)
            lay_under(look,
                      {covers(y),
                       weights(y),
                       met.row(y - y0) - first,
                       at.row(y - y0) - first,
                       {red.row(y), green.row(y), blue.row(y)},
                       cover.row(y),
                       surface ? surface->row(y) : nullptr,
                       height ? height->row(y) : nullptr,
                       weight ? weight->row(y) : nullptr},
                      w);
    });
    out.silhouette.reset(), out.stored.reset(), out.tone.reset();
    return out;
}

Region Extrude::lands(Region below, const Context& context) const {
    if (below.empty()) return below;
    constexpr Region all{-(1 << 24), -(1 << 24), 1 << 24, 1 << 24};
    if (below == all) return below;
    const Sweep sweep = sweep_of(*this, context);
    return intersect(
        swept(below, [&](Vec2 p) { return sweep.centre + double{taper} * (p - sweep.centre) + sweep.way; }),
        all);
}

std::string Extrude::says() const {
    std::string out = said(length) + " px at " + said(angle) + "°";
    if (taper != 1) out += ", to " + said(100 * taper) + " %";
    if (rise != 0) out += (rise > 0 ? ", up " : ", down ") + said(std::abs(rise)) + " px";
    return out;
}

} // namespace bathylux
