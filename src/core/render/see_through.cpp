#include "core/render/see_through.h"

#include <cmath>
#include <vector>

#include "core/field/gaussian.h"
#include "core/field/parallel.h"
#include "core/light/normals.h"

namespace bathylux {

namespace {

/// Where each px looks, device px from itself, and what its surface lets in.
struct Ways {
    Plane x, y, in; // in: (1 − F) ÷ coverage
    Plane way;      // px through the element, canvas px; 0 × 0 where nothing is held back
    double least_x = 0, most_x = 0, least_y = 0, most_y = 0;
};

Ways ways_of(const Bundle& own, Region wanted, double scale, Edge edge) {
    const int w = wanted.width(), h = wanted.height();
    const Region have = own.region;
    const auto part = [&](const Field& f) { return cropped(f, have, wanted); };
    const Field height = own.gives_height ? part(own.height) : Field(0.0f), cover = part(own.coverage),
                ior = part(own.ior), thick = part(own.thickness);
    const bool clear = own.attenuation_distance.is_constant() && own.attenuation_distance.constant() == 0;
    Ways out{Plane(w, h), Plane(w, h), Plane(w, h), clear ? Plane() : Plane(w, h)};
    const auto n =
        normals(own.gives_height ? own.height : Field(0.0f), have, wanted, static_cast<float>(scale), edge);
    const Rows heights(height, w), covers(cover, w), iors(ior, w), thicks(thick, w);
    struct Ends {
        float x0 = 0, x1 = 0, y0 = 0, y1 = 0;
    };
    std::vector<Ends> ends(static_cast<std::size_t>(h));
    const auto per_px = static_cast<float>(scale);
    parallel_rows(0, h, [&](int y) {
        const float *nx = n[0].row(y), *ny = n[1].row(y), *nz = n[2].row(y), *a = covers(y), *index = iors(y),
                    *high = heights(y), *thickness = thicks(y);
        float *to_x = out.x.row(y), *to_y = out.y.row(y), *in = out.in.row(y),
              *way = clear ? in : out.way.row(y);
#pragma GCC ivdep
        for (int x = 0; x < w; ++x) {
            const float eta = 1 / std::max(1.0f, index[x]), cosine = nz[x],
                        bends = eta * cosine - std::sqrt(1 - eta * eta * (1 - cosine * cosine)),
                        rz = eta - bends * cosine, t = std::max(0.0f, thickness[x] + high[x]) / rz,
                        f0 = (1 - eta) / (1 + eta), side = 1 - cosine, there = a[x] > 0 ? 1.0f : 0.0f,
                        reach = there * bends * t * per_px;
            to_x[x] = reach * nx[x], to_y[x] = -reach * ny[x];
            way[x] = t;
            in[x] = there * (1 - f0 * f0) * (1 - side * side * side * side * side) / std::max(a[x], 1e-6f);
        }
        Ends& e = ends[static_cast<std::size_t>(y)];
        for (int x = 0; x < w; ++x) {
            e.x0 = std::min(e.x0, to_x[x]), e.x1 = std::max(e.x1, to_x[x]);
            e.y0 = std::min(e.y0, to_y[x]), e.y1 = std::max(e.y1, to_y[x]);
        }
    });
    for (const Ends& e : ends) {
        out.least_x = std::min(out.least_x, double(e.x0)), out.most_x = std::max(out.most_x, double(e.x1));
        out.least_y = std::min(out.least_y, double(e.y0)), out.most_y = std::max(out.most_y, double(e.y1));
    }
    return out;
}

/// A picture read between the centres of its px, bilinear; edges held, or continued. Its four channels lie
/// side by side, so that a px is one load.
class Sampler {
  public:
    /// `planes` cover `have`; kept is the part `region`.
    Sampler(const std::array<Field, 4>& planes, Region have, Region region, Region canvas, Edge edge)
        : region_(region), canvas_(canvas), around_(edge == Edge::repeat),
          px_(4 * region.width(), region.height()) {
        const std::array<Rows, 4> rows{Rows(planes[0], have.width()), Rows(planes[1], have.width()),
                                       Rows(planes[2], have.width()), Rows(planes[3], have.width())};
        parallel_rows(region.y0, region.y1, [&](int y) {
            float* to = px_.row(y - region.y0);
            const int j = y - have.y0, i = region.x0 - have.x0;
            const float *r = rows[0](j) + i, *g = rows[1](j) + i, *b = rows[2](j) + i, *a = rows[3](j) + i;
            for (int x = 0; x < region.width(); ++x, to += 4)
                to[0] = r[x], to[1] = g[x], to[2] = b[x], to[3] = a[x];
        });
    }

    [[gnu::always_inline]] void at(float x, float y, float* out) const { // device px
        float u = x - 0.5f, v = y - 0.5f;
        int i0, j0, i1, j1;
        if (around_) {
            const float fu = std::floor(u), fv = std::floor(v);
            i0 = around(static_cast<int>(fu), canvas_.x0, canvas_.width(), region_.x0, region_.width());
            i1 = around(static_cast<int>(fu) + 1, canvas_.x0, canvas_.width(), region_.x0, region_.width());
            j0 = around(static_cast<int>(fv), canvas_.y0, canvas_.height(), region_.y0, region_.height());
            j1 = around(static_cast<int>(fv) + 1, canvas_.y0, canvas_.height(), region_.y0, region_.height());
            u -= fu, v -= fv;
        } else {
            u = std::clamp(u - static_cast<float>(region_.x0), 0.0f, static_cast<float>(region_.width() - 1));
            v = std::clamp(v - static_cast<float>(region_.y0), 0.0f,
                           static_cast<float>(region_.height() - 1));
            i0 = static_cast<int>(u), j0 = static_cast<int>(v);
            i1 = std::min(i0 + 1, region_.width() - 1), j1 = std::min(j0 + 1, region_.height() - 1);
            u -= static_cast<float>(i0), v -= static_cast<float>(j0);
        }
        const float *p = px(i0, j0), *q = px(i1, j0), *r = px(i0, j1), *s = px(i1, j1);
        const float wp = (1 - u) * (1 - v), wq = u * (1 - v), wr = (1 - u) * v, ws = u * v;
        for (int c = 0; c < 4; ++c) out[c] = wp * p[c] + wq * q[c] + wr * r[c] + ws * s[c];
    }

  private:
    const float* px(int i, int j) const { return px_.row(j) + 4 * static_cast<std::ptrdiff_t>(i); }
    static int around(int x, int first, int n, int from, int held) {
        return std::clamp(wrapped(x - first, n, Edge::repeat) + first - from, 0, held - 1);
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

} // namespace

std::array<Plane, 4> seen_below(const Bundle& own, Region wanted, Region canvas, double scale, Edge edge,
                                const std::function<LitRegion(Region)>& below) {
    const int w = wanted.width(), h = wanted.height();
    const Ways ways = ways_of(own, wanted, scale, edge);
    const bool even = own.roughness.is_constant() && own.thickness.is_constant();
    Plane sigmas;
    double most = 0;
    if (even) {
        const double r = own.roughness.constant();
        most = scale * own.thickness.constant() * r * r / 2;
    } else {
        sigmas = blur_of(own, wanted, scale);
        for (int y = 0; y < h; ++y)
            most = std::max(most, double(*std::max_element(sigmas.row(y), sigmas.row(y) + w)));
    }
    constexpr double unseen = 0.05;
    if (!(most > unseen)) most = 0;
    const int reach = most > 0 ? gaussian_reach(most) : 0;
    const Region looked{wanted.x0 + static_cast<int>(std::floor(ways.least_x)) - 1,
                        wanted.y0 + static_cast<int>(std::floor(ways.least_y)) - 1,
                        wanted.x1 + static_cast<int>(std::ceil(ways.most_x)) + 1,
                        wanted.y1 + static_cast<int>(std::ceil(ways.most_y)) + 1};
    // What is looked at past the edge is the edge itself.
    Region sampled = intersect(looked, canvas);
    if (sampled.empty())
        sampled = {
            std::clamp(looked.x0, canvas.x0, canvas.x1 - 1), std::clamp(looked.y0, canvas.y0, canvas.y1 - 1),
            std::clamp(looked.x1, canvas.x0 + 1, canvas.x1), std::clamp(looked.y1, canvas.y0 + 1, canvas.y1)};
    if (edge == Edge::repeat && !canvas.contains(looked)) sampled = canvas;
    const LitRegion picture =
        below(edge == Edge::repeat && reach > 0 ? canvas : intersect(grow(sampled, reach), canvas));
    const Region have = picture.region;

    // Even blurs, least first; one suffices where σ is the same everywhere.
    std::vector<double> levels{most};
    if (!even && most > 0) levels = {0, most / 8, most / 4, most / 2, most};
    std::vector<Sampler> samplers;
    for (const double sigma : levels) {
        if (!(sigma > unseen)) {
            samplers.emplace_back(picture.channels, have, sampled, canvas, edge);
            continue;
        }
        std::array<Field, 4> blurred = picture.channels;
        for (Field& f : blurred)
            f = f.is_constant() ? f : Field(gaussian(f.plane(), have, sampled, sigma, edge));
        samplers.emplace_back(blurred, sampled, sampled, canvas, edge);
    }

    std::array<Plane, 4> out{Plane(w, h), Plane(w, h), Plane(w, h), Plane(w, h)};
    const auto part = [&](const Field& f) { return cropped(f, own.region, wanted); };
    const std::array<Field, 3> color{part(own.color[0]), part(own.color[1]), part(own.color[2])},
        held{part(own.attenuation[0]), part(own.attenuation[1]), part(own.attenuation[2])};
    const Field distance = part(own.attenuation_distance);
    const std::array<Rows, 3> colors{Rows(color[0], w), Rows(color[1], w), Rows(color[2], w)},
        attenuations{Rows(held[0], w), Rows(held[1], w), Rows(held[2], w)};
    const Rows distances(distance, w);
    const bool clear = ways.way.width() == 0;
    parallel_rows(0, h, [&](int y) {
        const float *dx = ways.x.row(y), *dy = ways.y.row(y), *in = ways.in.row(y), *d = distances(y);
        const std::array<const float*, 3> base{colors[0](y), colors[1](y), colors[2](y)};
        float* to[4] = {out[0].row(y), out[1].row(y), out[2].row(y), out[3].row(y)};
        for (int x = 0; x < w; ++x) {
            const float px = static_cast<float>(wanted.x0 + x) + 0.5f + dx[x],
                        py = static_cast<float>(wanted.y0 + y) + 0.5f + dy[x];
            alignas(16) std::array<float, 4> seen, high;
            if (samplers.size() == 1)
                samplers[0].at(px, py, seen.data());
            else {
                const double s = sigmas(x, y);
                std::size_t k = 0;
                while (k + 2 < levels.size() && levels[k + 1] < s) ++k;
                const double a = levels[k] * levels[k], b = levels[k + 1] * levels[k + 1];
                const auto t = static_cast<float>(std::clamp((s * s - a) / (b - a), 0.0, 1.0));
                samplers[k].at(px, py, seen.data()), samplers[k + 1].at(px, py, high.data());
                for (std::size_t c = 0; c < 4; ++c) seen[c] += t * (high[c] - seen[c]);
            }
            for (std::size_t c = 0; c < 3; ++c) to[c][x] = seen[c] * in[x] * base[c][x];
            to[3][x] = seen[3];
            if (!clear && d[x] > 0)
                for (std::size_t c = 0; c < 3; ++c)
                    to[c][x] *= std::pow(attenuations[c](y)[x], ways.way(x, y) / d[x]);
        }
    });
    return out;
}

} // namespace bathylux
