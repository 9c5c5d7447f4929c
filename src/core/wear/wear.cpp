#include "core/wear/wear.h"

#include <cmath>

#include "core/field/parallel.h"
#include "core/make/noise.h"
#include "core/step/distance_within.h"
#include "core/step/height.h"

namespace bathylux {

namespace {

constexpr int side = 1024;            // of the tiles over which it is counted
constexpr float level_grain = 0.004f; // what the unstretched grain adds, and a noise
constexpr float level_noise = 0.001f;
constexpr int bins = 1 << 19;

/// The noise that lies with the element, whatever its scale.
Plane grain(const Wear& w, Region r, const Context& c, bool faint) {
    NoiseSource source;
    if (faint) source.octaves = 1; // it only decides where the grain that is read is level
    source.seed = w.seed, source.size_u = source.size_v = w.size;
    const Affine& m = c.to_device;
    const double turn = std::atan2(m.b, m.a) / radians_per_degree;
    const Affine lies =
        Affine::translation(m.e, m.f) * Affine::turning(-turn) * Affine::scaling(c.length, c.length);
    return noise(source, {r, lies.inverse(), 1 / std::max(1e-9, c.length), {}});
}

/// Calls `work` with the parts of the canvas where there is something of the element.
template <class Work> void over_canvas(const Context& c, const Work& work) {
    for (int y = c.canvas.y0; y < c.canvas.y1; y += side)
        for (int x = c.canvas.x0; x < c.canvas.x1; x += side) {
            const Region r = intersect(intersect({x, y, x + side, y + side}, c.canvas), c.below_extent);
            if (!r.empty()) work(r);
        }
}

/// Lowest and highest height where it counts, over the canvas.
std::pair<float, float> heights_of(const Context& c) {
    struct Ends {
        float low = 1e30f, high = -1e30f;
    };
    const auto make = [&] {
        Ends ends;
        over_canvas(c, [&](Region r) {
            const Bundle b = c.below(r);
            if (b.region.empty() || !b.gives_height) return;
            const int w = b.region.width();
            const Rows h(b.height, w), k(b.weight, w);
            for (int y = 0; y < b.region.height(); ++y)
                for (int x = 0; x < w; ++x)
                    if (k(y)[x] >= 0.5f) ends = {std::min(ends.low, h(y)[x]), std::max(ends.high, h(y)[x])};
        });
        return Kept{std::make_shared<const Ends>(ends), sizeof(Ends)};
    };
    const std::uint64_t key = (Hash() << "wear's heights" << c.reads_hash).value();
    const auto ends = std::static_pointer_cast<const Ends>(c.memo ? c.memo->kept(key, make) : make().what);
    if (ends->low > ends->high) return {0, 1};
    const auto [low, high] = range_beyond_rounding({ends->low, ends->high});
    return {low, low < high ? high : low + 1}; // level ground lies at its foot
}

/// What g depends on, but for a region.
Hash named(const Wear& w, const Context& c) {
    Hash h;
    h << "wear" << c.reads_hash << w.size << w.seed << w.contrast << w.edges << w.grooves;
    return h;
}

/// How far what was given over `given`, of what was `asked`, tells what is there: where the element goes on
/// and yet nothing was given, nobody knows (some steps know the canvas only); elsewhere there is nothing.
/// `needed` is told of, and a px of that nothing.
Region known_of(Region given, Region asked, Region needed, Region extent) {
    Region out = given;
    if (given.x0 <= extent.x0) out.x0 = std::min(needed.x0, std::max(asked.x0, given.x0 - 1));
    if (given.y0 <= extent.y0) out.y0 = std::min(needed.y0, std::max(asked.y0, given.y0 - 1));
    if (given.x1 >= extent.x1) out.x1 = std::max(needed.x1, std::min(asked.x1, given.x1 + 1));
    if (given.y1 >= extent.y1) out.y1 = std::max(needed.y1, std::min(asked.y1, given.y1 + 1));
    return out;
}

/// The field by which things go, over a region.
Plane goes_by(const Wear& w, Region r, const Context& c) {
    const bool read = !c.maps.empty() && c.maps[0];
    Plane g(r.width(), r.height());
    {
        const Plane own = grain(w, r, c, read);
        MapField by;
        if (read) by = c.maps[0](r);
        const Rows tones(by.x, r.width()), covers(by.cover, r.width());
        parallel_rows(0, r.height(), [&](int y) {
            const float *n = own.row(y), *t = tones(y), *k = covers(y);
            float* to = g.row(y);
            for (int x = 0; x < r.width(); ++x) {
                const float raw = read ? t[x] * k[x] : n[x];
                to[x] = std::clamp((raw - 0.5f) * w.contrast + 0.5f, 0.0f, 1.0f) + level_grain * raw +
                        level_noise * n[x];
            }
        });
    }
    const auto add = [&](const Plane& v, float gain, float less) {
        parallel_rows(0, r.height(), [&](int y) {
            const float* p = v.row(y);
            float* to = g.row(y);
            for (int x = 0; x < r.width(); ++x) to[x] += gain * (p[x] - less);
        });
    };
    if (w.edges != 0) {
        const auto in = static_cast<float>(std::max(1e-3, w.size * c.length));
        // What fills all there is has no edge: it is not looked for farther away than the canvas is large.
        const Region near = about(c.canvas);
        const int far = static_cast<int>(std::ceil(std::min(in, 1e6f))) + 2;
        const Region looked = united(r, intersect(grow(r, far), near));
        if (const Bundle b = c.below(looked); !b.region.empty()) {
            const Region known = known_of(b.region, looked, r, c.below_extent), here = intersect(r, known);
            Plane d =
                extended(distance_within(extended_with_nothing(b, known), here, in), here, r, Edge::clamp);
            // Within: 1 at the edge, 0 from `size` on. Outside nothing counts.
            add(d, -w.edges / in, in);
        }
    }
    if (w.grooves != 0) {
        const auto [low, high] = heights_of(c);
        const Bundle b = extended_with_nothing(c.below(r), r);
        if (b.gives_height) {
            Plane h = extended(Field(b.height).writable(r.width(), r.height()), r, r, Edge::clamp);
            add(h, w.grooves / (high - low), low);
        }
    }
    return g;
}

/// Of every value of g, how large a share of the element goes before it.
class Ranks {
  public:
    Ranks(const Wear& w, const Context& c) : before_(bins + 1, 0.0f) {
        low_ = -1.2f - std::abs(w.edges) - std::abs(w.grooves), high_ = -low_ + 1;
        std::vector<std::uint64_t> count(bins, 0);
        std::uint64_t total = 0;
        over_canvas(c, [&](Region r) {
            const Bundle b = c.below(r);
            if (b.region.empty()) return;
            const Plane g = goes_by(w, b.region, c);
            const Rows cover(b.coverage, b.region.width());
            for (int y = 0; y < b.region.height(); ++y)
                for (int x = 0; x < b.region.width(); ++x) {
                    const float a = cover(y)[x];
                    if (!(a > 0)) continue;
                    const auto k = static_cast<std::uint64_t>(std::lround(std::min(1.0f, a) * 4096));
                    count[static_cast<std::size_t>(place(g(x, y)))] += k;
                    total += k;
                }
        });
        if (total == 0) return;
        std::uint64_t above = 0;
        for (int i = bins - 1; i >= 0; --i) {
            above += count[static_cast<std::size_t>(i)];
            before_[static_cast<std::size_t>(i)] =
                static_cast<float>(static_cast<double>(above) / static_cast<double>(total));
        }
    }
    float operator()(float g) const {
        const float at = std::clamp((g - low_) / (high_ - low_), 0.0f, 1.0f) * bins;
        const int i = std::min(static_cast<int>(at), bins - 1);
        const float t = at - static_cast<float>(i);
        return before_[i] + t * (before_[i + 1] - before_[i]);
    }

  private:
    int place(float g) const {
        return std::clamp(static_cast<int>((g - low_) / (high_ - low_) * bins), 0, bins - 1);
    }
    float low_ = 0, high_ = 1;
    std::vector<float> before_; // at the lower end of every bin
};

Field taken_from(const Field& f, const Plane& worn) {
    if (f.is_constant() && f.constant() == 0) return f;
    Field out = f;
    Plane& p = out.writable(worn.width(), worn.height());
    parallel_rows(0, worn.height(), [&](int y) {
        float* v = p.row(y);
        const float* k = worn.row(y);
        for (int x = 0; x < worn.width(); ++x) v[x] *= 1 - k[x];
    });
    return out;
}

} // namespace

double wear_edge(double gone, double softness) {
    const double s = std::max(softness, 1e-6);
    double low = -s / 2, high = 1 + s / 2;
    for (int i = 0; i < 60; ++i) {
        const double c = (low + high) / 2, a = std::clamp(c - s / 2, 0.0, 1.0),
                     b = std::clamp(c + s / 2, 0.0, 1.0);
        const double taken = a + ((c + s / 2) * (b - a) - (b * b - a * a) / 2) / s;
        (taken < gone ? low : high) = c;
    }
    return (low + high) / 2;
}

Bundle Wear::apply(const Bundle&, const Context& c) const {
    const Region r = c.region;
    Bundle out = extended_with_nothing(c.below(r), r);
    if (!(gone > 0) || c.below_extent.empty()) return out;
    Plane worn(r.width(), r.height(), 1.0f);
    if (gone < 1) {
        const auto rank = [&] {
            const auto make = [&] {
                return Kept{std::make_shared<const Ranks>(*this, c), sizeof(float) * bins};
            };
            const std::uint64_t key = (named(*this, c) << "ranks").value();
            return std::static_pointer_cast<const Ranks>(c.memo ? c.memo->kept(key, make) : make().what);
        }();
        const Region all = grow(r, 1);
        const std::uint64_t key = (named(*this, c) << "ranked" << r.x0 << r.y0 << r.x1 << r.y1).value();
        const auto make = [&] {
            Plane g = goes_by(*this, all, c);
            parallel_rows(0, g.height(), [&](int y) {
                float* v = g.row(y);
                for (int x = 0; x < g.width(); ++x) v[x] = (*rank)(v[x]);
            });
            return g;
        };
        const auto ranked = c.memo ? c.memo->plane(key, make) : std::make_shared<const Plane>(make());
        const auto middle = static_cast<float>(wear_edge(gone, softness));
        parallel_rows(0, r.height(), [&](int y) {
            const float *up = ranked->row(y) + 1, *at = ranked->row(y + 1) + 1,
                        *down = ranked->row(y + 2) + 1;
            float* to = worn.row(y);
            for (int x = 0; x < r.width(); ++x) {
                // A hard edge is as wide as a px.
                const float dx = 0.5f * (at[x + 1] - at[x - 1]), dy = 0.5f * (down[x] - up[x]);
                const float width = std::max({softness, std::sqrt(dx * dx + dy * dy), 1e-6f});
                to[x] = std::clamp((middle - at[x]) / width + 0.5f, 0.0f, 1.0f);
            }
        });
    }
    const int w = r.width();
    if (of != WearOf::print && out.gives_height) {
        Plane& height = out.height.writable(w, r.height());
        const auto deep = static_cast<float>(depth * c.rise);
        parallel_rows(0, r.height(), [&](int y) {
            float* h = height.row(y);
            const float* k = worn.row(y);
            for (int x = 0; x < w; ++x)
                if (h[x] > 0) h[x] = std::max(0.0f, h[x] - deep * k[x]);
        });
    }
    // What is gone is gone of what was there: what wear took before, and this.
    Plane all = worn;
    const Rows cover(out.coverage, w), before(out.worn, w);
    parallel_rows(0, r.height(), [&](int y) {
        float* k = all.row(y);
        for (int x = 0; x < w; ++x) k[x] = std::min(1.0f, before(y)[x] + cover(y)[x] * k[x]);
    });
    if (of != WearOf::relief) {
        for (Field& f : out.color) f = taken_from(f, worn);
        out.coverage = taken_from(out.coverage, worn);
        out.silhouette.reset();
    }
    out.worn = Field(std::move(all));
    return out;
}

std::string Wear::says() const {
    std::string out = said(100 * gone) + " % gone";
    if (of != WearOf::print) out += of == WearOf::relief ? " of the relief" : ", relief too";
    if (edges != 0) out += edges > 0 ? ", edges first" : ", edges last";
    if (grooves > 0) out += ", grooves kept";
    return out;
}

} // namespace bathylux
