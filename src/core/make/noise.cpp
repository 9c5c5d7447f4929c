#include "core/make/noise.h"

#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/field/srgb.h"
#include "core/step/step_kind.h"

namespace bathylux {

namespace {

/// Wraps a lattice coordinate where the lattice repeats (period > 0).
int wrap(int i, int period) {
    if (period <= 0) return i;
    const int m = i % period;
    return m < 0 ? m + period : m;
}

float fade(float t) { return t * t * t * (t * (t * 6 - 15) + 10); }

/// The gradient at a lattice point, dotted with the way from it. Directions are even in angle: the sine and
/// cosine of π t, t in −1…1, by a parabola refined once (error 1e-3).
float gradient(std::uint32_t h, float x, float y) {
    const float t = static_cast<float>(static_cast<std::int32_t>(h)) * (1.0f / 2147483648.0f);
    const auto sine = [](float a) {
        const float s = 4 * a * (1 - std::abs(a));
        return s + 0.225f * (s * std::abs(s) - s);
    };
    const float c = t + 0.5f;
    return sine(c > 1 ? c - 2 : c) * x + sine(t) * y;
}

/// Gradient noise, about −1…1.
float gradient_noise(double u, double v, std::uint32_t seed, int period_u, int period_v) {
    const double fu = std::floor(u), fv = std::floor(v);
    const int i = static_cast<int>(fu), j = static_cast<int>(fv);
    const auto x = static_cast<float>(u - fu), y = static_cast<float>(v - fv);
    const int i0 = wrap(i, period_u), i1 = wrap(i + 1, period_u), j0 = wrap(j, period_v),
              j1 = wrap(j + 1, period_v);
    const float a = gradient(lattice_hash(i0, j0, seed), x, y),
                b = gradient(lattice_hash(i1, j0, seed), x - 1, y),
                c = gradient(lattice_hash(i0, j1, seed), x, y - 1),
                d = gradient(lattice_hash(i1, j1, seed), x - 1, y - 1);
    const float s = fade(x), t = fade(y);
    const float top = a + s * (b - a), bottom = c + s * (d - c);
    // Unit gradients reach √½ in the middle of a cell.
    return 1.4142135f * (top + t * (bottom - top));
}

/// Distance to the nearest of one scattered point a cell, 0…1.
float cell_noise(double u, double v, std::uint32_t seed, int period_u, int period_v) {
    const double fu = std::floor(u), fv = std::floor(v);
    const int i = static_cast<int>(fu), j = static_cast<int>(fv);
    const auto x = static_cast<float>(u - fu), y = static_cast<float>(v - fv);
    float nearest = 4;
    for (int dj = -1; dj <= 1; ++dj)
        for (int di = -1; di <= 1; ++di) {
            const std::uint32_t h = lattice_hash(wrap(i + di, period_u), wrap(j + dj, period_v), seed);
            const float px = static_cast<float>(di) + static_cast<float>(h & 0xffff) / 65536.0f - x,
                        py = static_cast<float>(dj) + static_cast<float>(h >> 16) / 65536.0f - y;
            nearest = std::min(nearest, px * px + py * py);
        }
    return std::min(1.0f, std::sqrt(nearest));
}

struct Octave {
    double per_u, per_v; // lattice cells a px
    int period_u, period_v;
    std::uint32_t seed;
    double shift_u, shift_v;   // cells: or all octaves would be nothing on the same lines
    float weight, mean_weight; // of the noise, and of its mean where it is too fine
};

/// What an octave is on average.
float mean_of(NoiseFlavor flavor) {
    switch (flavor) {
    case NoiseFlavor::smooth: return 0.5f;
    case NoiseFlavor::ridged: return 0.73f;
    case NoiseFlavor::billowed: return 0.27f;
    case NoiseFlavor::cells: return 0.43f;
    }
    return 0.5f;
}

float shaped(NoiseFlavor flavor, double u, double v, const Octave& o) {
    if (flavor == NoiseFlavor::cells) return cell_noise(u, v, o.seed, o.period_u, o.period_v);
    const float n = gradient_noise(u, v, o.seed, o.period_u, o.period_v);
    switch (flavor) {
    case NoiseFlavor::ridged: return 1 - std::abs(n);
    case NoiseFlavor::billowed: return std::abs(n);
    default: return 0.5f + 0.5f * n;
    }
}

} // namespace

Plane noise(const NoiseSource& s, const Grid& grid) {
    double size_u = std::max(0.5f, s.size_u), size_v = std::max(0.5f, s.size_v);
    int cells_u = 0, cells_v = 0;
    if (s.tile && !grid.tile.empty()) {
        cells_u = std::max(1, static_cast<int>(std::lround(grid.tile.width() / size_u)));
        cells_v = std::max(1, static_cast<int>(std::lround(grid.tile.height() / size_v)));
        size_u = grid.tile.width() / cells_u, size_v = grid.tile.height() / cells_v;
    }
    std::vector<Octave> octaves;
    double total = 0;
    const auto seed = static_cast<std::uint32_t>(s.seed);
    const int count = std::clamp(static_cast<int>(s.octaves), 1, 8);
    for (int k = 0; k < count; ++k) {
        double gain = std::pow(0.5, k);
        if (!s.gains.empty())
            gain = k < static_cast<int>(s.gains.size())
                       ? s.gains[k]
                       : s.gains.back() * std::pow(0.5, k + 1 - static_cast<int>(s.gains.size()));
        total += std::abs(gain);
        const double fold = std::pow(2.0, k);
        // Two pixels of the grid is the finest that can be drawn; it fades out from three.
        const double wave = std::min(size_u, size_v) / fold / grid.step;
        const double shown = std::clamp(wave - 2, 0.0, 1.0);
        octaves.push_back({fold / size_u, fold / size_v, cells_u << k, cells_v << k,
                           seed * 101u + static_cast<std::uint32_t>(k), lattice_value(k, 0, seed),
                           lattice_value(k, 1, seed), static_cast<float>(gain * shown),
                           static_cast<float>(gain * (1 - shown))});
    }
    const auto per_total = static_cast<float>(total > 0 ? 1 / total : 0);
    const float mean = mean_of(s.flavor);
    const double warp_u = s.warp * size_u, warp_v = s.warp * size_v;
    const Octave bend{1 / size_u, 1 / size_v, cells_u, cells_v, seed * 101u + 77u, 0, 0, 1, 0};
    const Region r = grid.region;
    Plane out(r.width(), r.height());
    parallel_rows(0, r.height(), [&](int y) {
        float* to = out.row(y);
        for (int x = 0; x < r.width(); ++x) {
            Vec2 p = grid.from_device({r.x0 + x + 0.5, r.y0 + y + 0.5});
            if (s.warp > 0) {
                const double u = p.x * bend.per_u, v = p.y * bend.per_v;
                p.x += warp_u * gradient_noise(u, v, bend.seed, bend.period_u, bend.period_v);
                p.y += warp_v * gradient_noise(u, v, bend.seed + 1, bend.period_u, bend.period_v);
            }
            float sum = 0;
            for (const Octave& o : octaves) {
                if (o.weight != 0)
                    sum +=
                        o.weight * shaped(s.flavor, p.x * o.per_u + o.shift_u, p.y * o.per_v + o.shift_v, o);
                sum += o.mean_weight * mean;
            }
            to[x] = std::clamp(sum * per_total, 0.0f, 1.0f);
        }
    });
    return out;
}

Bundle computed_bundle(const SourceContext& context, bool tile,
                       const std::function<Plane(const Grid&)>& make) {
    const Region region = context.region;
    Grid grid{region, context.to_device.inverse(), 1 / context.to_device.mean_scale(), {}};
    if (tile) {
        // What tiles is counted out from the canvas's corner, unturned.
        const double k = 1 / context.scale;
        grid.from_device =
            Affine::scaling(k, k) * Affine::translation(-context.to_device.e, -context.to_device.f);
        grid.step = k;
        grid.tile = {0, 0, context.canvas.x, context.canvas.y};
    }
    const Affine& m = grid.from_device;
    Hash key;
    key << "computed" << context.hash << m.a << m.b << m.c << m.d << m.e << m.f << region.x0 << region.y0
        << region.x1 << region.y1;
    Bundle out;
    out.region = region;
    out.coverage = 1.0f;
    out.coverage_hash = key.value();
    if (!context.wanted.has(channel::color | channel::tone)) return out;
    const auto tone = context.memo ? context.memo->plane(key.value(), [&] { return make(grid); })
                                   : std::make_shared<const Plane>(make(grid));
    out.tone = Field(*tone);
    if (!context.wanted.has(channel::color)) return out;
    Plane grey(region.width(), region.height());
    parallel_rows(0, region.height(), [&](int y) {
        const float* from = tone->row(y);
        float* to = grey.row(y);
        for (int x = 0; x < region.width(); ++x) to[x] = fast_srgb_decode(from[x]);
    });
    out.color[0] = Field(std::move(grey));
    out.color[1] = out.color[2] = out.color[0];
    return out;
}

Bundle NoiseSource::give(const SourceContext& context) const {
    return computed_bundle(context, tile, [&](const Grid& grid) { return noise(*this, grid); });
}
std::string NoiseSource::says() const {
    return std::string(noise_flavor_names[static_cast<std::size_t>(flavor)]) + ", " + said(size_u) + " px";
}

} // namespace bathylux
