#include "core/render/obstruction.h"

#include <cmath>

#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/light/occlusion.h"
#include "core/light/shadow.h"

namespace bathylux {

namespace {

/// Around a block at least so much is looked at px by px, so that what is coarse lies far away; and at most
/// so much.
constexpr int least_margin = 96, most_margin = 512;
/// The coarser picture of what lies beyond holds at most so many px.
constexpr double coarse_pixels = 1 << 20;

/// Shares 0…1 over a region, kept small.
struct Shares {
    Region region;
    std::vector<std::uint16_t> values;
};

std::shared_ptr<const Shares> kept_small(const Plane& plane, Region have, Region region) {
    auto out = std::make_shared<Shares>();
    out->region = region;
    out->values.resize(static_cast<std::size_t>(region.area()));
    parallel_rows(0, region.height(), [&](int y) {
        const float* from = plane.row(y + region.y0 - have.y0) + (region.x0 - have.x0);
        std::uint16_t* to = &out->values[static_cast<std::size_t>(y) * region.width()];
        for (int x = 0; x < region.width(); ++x)
            to[x] = static_cast<std::uint16_t>(std::lrint(std::clamp(from[x], 0.0f, 1.0f) * 65535));
    });
    return out;
}

void copy_into(Plane& to, Region wanted, const Shares& from) {
    const Region both = intersect(wanted, from.region);
    parallel_rows(both.y0, both.y1, [&](int y) {
        const std::uint16_t* v =
            &from.values[static_cast<std::size_t>(y - from.region.y0) * from.region.width() +
                         (both.x0 - from.region.x0)];
        float* row = to.row(y - wanted.y0) + (both.x0 - wanted.x0);
        for (int x = 0; x < both.width(); ++x) row[x] = static_cast<float>(v[x]) * (1.0f / 65535);
    });
}

/// Whatever names what hides a lamp, its brightness left out.
void add(Hash& h, const Lamp& l) {
    h << l.directional << l.x << l.y << l.z << l.size << l.half_length << l.along[0] << l.along[1];
}

class Obstruction {
  public:
    Obstruction(Evaluator& evaluator, const Lit& lit)
        : evaluator_(evaluator), lit_(lit), edge_(lit.scene.piece->canvas.edge),
          per_px_(static_cast<float>(lit.scale)),
          whole_(evaluator.cut().one(lit.canvas) || edge_ == Edge::repeat) {}

    std::shared_ptr<const Plane> shadow_of(const Lamp& lamp, Region wanted) {
        return gathered(
            wanted, [&](Hash& h) { h << "shadow", add(h, lamp); },
            [&](Region block) { return shadow_on(lamp, block); });
    }
    std::shared_ptr<const Plane> open_sky(Region wanted) {
        const float radius = lit_.lighting.occlusion_radius * per_px_;
        return gathered(
            wanted, [&](Hash& h) { h << "open sky" << radius; },
            [&](Region block) { return sky_on(radius, block); });
    }

  private:
    /// A quantity over `wanted` out of blocks that are kept under a name.
    template <class Name, class Make>
    std::shared_ptr<const Plane> gathered(Region wanted, const Name& name, const Make& make) {
        auto out = std::make_shared<Plane>(wanted.width(), wanted.height());
        const auto blocks =
            whole_ ? std::vector<Region>{lit_.canvas} : tiles_of(lit_.canvas, wanted, evaluator_.cut());
        for (const Region& block : blocks) {
            Hash h;
            name(h);
            h << lit_.relief->hash << block.x0 << block.y0 << block.x1 << block.y1;
            const auto shares =
                std::static_pointer_cast<const Shares>(evaluator_.budget().kept(h.value(), [&] {
                    auto made = make(block);
                    const std::size_t bytes = 2 * made->values.size();
                    return Kept{std::move(made), bytes};
                }));
            copy_into(*out, wanted, *shares);
        }
        return out;
    }

    std::shared_ptr<const Shares> shadow_on(const Lamp& lamp, Region block) {
        if (whole_) {
            const Field h = heights(lit_.canvas);
            return kept_small(shadow(h, lit_.canvas, per_px_, edge_, lamp), lit_.canvas, block);
        }
        const auto held = coarse(); // the budget may let go of it meanwhile
        const Beyond& beyond = *held;
        const Region window = window_towards(lamp, block, beyond);
        const Plane p = shadow(heights(window), window, per_px_, edge_, lamp, around(beyond, window));
        return kept_small(p, window, block);
    }

    std::shared_ptr<const Shares> sky_on(float radius, Region block) {
        if (whole_) {
            const Field h = heights(lit_.canvas);
            return kept_small(occlusion(h, lit_.canvas, per_px_, edge_, {16, radius}), lit_.canvas, block);
        }
        const auto held = coarse(); // the budget may let go of it meanwhile
        const Beyond& beyond = *held;
        const int margin = radius > 0
                               ? static_cast<int>(std::min<double>(std::ceil(radius), 4 * most_margin)) + 2
                               : least_margin + 32;
        const Region window = intersect(grow(block, margin), lit_.canvas);
        const Surroundings surroundings = radius > 0 ? Surroundings{} : around(beyond, window);
        const Plane p = occlusion(heights(window), window, per_px_, edge_, {16, radius}, surroundings);
        return kept_small(p, window, block);
    }

    /// A block with what lies towards a lamp and can hide it.
    Region window_towards(const Lamp& lamp, Region block, const Beyond& beyond) const {
        const double rise = 0.05 * (beyond.highest() - beyond.lowest()); // what the coarse picture may miss
        const double reach = reach_of_shadow(lamp, per_px_, beyond.lowest() - static_cast<float>(rise),
                                             beyond.highest() + static_cast<float>(rise), block);
        const double margin = std::clamp<double>(std::ceil(reach), least_margin, most_margin);
        constexpr int pad = 16; // what is near is looked at on all sides
        Region out = grow(block, pad);
        const auto add_towards = [&](double dx, double dy) {
            out.x0 = std::min(out.x0, block.x0 - pad + static_cast<int>(std::floor(std::min(0.0, dx))));
            out.x1 = std::max(out.x1, block.x1 + pad + static_cast<int>(std::ceil(std::max(0.0, dx))));
            out.y0 = std::min(out.y0, block.y0 - pad + static_cast<int>(std::floor(std::min(0.0, dy))));
            out.y1 = std::max(out.y1, block.y1 + pad + static_cast<int>(std::ceil(std::max(0.0, dy))));
        };
        if (lamp.directional) {
            const double flat = std::max(1e-9, std::hypot(double(lamp.x), double(lamp.y)));
            // A wide light is seen from either side of its middle.
            for (const double turn : {-0.5, 0.0, 0.5}) {
                const double a = std::atan2(double(lamp.y), double(lamp.x)) +
                                 turn * lamp.size * radians_per_degree / std::max(0.05, flat);
                add_towards(margin * std::cos(a), -margin * std::sin(a));
            }
        } else {
            const double spread = (lamp.half_length + lamp.size) * per_px_;
            const double lx = lamp.x * per_px_, ly = lamp.y * per_px_;
            const auto towards = [&](double at, int low, int high) {
                return std::pair{std::clamp(at - spread - high, -margin, 0.0),
                                 std::clamp(at + spread - low, 0.0, margin)};
            };
            const auto [left, right] = towards(lx, block.x0, block.x1);
            const auto [up, down] = towards(ly, block.y0, block.y1);
            add_towards(left, up), add_towards(right, down);
        }
        return intersect(out, lit_.canvas);
    }

    Surroundings around(const Beyond& beyond, Region window) const {
        return {&beyond, double(window.x0), double(window.y0), double(lit_.canvas.width()),
                double(lit_.canvas.height())};
    }

    /// The relief's heights over a window, from tiles that are kept.
    Field heights(Region window) {
        Plane out(window.width(), window.height());
        for (const Region& tile :
             whole_ ? std::vector<Region>{lit_.canvas} : tiles_of(lit_.canvas, window, evaluator_.cut())) {
            const Bundle b = evaluator_.run(lit_.relief, lit_.canvas, tile, channel::height);
            if (whole_) return b.height;
            const Region both = intersect(tile, window);
            const Rows rows(b.height, tile.width());
            for (int y = both.y0; y < both.y1; ++y)
                std::copy_n(rows(y - tile.y0) + (both.x0 - tile.x0), both.width(),
                            out.row(y - window.y0) + (both.x0 - window.x0));
        }
        return Field(std::move(out));
    }

    /// The whole relief at a coarser scale, heights in device px of this one.
    std::shared_ptr<const Beyond> coarse() {
        Hash h;
        h << "beyond" << lit_.relief->hash << lit_.scale;
        return std::static_pointer_cast<const Beyond>(evaluator_.budget().kept(h.value(), [&] {
            double scale = lit_.scale;
            while (canvas_region(lit_.scene.piece->canvas, scale).area() > coarse_pixels) scale /= 2;
            const Region all = canvas_region(lit_.scene.piece->canvas, scale);
            const Bundle b = lit_.heights_at(evaluator_, scale);
            Plane heights(all.width(), all.height());
            const Rows rows(b.height, all.width());
            for (int y = 0; y < all.height(); ++y)
                for (int x = 0; x < all.width(); ++x) heights(x, y) = rows(y)[x] * per_px_;
            auto made =
                std::make_shared<const Beyond>(std::move(heights), double(all.width()) / lit_.canvas.width());
            return Kept{std::move(made), static_cast<std::size_t>(6 * all.area())};
        }));
    }

    Evaluator& evaluator_;
    const Lit& lit_;
    Edge edge_;
    float per_px_;
    bool whole_;
};

} // namespace

InTheWay in_the_way(Evaluator& evaluator, const Lit& lit, Region wanted) {
    InTheWay out{wanted, {}, {}};
    Obstruction obstruction(evaluator, lit);
    const auto throws = throw_shadow(lit.lighting);
    for (std::size_t i = 0; i < throws.size(); ++i)
        out.shadows.push_back(throws[i] ? obstruction.shadow_of(lit.lighting.lamps[i], wanted) : nullptr);
    if (hides_sky(lit.lighting)) out.open = obstruction.open_sky(wanted);
    return out;
}

} // namespace bathylux
