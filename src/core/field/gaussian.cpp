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

/// A row that covers `have`, from x0 to x1, edges continued.
void padded_row(const float* from, Region have, int x0, int x1, Edge edge, float* to) {
    const int inner0 = std::clamp(have.x0, x0, x1), inner1 = std::clamp(have.x1, inner0, x1);
    const auto continued = [&](int begin, int end) {
        if (edge == Edge::none || edge == Edge::clamp)
            std::fill(to + begin - x0, to + end - x0, from[begin < have.x0 ? 0 : have.width() - 1]);
        else
            for (int x = begin; x < end; ++x) to[x - x0] = from[wrapped(x - have.x0, have.width(), edge)];
    };
    continued(x0, inner0);
    if (inner0 < inner1) std::copy(from + inner0 - have.x0, from + inner1 - have.x0, to + inner0 - x0);
    continued(inner1, x1);
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
            padded_row(columns.row(y - rows.y0), rows, wanted.x0 - radius, wanted.x1 + radius, edge,
                       padded.data());
            convolve_row(padded.data() + radius, half, wanted.width(), out.row(y - wanted.y0));
        }
    });
    return out;
}

/// A row of each channel, and room to make them in: 64 floats more than their width.
struct RoomForRows {
    RoomForRows(std::size_t channels, int width) : rows(channels) {
        const std::size_t stride = static_cast<std::size_t>(width) + 64;
        held.resize(channels * stride);
        for (std::size_t c = 0; c < channels; ++c) room.push_back(held.data() + c * stride);
    }
    std::vector<float> held;
    std::vector<float*> room;
    std::vector<const float*> rows;
};

/// Makes the rows at canvas height y, in the room that is given or elsewhere.
using ReadRows = std::function<void(int y, std::span<float* const> room, std::span<const float*> rows)>;

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

void decimated(std::size_t channels, Region have, Region wanted, double sigma, Edge edge, const ReadRows& in,
               const TakeRows& out) {
    const auto [k, coarse_sigma] = Stages(sigma);
    auto read = whole_kernel(stage_sigma * k);
    const int read_radius = static_cast<int>(read.size()) / 2;
    const int coarse_radius = static_cast<int>(half_kernel(coarse_sigma).size()) - 1;
    const Interpolation between(k);
    std::vector<float> read_half(read.begin() + read_radius, read.end());
    read.resize((read.size() + 15) / 16 * 16, 0.0f);

    // Coarse samples sit at canvas positions j k; which j are needed before and after the coarse Gaussian.
    const int jx0 = floor_div(wanted.x0, k) + between.first,
              jx1 = floor_div(wanted.x1 - 1, k) + between.first + between.taps;
    const int jy0 = floor_div(wanted.y0, k) + between.first,
              jy1 = floor_div(wanted.y1 - 1, k) + between.first + between.taps;
    const int ix0 = jx0 - coarse_radius, ix1 = jx1 + coarse_radius;
    const int iy0 = jy0 - coarse_radius, iy1 = jy1 + coarse_radius;

    // Read rows at every k-th column: in place where all that is read is there, else from a row continued
    // past the edges.
    const int taps = static_cast<int>(read.size());
    const int there0 = std::clamp(floor_div(have.x0 + read_radius - 1, k) + 1, ix0, ix1),
              there1 = std::clamp(floor_div(have.x1 - taps + read_radius, k) + 1, there0, ix1);
    std::vector<Plane> thin(channels), small(channels);
    for (Plane& p : thin) p = Plane(ix1 - ix0, have.height());
    parallel_blocks(have.y0, have.y1, 16, [&](int y0, int y1) {
        std::vector<float> padded;
        RoomForRows room(channels, have.width());
        for (int y = y0; y < y1; ++y) {
            std::copy(room.room.begin(), room.room.end(), room.rows.begin());
            in(y, room.room, room.rows);
            for (std::size_t c = 0; c < channels; ++c) {
                const float* from = room.rows[c];
                float* to = thin[c].row(y - have.y0);
                const auto past_edges = [&](int j0, int j1) {
                    if (j0 == j1) return;
                    const int x0 = j0 * k - read_radius, x1 = x0 + (j1 - j0 - 1) * k + taps;
                    padded.resize(static_cast<std::size_t>(x1 - x0));
                    padded_row(from, have, x0, x1, edge, padded.data());
                    read_every(padded.data(), k, read, j1 - j0, to + j0 - ix0);
                };
                past_edges(ix0, there0);
                if (there0 < there1)
                    read_every(from + (there0 * k - read_radius - have.x0), k, read, there1 - there0,
                               to + there0 - ix0);
                past_edges(there1, ix1);
            }
        }
    });

    const Region i{ix0, iy0, ix1, iy1}, j{jx0, jy0, jx1, jy1};
    for (std::size_t c = 0; c < channels; ++c) {
        // Read columns at every k-th row.
        small[c] = Plane(i.width(), i.height());
        parallel_blocks(iy0, iy1, 4, [&](int j0, int j1) {
            std::vector<const float*> rows(2 * read_half.size() - 1);
            for (int at = j0; at < j1; ++at) {
                for (int off = -read_radius; off <= read_radius; ++off)
                    rows[off + read_radius] =
                        thin[c].row(wrapped(at * k + off - have.y0, have.height(), edge));
                combine_rows(rows.data() + read_radius, read_half, i.width(), small[c].row(at - iy0));
            }
        });
        // The coarse Gaussian; its own margins are part of what was read.
        small[c] = direct(small[c], i, j, coarse_sigma, Edge::clamp);
    }

    // Between the samples: columns into one coarse row, then along it.
    parallel_blocks(wanted.y0, wanted.y1, 16, [&](int y0, int y1) {
        const int first = floor_div(wanted.x0, k), blocks = floor_div(wanted.x1 - 1, k) - first + 1;
        std::vector<float> coarse_row(static_cast<std::size_t>(small[0].stride()) + 32);
        RoomForRows room(channels, blocks * k);
        std::vector<const float*> rows(between.taps);
        std::vector<float> weights(between.taps);
        for (int y = y0; y < y1; ++y) {
            const int base = floor_div(y, k), phase = y - base * k;
            for (int m = 0; m < between.taps; ++m)
                weights[m] = between.weights[static_cast<std::size_t>(m) * k + phase];
            for (std::size_t c = 0; c < channels; ++c) {
                for (int m = 0; m < between.taps; ++m) rows[m] = small[c].row(base + between.first + m - jy0);
                weigh_rows(rows, weights, small[c].width(), coarse_row.data());
                interpolate_row(coarse_row.data(), k, between.taps, between.weights, blocks, room.room[c]);
                room.rows[c] = room.room[c] + (wanted.x0 - first * k);
            }
            out(y, room.rows);
        }
    });
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
    if (sigma < direct_up_to) return direct(in, have, wanted, sigma, edge);
    Plane out(wanted.width(), wanted.height());
    decimated(
        1, have, wanted, sigma, edge,
        [&](int y, std::span<float* const>, std::span<const float*> rows) { rows[0] = in.row(y - have.y0); },
        [&](int y, std::span<const float* const> rows) {
            std::copy_n(rows[0], wanted.width(), out.row(y - wanted.y0));
        });
    return out;
}

void gaussian_rows(std::size_t channels, Region have, Region wanted, double sigma, Edge edge,
                   const MakeRows& in, const TakeRows& out) {
    if (sigma >= direct_up_to)
        return decimated(
            channels, have, wanted, sigma, edge,
            [&](int y, std::span<float* const> room, std::span<const float*>) { in(y, room); }, out);
    std::vector<Plane> planes(channels);
    for (Plane& p : planes) p = Plane(have.width(), have.height());
    parallel_rows(have.y0, have.y1, [&](int y) {
        std::vector<float*> rows;
        for (Plane& p : planes) rows.push_back(p.row(y - have.y0));
        in(y, rows);
    });
    for (Plane& p : planes) p = direct(p, have, wanted, sigma, edge);
    parallel_rows(wanted.y0, wanted.y1, [&](int y) {
        std::vector<const float*> rows;
        for (const Plane& p : planes) rows.push_back(p.row(y - wanted.y0));
        out(y, rows);
    });
}

} // namespace bathylux
