#include "core/render/see_through.h"

#include <cmath>
#include <optional>
#include <vector>

#include "core/field/gaussian.h"
#include "core/field/parallel.h"
#include "core/field/side_by_side_simd.h"
#include "core/light/normals.h"
#include "core/render/see_through_simd.h"

namespace bathylux {

namespace {

/// Where each px looks, device px from itself, and what its surface lets in.
struct Ways {
    Plane x, y, in;         // in: (1 − F) ÷ coverage
    Plane way;              // px through the element, canvas px; 0 × 0 where nothing is held back
    std::vector<Ends> ends; // of every row

    /// The px that rows y0 … y1 of a region look at, with one more on every side.
    Region looked_at(Region r, int y0, int y1) const {
        Ends all;
        for (int row = y0; row < y1; ++row) {
            const Ends& e = ends[static_cast<std::size_t>(row)];
            all.x0 = std::min(all.x0, e.x0), all.x1 = std::max(all.x1, e.x1);
            all.y0 = std::min(all.y0, e.y0), all.y1 = std::max(all.y1, e.y1);
        }
        const auto below = [](float v) { return static_cast<int>(std::floor(v)) - 1; };
        const auto above = [](float v) { return static_cast<int>(std::ceil(v)) + 1; };
        return {r.x0 + below(all.x0), r.y0 + y0 + below(all.y0), r.x1 + above(all.x1),
                r.y0 + y1 + above(all.y1)};
    }
};

Ways ways_of(const Bundle& own, Region wanted, double scale, Edge edge) {
    const int w = wanted.width(), h = wanted.height();
    const Region have = own.region;
    const auto part = [&](const Field& f) { return cropped(f, have, wanted); };
    const Field height = own.gives_height ? part(own.height) : Field(0.0f), cover = part(own.coverage),
                ior = part(own.ior), thick = part(own.thickness);
    const bool clear = own.attenuation_distance.is_constant() && own.attenuation_distance.constant() == 0;
    Ways out{Plane(w, h), Plane(w, h), Plane(w, h), clear ? Plane() : Plane(w, h), {}};
    out.ends.resize(static_cast<std::size_t>(h));
    const Rows heights(height, w), covers(cover, w), iors(ior, w), thicks(thick, w);
    const auto per_px = static_cast<float>(scale);
    normal_rows(own.gives_height ? own.height : Field(0.0f), have, wanted, per_px, edge,
                [&](int row, const float* nx, const float* ny, const float* nz) {
                    const int y = row - wanted.y0;
                    const PaneRow pane{nx, ny, nz, covers(y), iors(y), heights(y), thicks(y)};
                    out.ends[static_cast<std::size_t>(y)] = refract_row(
                        pane, per_px, w,
                        {out.x.row(y), out.y.row(y), out.in.row(y), clear ? nullptr : out.way.row(y)});
                });
    return out;
}

/// A picture read between the centres of its px, bilinear; edges held, or continued. Its four channels lie
/// side by side, so that a px is one load; what follows its last column and row follows it here too.
class Sampler {
  public:
    /// `planes` cover `have`; kept is the part `region`.
    Sampler(const std::array<Field, 4>& planes, Region have, Region region, Region canvas, Edge edge)
        : region_(region), canvas_(canvas), around_(edge == Edge::repeat),
          px_(4 * (region.width() + 1), region.height() + 1) {
        const std::array<Rows, 4> rows{Rows(planes[0], have.width()), Rows(planes[1], have.width()),
                                       Rows(planes[2], have.width()), Rows(planes[3], have.width())};
        const bool goes_on = around_ && region == canvas;
        const int w = region.width(), h = region.height();
        parallel_rows(0, h + 1, [&](int y) {
            float* to = px_.row(y);
            const int j = (y < h ? y : goes_on ? 0 : h - 1) + region.y0 - have.y0, i = region.x0 - have.x0;
            lay_side_by_side({rows[0](j) + i, rows[1](j) + i, rows[2](j) + i, rows[3](j) + i}, w, to);
            to += 4 * static_cast<std::ptrdiff_t>(w);
            std::copy_n(goes_on ? px_.row(y) : to - 4, 4, to);
        });
    }

    /// A row of `width` px from (x0, y), device px, that looks `x` to the right of itself and `y` down.
    void row(const float* x, const float* y, int x0, int y0, int width, const Places& room,
             const std::array<float*, 4>& out) const {
        if (!around_)
            places_row(x, y, x0, y0,
                       {region_.x0, region_.y0, region_.width(), region_.height(), px_.stride()}, width,
                       room);
        else
            for (int i = 0; i < width; ++i) {
                const float u = static_cast<float>(x0 + i) + x[i], v = static_cast<float>(y0) + y[i],
                            fu = std::floor(u), fv = std::floor(v);
                room.at[i] =
                    4 * on_canvas(fu, canvas_.x0, canvas_.width(), region_.x0, region_.width()) +
                    px_.stride() * on_canvas(fv, canvas_.y0, canvas_.height(), region_.y0, region_.height());
                room.right[i] = u - fu, room.down[i] = v - fv;
            }
        look_row(px_.row(0), px_.stride(), room, width, out);
    }

  private:
    static int on_canvas(float at, int first, int n, int from, int held) {
        return std::clamp(wrapped(static_cast<int>(at) - first, n, Edge::repeat) + first - from, 0, held - 1);
    }
    Region region_, canvas_;
    bool around_;
    Plane px_;
};

/// σ of the blur at every px, device px.
Plane blur_of(const Bundle& own, Region wanted, double scale) {
    const int w = wanted.width();
    Plane out(w, wanted.height());
    const Field rough = cropped(own.roughness, own.region, wanted),
                thick = cropped(own.thickness, own.region, wanted);
    const Rows r(rough, w), t(thick, w);
    parallel_rows(0, wanted.height(), [&](int y) {
        for (int x = 0; x < w; ++x) out(x, y) = static_cast<float>(scale) * t(y)[x] * r(y)[x] * r(y)[x] / 2;
    });
    return out;
}

/// Even blurs, least σ first, between which a px lies by its own.
struct Blurs {
    std::vector<double> sigmas;

    /// Each a third larger than the one before, from one below the least of a region to one above the most:
    /// between the same two lies a px, whatever region it is made with.
    static Blurs between(double least, double most) {
        Blurs out{{0}};
        for (double s = 0.25; out.sigmas.back() < most; s *= 1.35) {
            if (s <= least) out.sigmas.clear();
            out.sigmas.push_back(s);
        }
        return out;
    }
    /// How much the k-th counts for a px of that σ: linear in σ² between two.
    float share(std::size_t k, double sigma) const {
        const auto part = [&](std::size_t low) {
            const double a = sigmas[low] * sigmas[low], b = sigmas[low + 1] * sigmas[low + 1];
            return static_cast<float>(std::clamp((sigma * sigma - a) / (b - a), 0.0, 1.0));
        };
        if (sigma < sigmas[k]) return k > 0 ? part(k - 1) : 1;
        return k + 1 < sigmas.size() ? 1 - part(k) : 1;
    }
    /// Whether it counts for any px from `least` to `most`.
    bool counts(std::size_t k, double least, double most) const {
        return (k == 0 || most > sigmas[k - 1]) && (k + 1 == sigmas.size() || least < sigmas[k + 1]);
    }
};

/// What is looked at past the edge is the edge itself.
Region on_canvas(Region looked, Region canvas) {
    const Region both = intersect(looked, canvas);
    if (!both.empty()) return both;
    return {std::clamp(looked.x0, canvas.x0, canvas.x1 - 1), std::clamp(looked.y0, canvas.y0, canvas.y1 - 1),
            std::clamp(looked.x1, canvas.x0 + 1, canvas.x1), std::clamp(looked.y1, canvas.y0 + 1, canvas.y1)};
}

} // namespace

std::array<Field, 4> seen_below(const Bundle& own, Region wanted, Region canvas, double scale, Edge edge,
                                const std::function<LitRegion(Region)>& below) {
    const int w = wanted.width(), h = wanted.height();
    const Ways ways = ways_of(own, wanted, scale, edge);
    const bool even = own.roughness.is_constant() && own.thickness.is_constant();
    Plane sigmas;
    std::vector<std::pair<double, double>> ends; // of every row's σ
    // One suffices where σ is the same everywhere.
    Blurs blurs;
    if (even) {
        const double r = own.roughness.constant();
        blurs.sigmas = {scale * own.thickness.constant() * r * r / 2};
    } else {
        sigmas = blur_of(own, wanted, scale);
        double least = 1e30, most = 0;
        for (int y = 0; y < h; ++y) {
            const auto [low, high] = std::minmax_element(sigmas.row(y), sigmas.row(y) + w);
            ends.emplace_back(*low, *high);
            least = std::min(least, double(*low)), most = std::max(most, double(*high));
        }
        blurs = Blurs::between(least, most);
    }
    const std::size_t levels = blurs.sigmas.size();
    constexpr double unseen = 0.05;
    const int reach = blurs.sigmas.back() > unseen ? gaussian_reach(blurs.sigmas.back()) : 0;
    const Region looked = ways.looked_at(wanted, 0, h);
    Region sampled = on_canvas(looked, canvas);
    if (edge == Edge::repeat && !canvas.contains(looked)) sampled = canvas;
    const LitRegion picture =
        below(edge == Edge::repeat && reach > 0 ? canvas : intersect(grow(sampled, reach), canvas));
    const Region have = picture.region;

    // What is as covered everywhere is so wherever one looks.
    const Field& covers = picture.channels[3];
    std::array<Plane, 4> out{Plane(w, h), Plane(w, h), Plane(w, h),
                             covers.is_constant() ? Plane() : Plane(w, h)};
    const auto part = [&](const Field& f) { return cropped(f, own.region, wanted); };
    const std::array<Field, 3> color{part(own.color[0]), part(own.color[1]), part(own.color[2])},
        held{part(own.attenuation[0]), part(own.attenuation[1]), part(own.attenuation[2])};
    const Field distance = part(own.attenuation_distance);
    const std::array<Rows, 3> colors{Rows(color[0], w), Rows(color[1], w), Rows(color[2], w)},
        attenuations{Rows(held[0], w), Rows(held[1], w), Rows(held[2], w)};
    const Rows distances(distance, w);
    const bool clear = ways.way.width() == 0;
    // Where the canvas goes on, rows look anywhere; else a few rows look at a few, which are then still at
    // hand.
    const bool around = edge == Edge::repeat;
    const int grain = around ? 16 : std::max(64, looked.height() - h);
    // One blur after the other: as many at a time would not fit.
    for (std::size_t k = 0; k < levels; ++k) {
        LitRegion seen = picture;
        if (const double sigma = blurs.sigmas[k]; sigma > unseen) {
            seen.region = sampled;
            for (Field& f : seen.channels)
                if (!f.is_constant()) f = Field(gaussian(f.plane(), have, sampled, sigma, edge));
        }
        const auto sampler_of = [&](Region region) {
            return Sampler(seen.channels, seen.region, region, canvas, edge);
        };
        const std::optional<Sampler> all = around ? std::optional(sampler_of(sampled)) : std::nullopt;
        parallel_blocks(0, h, grain, [&](int y0, int y1) {
            const std::optional<Sampler> near =
                around ? std::nullopt
                       : std::optional(sampler_of(on_canvas(ways.looked_at(wanted, y0, y1), canvas)));
            const Sampler& sampler = around ? *all : *near;
            const std::size_t stride = static_cast<std::size_t>(out[0].stride());
            std::vector<int> at(stride);
            std::vector<float> fractions(2 * stride), looked_up(k > 0 ? 4 * stride : 0),
                covered(covers.is_constant() ? stride : 0);
            const Places room{at.data(), fractions.data(), fractions.data() + stride};
            for (int y = y0; y < y1; ++y) {
                const std::array<float*, 4> to{out[0].row(y), out[1].row(y), out[2].row(y),
                                               covers.is_constant() ? covered.data() : out[3].row(y)};
                const auto look = [&](const std::array<float*, 4>& into) {
                    sampler.row(ways.x.row(y), ways.y.row(y), wanted.x0, wanted.y0 + y, w, room, into);
                };
                const float* const own_sigma = even ? nullptr : sigmas.row(y);
                if (k == 0) {
                    look(to);
                    for (int x = 0; levels > 1 && x < w; ++x) {
                        const float share = blurs.share(0, own_sigma[x]);
                        for (float* c : to) c[x] *= share;
                    }
                } else if (const auto [least, most] = ends[static_cast<std::size_t>(y)];
                           blurs.counts(k, least, most)) {
                    std::array<float*, 4> more{};
                    for (std::size_t c = 0; c < 4; ++c) more[c] = looked_up.data() + c * stride;
                    look(more);
                    for (int x = 0; x < w; ++x) {
                        const float share = blurs.share(k, own_sigma[x]);
                        for (std::size_t c = 0; c < 4; ++c) to[c][x] += share * more[c][x];
                    }
                }
                if (k + 1 < levels) continue;
                tint_row({ways.in.row(y),
                          clear ? nullptr : ways.way.row(y),
                          distances(y),
                          {colors[0](y), colors[1](y), colors[2](y)},
                          {attenuations[0](y), attenuations[1](y), attenuations[2](y)}},
                         w, {to[0], to[1], to[2]});
            }
        });
    }
    return {Field(std::move(out[0])), Field(std::move(out[1])), Field(std::move(out[2])),
            covers.is_constant() ? covers : Field(std::move(out[3]))};
}

} // namespace bathylux
