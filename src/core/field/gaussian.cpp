#include "core/field/gaussian.h"

#include <vector>

#include "core/field/gaussian_simd.h"
#include "core/field/parallel.h"

namespace bathylux {

namespace {

constexpr double cut_off = 4.5;     // the tail beyond weighs 7e-6
constexpr double direct_up_to = 7;  // larger sigmas are decimated
constexpr double stage_sigma = 0.8; // of the reading and interpolating Gaussian, in coarse samples:
                                    // aliases exp(−2π² 0.8²) = 3e-6

/// The right half of a normalised kernel: k[0] in the middle.
std::vector<float> half_kernel(double sigma) {
    const int radius = static_cast<int>(std::ceil(cut_off * sigma));
    std::vector<double> k(radius + 1);
    double sum = 0;
    for (int i = 0; i <= radius; ++i) {
        k[i] = std::exp(-0.5 * i * i / (sigma * sigma));
        sum += i == 0 ? k[i] : 2 * k[i];
    }
    std::vector<float> out(radius + 1);
    for (int i = 0; i <= radius; ++i) out[i] = static_cast<float>(k[i] / sum);
    return out;
}

std::vector<float> whole_kernel(double sigma) {
    const auto half = half_kernel(sigma);
    const int radius = static_cast<int>(half.size()) - 1;
    std::vector<float> out(2 * radius + 1);
    for (int i = -radius; i <= radius; ++i) out[i + radius] = half[std::abs(i)];
    return out;
}

/// Row of `in` at canvas height y from x0 to x1, edges continued.
void padded_row(const Plane& in, Region have, int y, int x0, int x1, Edge edge, float* to) {
    const float* from = in.row(wrapped(y - have.y0, have.height(), edge));
    const int inner0 = std::clamp(have.x0, x0, x1), inner1 = std::clamp(have.x1, inner0, x1);
    for (int x = x0; x < inner0; ++x) to[x - x0] = from[wrapped(x - have.x0, have.width(), edge)];
    std::copy(from + inner0 - have.x0, from + inner1 - have.x0, to + inner0 - x0);
    for (int x = inner1; x < x1; ++x) to[x - x0] = from[wrapped(x - have.x0, have.width(), edge)];
}

/// Convolution along columns: out(y) = Σ k[|i|] rows(y + i).
Plane along_columns(const Plane& in, int in_y0, Edge edge, int y0, int y1, const std::vector<float>& half) {
    Plane out(in.width(), y1 - y0);
    const int radius = static_cast<int>(half.size()) - 1;
    parallel_rows(y0, y1, [&](int y) {
        std::vector<const float*> rows(2 * radius + 1);
        for (int i = -radius; i <= radius; ++i)
            rows[i + radius] = in.row(wrapped(y + i - in_y0, in.height(), edge));
        combine_rows(rows.data() + radius, half, in.width(), out.row(y - y0));
    });
    return out;
}

Plane direct(const Plane& in, Region have, Region wanted, double sigma, Edge edge) {
    const auto half = half_kernel(sigma);
    const int radius = static_cast<int>(half.size()) - 1;
    // Columns first: whole rows are read in order, and the row pass then works within the cache.
    Plane columns = along_columns(in, have.y0, edge, wanted.y0, wanted.y1, half);
    const Region rows{have.x0, wanted.y0, have.x1, wanted.y1};
    Plane out(wanted.width(), wanted.height());
    parallel_blocks(wanted.y0, wanted.y1, 16, [&](int y0, int y1) {
        std::vector<float> padded(wanted.width() + 2 * radius + 32);
        for (int y = y0; y < y1; ++y) {
            padded_row(columns, rows, y, wanted.x0 - radius, wanted.x1 + radius, edge, padded.data());
            convolve_row(padded.data() + radius, half, wanted.width(), out.row(y - wanted.y0));
        }
    });
    return out;
}

/// Weights of the coarse samples around each of the k places between two of them, and the first of them
/// relative to the sample at or before.
struct Interpolation {
    int k, first, taps;
    std::vector<float> weights; // [tap][phase]

    explicit Interpolation(int step) : k(step) {
        const double sigma = stage_sigma;
        const int radius = static_cast<int>(std::ceil(cut_off * sigma));
        first = -radius;
        taps = 2 * radius + 2;
        weights.resize(static_cast<std::size_t>(taps) * k);
        for (int phase = 0; phase < k; ++phase) {
            double sum = 0;
            for (int m = 0; m < taps; ++m) {
                const double t = (static_cast<double>(phase) / k - (first + m)) / sigma;
                sum += std::exp(-0.5 * t * t);
            }
            for (int m = 0; m < taps; ++m) {
                const double t = (static_cast<double>(phase) / k - (first + m)) / sigma;
                weights[static_cast<std::size_t>(m) * k + phase] =
                    static_cast<float>(std::exp(-0.5 * t * t) / sum);
            }
        }
    }
};

/// How a wide Gaussian is put together: every `step`-th px, and what is left to be done there.
struct Stages {
    int step = 2;
    double coarse_sigma; // in coarse samples
    explicit Stages(double sigma) {
        while (sigma / (2 * step) >= 2) step *= 2;
        coarse_sigma = std::sqrt(sigma * sigma / (double(step) * step) - 2 * stage_sigma * stage_sigma);
    }
};

Plane decimated(const Plane& in, Region have, Region wanted, double sigma, Edge edge) {
    const auto [k, coarse_sigma] = Stages(sigma);
    const auto read = whole_kernel(stage_sigma * k);
    const int read_radius = static_cast<int>(read.size()) / 2;
    const int coarse_radius = static_cast<int>(half_kernel(coarse_sigma).size()) - 1;
    const Interpolation between(k);

    // Coarse samples sit at canvas positions j k; which j are needed before and after the coarse Gaussian.
    const int jx0 = floor_div(wanted.x0, k) + between.first,
              jx1 = floor_div(wanted.x1 - 1, k) + between.first + between.taps;
    const int jy0 = floor_div(wanted.y0, k) + between.first,
              jy1 = floor_div(wanted.y1 - 1, k) + between.first + between.taps;
    const int ix0 = jx0 - coarse_radius, ix1 = jx1 + coarse_radius;
    const int iy0 = jy0 - coarse_radius, iy1 = jy1 + coarse_radius;

    // Read rows at every k-th column.
    Plane thin(ix1 - ix0, have.height());
    parallel_blocks(0, have.height(), 16, [&](int y0, int y1) {
        const int x0 = ix0 * k - read_radius, x1 = (ix1 - 1) * k + read_radius + 1;
        std::vector<float> padded(x1 - x0 + 32);
        for (int y = y0; y < y1; ++y) {
            padded_row(in, have, have.y0 + y, x0, x1, edge, padded.data());
            read_every(padded.data(), k, read, ix1 - ix0, thin.row(y));
        }
    });

    // Read columns at every k-th row.
    Plane small(thin.width(), iy1 - iy0);
    std::vector<float> read_half(read.begin() + read_radius, read.end());
    parallel_blocks(iy0, iy1, 4, [&](int j0, int j1) {
        std::vector<const float*> rows(read.size());
        for (int j = j0; j < j1; ++j) {
            for (int i = -read_radius; i <= read_radius; ++i)
                rows[i + read_radius] = thin.row(wrapped(j * k + i - have.y0, have.height(), edge));
            combine_rows(rows.data() + read_radius, read_half, thin.width(), small.row(j - iy0));
        }
    });

    // The coarse Gaussian; its own margins are part of what was read.
    const Region i{ix0, iy0, ix1, iy1}, j{jx0, jy0, jx1, jy1};
    small = direct(small, i, j, coarse_sigma, Edge::clamp);

    // Between the samples: columns into one coarse row, then along it.
    Plane out(wanted.width(), wanted.height());
    parallel_blocks(wanted.y0, wanted.y1, 16, [&](int y0, int y1) {
        const int blocks = floor_div(wanted.x1 - 1, k) - floor_div(wanted.x0, k) + 1;
        std::vector<float> coarse_row(small.stride() + 32), fine(static_cast<std::size_t>(blocks) * k + 64);
        std::vector<const float*> rows(between.taps);
        std::vector<float> weights(between.taps);
        for (int y = y0; y < y1; ++y) {
            const int base = floor_div(y, k), phase = y - base * k;
            for (int m = 0; m < between.taps; ++m) {
                rows[m] = small.row(base + between.first + m - jy0);
                weights[m] = between.weights[static_cast<std::size_t>(m) * k + phase];
            }
            weigh_rows(rows, weights, small.width(), coarse_row.data());
            interpolate_row(coarse_row.data(), k, between.taps, between.weights, blocks, fine.data());
            std::copy_n(fine.data() + wanted.x0 - floor_div(wanted.x0, k) * k, wanted.width(),
                        out.row(y - wanted.y0));
        }
    });
    return out;
}

} // namespace

int gaussian_reach(double sigma) {
    if (sigma < direct_up_to) return static_cast<int>(std::ceil(cut_off * std::max(sigma, 0.0))) + 1;
    const Stages s(sigma);
    const int between = static_cast<int>(std::ceil(cut_off * stage_sigma)) + 1;
    return static_cast<int>(std::ceil(cut_off * stage_sigma * s.step)) +
           s.step * (static_cast<int>(std::ceil(cut_off * s.coarse_sigma)) + between + 1);
}

Plane gaussian(const Plane& in, Region have, Region wanted, double sigma, Edge edge) {
    return sigma < direct_up_to ? direct(in, have, wanted, sigma, edge)
                                : decimated(in, have, wanted, sigma, edge);
}

} // namespace bathylux
