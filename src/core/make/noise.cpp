#include "core/make/noise.h"

#include "core/field/hash.h"
#include "core/field/parallel.h"
#include "core/field/srgb.h"
#include "core/make/noise_simd.h"
#include "core/step/step_kind.h"

namespace bathylux {

namespace {

struct Octave {
    Lattice lattice;           // shifted: or all octaves would be nothing on the same lines
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

/// What a flavour makes of gradient noise.
float shaped(NoiseFlavor flavor, float n) {
    switch (flavor) {
    case NoiseFlavor::ridged: return 1 - std::abs(n);
    case NoiseFlavor::billowed: return std::abs(n);
    case NoiseFlavor::smooth: return 0.5f + 0.5f * n;
    case NoiseFlavor::cells: break;
    }
    return n;
}

/// So many px are made together.
constexpr std::size_t run = 256;

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
    const int many = std::clamp(static_cast<int>(s.octaves), 1, 8);
    for (int k = 0; k < many; ++k) {
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
        octaves.push_back({{fold / size_u, fold / size_v, cells_u << k, cells_v << k,
                            seed * 101u + static_cast<std::uint32_t>(k), lattice_value(k, 0, seed),
                            lattice_value(k, 1, seed)},
                           static_cast<float>(gain * shown),
                           static_cast<float>(gain * (1 - shown))});
    }
    const auto per_total = static_cast<float>(total > 0 ? 1 / total : 0);
    const float mean = mean_of(s.flavor);
    const double warp_u = s.warp * size_u, warp_v = s.warp * size_v;
    const std::array<Lattice, 2> bend{{{1 / size_u, 1 / size_v, cells_u, cells_v, seed * 101u + 77u},
                                       {1 / size_u, 1 / size_v, cells_u, cells_v, seed * 101u + 78u}}};
    const Region r = grid.region;
    Plane out(r.width(), r.height());
    parallel_rows(0, r.height(), [&](int y) {
        std::array<double, run> u, v;
        std::array<float, run> n, also;
        for (int from = 0; from < r.width(); from += static_cast<int>(run)) {
            const std::size_t count = std::min(run, static_cast<std::size_t>(r.width() - from));
            const std::span<float> to(out.row(y) + from, count), now(n.data(), count);
            for (std::size_t x = 0; x < count; ++x) {
                const Vec2 p = grid.from_device({r.x0 + from + static_cast<double>(x) + 0.5, r.y0 + y + 0.5});
                u[x] = p.x, v[x] = p.y;
            }
            const std::span<const double> across(u.data(), count), down(v.data(), count);
            if (s.warp > 0) {
                gradient_noise(bend[0], across, down, now);
                gradient_noise(bend[1], across, down, {also.data(), count});
                for (std::size_t x = 0; x < count; ++x) u[x] += warp_u * n[x], v[x] += warp_v * also[x];
            }
            std::ranges::fill(to, 0.0f);
            for (const Octave& o : octaves) {
                if (o.weight != 0) {
                    (s.flavor == NoiseFlavor::cells ? cell_noise : gradient_noise)(o.lattice, across, down,
                                                                                   now);
                    for (std::size_t x = 0; x < count; ++x) to[x] += o.weight * shaped(s.flavor, n[x]);
                }
                for (float& sum : to) sum += o.mean_weight * mean;
            }
            for (float& sum : to) sum = std::clamp(sum * per_total, 0.0f, 1.0f);
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
