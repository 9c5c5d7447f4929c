#include "core/make/integrate.h"

#include <numbers>

#include "core/field/fourier.h"
#include "core/field/parallel.h"

namespace bathylux {

namespace {

/// Slopes between one row (or column) of samples and the next, weighed from the nearest six by (1, −7, 22,
/// 22, −7, 1) ÷ 32: the response, 1.375 cos(ω/2) − 0.4375 cos(3ω/2) + 0.0625 cos(5ω/2), follows 1 ÷ cos(ω/2),
/// the loss of a central difference, to fourth order.
constexpr float near_weight = 0.6875f, far_weight = -0.21875f, outer_weight = 0.03125f;

/// Along a row: out[i] lies between i and i + 1, for i from 0 to n − 1 where the ends meet, else to n − 2.
/// Near free ends, where six are not to be had, the mean of two.
void between_columns(const float* p, int n, bool periodic, float* out) {
    for (int i = 2; i + 3 < n; ++i)
        out[i] = near_weight * (p[i] + p[i + 1]) + far_weight * (p[i - 1] + p[i + 2]) +
                 outer_weight * (p[i - 2] + p[i + 3]);
    const auto at = [&](int k) { return p[((k % n) + n) % n]; };
    for (int i = 0; i < n; ++i) {
        if (i == 2 && n > 5) i = n - 3;
        out[i] = periodic ? near_weight * (at(i) + at(i + 1)) + far_weight * (at(i - 1) + at(i + 2)) +
                                outer_weight * (at(i - 2) + at(i + 3))
                 : i + 1 < n ? 0.5f * (p[i] + p[i + 1])
                             : 0.0f;
    }
}

/// Between rows j and j + 1 of a plane likewise; 0 past a free end.
void between_rows(const Plane& s, int j, bool periodic, float* out) {
    const int w = s.width(), h = s.height();
    const auto row = [&](int k) { return s.row((((j + k) % h) + h) % h); };
    if (!periodic && (j < 0 || j >= h - 1)) {
        std::fill_n(out, w, 0.0f);
        return;
    }
    const float *b = row(0), *c = row(1);
    if (!periodic && (j < 2 || j + 3 >= h)) {
        for (int x = 0; x < w; ++x) out[x] = 0.5f * (b[x] + c[x]);
        return;
    }
    const float *z = row(-2), *a = row(-1), *d = row(2), *e = row(3);
    for (int x = 0; x < w; ++x)
        out[x] = near_weight * (b[x] + c[x]) + far_weight * (a[x] + d[x]) + outer_weight * (z[x] + e[x]);
}

constexpr int side_by_side = 16; // columns solved side by side

#if defined(__x86_64__) && defined(__GNUC__) && !defined(__SANITIZE_ADDRESS__)
/// Compiled for wide vectors too and chosen at run time; nothing is contracted, so results are the same.
#define BATHYLUX_WIDE [[gnu::target_clones("avx512f,avx2,default")]]
#else
#define BATHYLUX_WIDE
#endif

/// Solves (λ + 2) h_j − h_{j−1} − h_{j+1} = f_j down `side_by_side` columns at once, free ends (Thomas 1949)
/// or a ring (Sherman & Morrison 1950), in double. Row j of the columns lies at f + j × stride, in place.
/// `work`: 3 × rows × side_by_side.
BATHYLUX_WIDE void solve_columns(int rows, const double* lambda, bool ring, float* f, std::size_t stride,
                                 double* work) {
    const std::size_t size = static_cast<std::size_t>(rows) * side_by_side;
    double *c = work, *d = work + size, *u = work + 2 * size;
    double cb[side_by_side] = {}, db[side_by_side] = {}, ub[side_by_side] = {};
    for (int j = 0; j < rows; ++j) {
        // A ring is the free chain T and what ties its ends together: T + w wᵀ with w = (1, 0 … 0, −1).
        const double ties = (j > 0 ? 1.0 : 0.0) + (j < rows - 1 ? 1.0 : 0.0);
        const double w = rows == 1 ? 0.0 : j == 0 ? 1.0 : j == rows - 1 ? -1.0 : 0.0;
        const float* from = f + j * stride;
        for (int k = 0; k < side_by_side; ++k) {
            const double inverse = 1 / (lambda[k] + ties + cb[k]);
            db[k] = (from[k] + db[k]) * inverse;
            cb[k] = -inverse;
            ub[k] = (w + ub[k]) * inverse;
        }
        std::copy_n(cb, side_by_side, c + j * side_by_side);
        std::copy_n(db, side_by_side, d + j * side_by_side);
        if (ring) std::copy_n(ub, side_by_side, u + j * side_by_side);
    }
    for (int j = rows - 2; j >= 0; --j)
        for (int k = 0; k < side_by_side; ++k) {
            const std::size_t now = static_cast<std::size_t>(j) * side_by_side + k;
            d[now] -= c[now] * d[now + side_by_side];
            if (ring) u[now] -= c[now] * u[now + side_by_side];
        }
    double scale[side_by_side] = {};
    const std::size_t last = size - side_by_side;
    for (int k = 0; k < side_by_side && ring; ++k) scale[k] = (d[k] - d[last + k]) / (1 + u[k] - u[last + k]);
    for (int j = 0; j < rows; ++j) {
        float* to = f + j * stride;
        for (int k = 0; k < side_by_side; ++k) {
            const std::size_t now = static_cast<std::size_t>(j) * side_by_side + k;
            to[k] = static_cast<float>(ring ? d[now] - scale[k] * u[now] : d[now]);
        }
    }
}

} // namespace

Plane integrated(const Slopes& s, bool periodic) {
    const int w = s.x.width(), h = s.x.height();
    // What flows out of every pixel, in one row after the other, each transformed where it lies.
    Plane f(w, h);
    std::vector<double> down(h, 0.0); // mean slope from row j to the next
    const RowPairs transform(w, periodic);
    parallel_blocks(0, h, 16, [&](int from, int to) {
        RowPairs::Room room(transform);
        std::vector<float> above(w), below(w), beside(w);
        between_rows(s.y, from - 1, periodic, above.data());
        for (int y = from; y < to; ++y) {
            between_rows(s.y, y, periodic, below.data());
            double sum = 0;
            for (int x = 0; x < w; ++x) sum += below[x];
            down[y] = sum / w;
            between_columns(s.x.row(y), w, periodic, beside.data());
            float* r = f.row(y);
            r[0] = -(beside[0] - (periodic ? beside[w - 1] : 0.0f) + below[0] - above[0]);
            for (int x = 1; x < w; ++x) r[x] = -(beside[x] - beside[x - 1] + below[x] - above[x]);
            if ((y - from) % 2 == 1)
                transform.there(f.row(y - 1), r, room);
            else if (y + 1 == to)
                transform.there(r, nullptr, room);
            std::swap(above, below);
        }
    });

    parallel_blocks(0, (w + side_by_side - 1) / side_by_side, 8, [&](int first, int end) {
        std::vector<double> work(3ull * h * side_by_side);
        for (int b = first; b < end; ++b) {
            double lambda[side_by_side];
            for (int k = 0; k < side_by_side; ++k) {
                const int i = b * side_by_side + k;
                const double omega =
                    periodic ? 2 * std::numbers::pi * std::min(i, w - i) / w : std::numbers::pi * i / w;
                // The mean has no equation of its own; it is filled in below.
                lambda[k] = i == 0 || i >= w ? 1.0 : 2 - 2 * std::cos(omega);
            }
            solve_columns(h, lambda, periodic, f.row(0) + b * side_by_side, f.stride(), work.data());
        }
    });

    // The mean of every row is the sum of the mean slopes above it.
    double drift = 0;
    if (periodic)
        for (double d : down) drift += d / h;
    std::vector<double> mean(h, 0.0);
    double total = 0;
    for (int j = 1; j < h; ++j) mean[j] = mean[j - 1] + down[j - 1] - drift, total += mean[j];
    parallel_blocks(0, h, 16, [&](int from, int to) {
        RowPairs::Room room(transform);
        for (int y = from; y < to; ++y)
            f(0, y) = static_cast<float>((mean[y] - total / h) * (periodic ? w : 2.0 * w));
        for (int y = from; y < to; y += 2)
            transform.back(f.row(y), y + 1 < to ? f.row(y + 1) : nullptr, room);
    });
    return f;
}

Slopes slopes_of_normals(const Picture& p, bool green_up, float strength) {
    Slopes out{Plane(p.width, p.height), Plane(p.width, p.height)};
    constexpr float steepest = 19; // tan 87°
    const auto value = [&](float v) {
        if (p.is_float()) return v;
        // Level ground is written as 128 of 255 (32768 of 65535): it is to come back level.
        const float most = p.bits() == 8 ? 255.0f : 65535.0f, middle = (most + 1) / 2;
        return std::abs(v * most - middle) < 0.25f ? 0.0f : 2 * v - 1;
    };
    parallel_rows(0, p.height, [&](int y) {
        for (int x = 0; x < p.width; ++x) {
            float n[3] = {0, 0, 1};
            if (p.channels >= 3 && !(p.has_alpha() && p.stored(x, y, p.channels - 1) <= 0))
                for (int c = 0; c < 3; ++c) n[c] = value(p.stored(x, y, c));
            if (n[0] == 0 && n[1] == 0) n[2] = 1;
            const float z = std::max(n[2], 1e-3f);
            const auto slope = [&](float v) {
                return std::isfinite(v) ? strength * std::clamp(v / z, -steepest, steepest) : 0.0f;
            };
            out.x(x, y) = slope(-n[0]);
            out.y(x, y) = slope(green_up ? n[1] : -n[1]);
        }
    });
    return out;
}

} // namespace bathylux
