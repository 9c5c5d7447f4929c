#include "core/relief/integrate.h"

#include <fftw3.h>
#include <numbers>

#include "core/field/fourier.h"
#include "core/field/parallel.h"

namespace bathylux {

namespace {

class Plan {
  public:
    Plan(int n, float* in, float* out, fftwf_r2r_kind kind) {
        const std::lock_guard lock(fourier_planner());
        plan_ = fftwf_plan_r2r_1d(n, in, out, kind, FFTW_ESTIMATE);
    }
    Plan(const Plan&) = delete;
    Plan& operator=(const Plan&) = delete;
    ~Plan() {
        const std::lock_guard lock(fourier_planner());
        fftwf_destroy_plan(plan_);
    }
    void operator()(float* in, float* out) const { fftwf_execute_r2r(plan_, in, out); }

  private:
    fftwf_plan plan_;
};

/// Between samples i and i + 1 of a row: weights over the nearest six whose response, 1.375 cos(ω/2) −
/// 0.4375 cos(3ω/2) + 0.0625 cos(5ω/2), follows 1 ÷ cos(ω/2), the loss of a central difference, to fourth
/// order. Near free edges, where six are not to be had, the mean of two.
template <class At> float between(const At& at, int i, int n, bool periodic) {
    if (periodic) {
        const auto p = [&](int k) { return at(((i + k) % n + n) % n); };
        return 0.6875f * (p(0) + p(1)) - 0.21875f * (p(-1) + p(2)) + 0.03125f * (p(-2) + p(3));
    }
    if (i < 2 || i + 3 >= n) return 0.5f * (at(i) + at(i + 1));
    return 0.6875f * (at(i) + at(i + 1)) - 0.21875f * (at(i - 1) + at(i + 2)) +
           0.03125f * (at(i - 2) + at(i + 3));
}

constexpr int block = 16; // columns solved side by side

/// Solves (λ + 2) h_j − h_{j−1} − h_{j+1} = f_j down `block` columns at once, free ends (Thomas 1949) or a
/// ring (Sherman & Morrison 1950), in double. `at(j)` is row j of the block, in place.
template <class Row> void solve_columns(int rows, const double* lambda, bool periodic, const Row& at) {
    std::vector<double> c(static_cast<std::size_t>(rows) * block), d(c.size()), u(periodic ? c.size() : 0);
    // A ring is the free chain T and what ties its ends together: T + w wᵀ with w = (1, 0 … 0, −1).
    const auto diagonal = [&](int j, int k) {
        return lambda[k] + (j > 0 ? 1.0 : 0.0) + (j < rows - 1 ? 1.0 : 0.0);
    };
    for (int j = 0; j < rows; ++j) {
        const float* f = at(j);
        for (int k = 0; k < block; ++k) {
            const std::size_t now = static_cast<std::size_t>(j) * block + k, before = now - block;
            const double pivot = diagonal(j, k) + (j > 0 ? c[before] : 0.0), inverse = 1 / pivot;
            c[now] = -inverse;
            d[now] = (f[k] + (j > 0 ? d[before] : 0.0)) * inverse;
            if (periodic) {
                const double w = rows == 1 ? 0.0 : j == 0 ? 1.0 : j == rows - 1 ? -1.0 : 0.0;
                u[now] = (w + (j > 0 ? u[before] : 0.0)) * inverse;
            }
        }
    }
    for (int j = rows - 2; j >= 0; --j)
        for (int k = 0; k < block; ++k) {
            const std::size_t now = static_cast<std::size_t>(j) * block + k;
            d[now] -= c[now] * d[now + block];
            if (periodic) u[now] -= c[now] * u[now + block];
        }
    const std::size_t last = static_cast<std::size_t>(rows - 1) * block;
    for (int k = 0; k < block && periodic; ++k) {
        const double scale = (d[k] - d[last + k]) / (1 + u[k] - u[last + k]);
        for (std::size_t i = k; i < d.size(); i += block) d[i] -= scale * u[i];
    }
    for (int j = 0; j < rows; ++j)
        for (int k = 0; k < block; ++k)
            at(j)[k] = static_cast<float>(d[static_cast<std::size_t>(j) * block + k]);
}

} // namespace

Plane integrated(const Slopes& s, bool periodic, std::stop_token stop) {
    const int w = s.x.width(), h = s.x.height();
    // What flows out of every pixel, in one row after the other, each transformed where it lies.
    Plane f(w, h);
    std::vector<double> down(h, 0.0); // mean slope from row j to the next
    Plane scratch(w, 1);
    const Plan forward(w, f.row(0), scratch.row(0), periodic ? FFTW_R2HC : FFTW_REDFT10);
    parallel_blocks(
        0, h, 16,
        [&](int from, int to) {
            Plane row(w, 1);
            std::vector<float> above(w), below(w);
            const auto downwards = [&](int j, std::vector<float>& out) {
                if (!periodic && (j < 0 || j >= h - 1)) {
                    std::fill(out.begin(), out.end(), 0.0f);
                    return;
                }
                const int i = periodic ? (j + h) % h : j;
                for (int x = 0; x < w; ++x)
                    out[x] = between([&](int y) { return s.y(x, y); }, i, h, periodic);
            };
            downwards(from - 1, above);
            for (int y = from; y < to; ++y) {
                downwards(y, below);
                double sum = 0;
                for (int x = 0; x < w; ++x) sum += below[x];
                down[y] = sum / w;
                const float* px = s.x.row(y);
                const auto at = [&](int x) { return px[x]; };
                float left = periodic ? between(at, w - 1, w, true) : 0.0f;
                for (int x = 0; x < w; ++x) {
                    const float right = periodic || x + 1 < w ? between(at, x, w, periodic) : 0.0f;
                    row(x, 0) = -(right - left + below[x] - above[x]);
                    left = right;
                }
                forward(row.row(0), f.row(y));
                std::swap(above, below);
            }
        },
        stop);

    parallel_blocks(
        0, (w + block - 1) / block, 1,
        [&](int b, int) {
            double lambda[block];
            for (int k = 0; k < block; ++k) {
                const int i = b * block + k;
                const double omega =
                    periodic ? 2 * std::numbers::pi * std::min(i, w - i) / w : std::numbers::pi * i / w;
                // The mean has no equation of its own; it is filled in below.
                lambda[k] = i == 0 || i >= w ? 1.0 : 2 - 2 * std::cos(omega);
            }
            solve_columns(h, lambda, periodic, [&](int j) { return f.row(j) + b * block; });
        },
        stop);

    // The mean of every row is the sum of the mean slopes above it.
    double drift = 0;
    if (periodic)
        for (double d : down) drift += d / h;
    std::vector<double> mean(h, 0.0);
    double total = 0;
    for (int j = 1; j < h; ++j) mean[j] = mean[j - 1] + down[j - 1] - drift, total += mean[j];
    const double scale = periodic ? 1.0 / w : 1.0 / (2 * w);
    Plane out(w, h);
    Plane spare(w, 1);
    const Plan backward(w, f.row(0), spare.row(0), periodic ? FFTW_HC2R : FFTW_REDFT01);
    parallel_rows(
        0, h,
        [&](int y) {
            float* row = f.row(y);
            row[0] = static_cast<float>((mean[y] - total / h) * (periodic ? w : 2.0 * w));
            backward(row, out.row(y));
            for (int x = 0; x < w; ++x) out(x, y) *= static_cast<float>(scale);
        },
        stop);
    return out;
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
