#include "core/field/fourier.h"

#include <fftw3.h>

#include <cmath>
#include <new>
#include <numbers>

#include "core/field/parallel.h"

namespace bathylux {

std::mutex& fourier_planner() {
    static std::mutex mutex;
    return mutex;
}

int fast_size(int n) {
    for (;; ++n) {
        int rest = n;
        for (int p : {2, 3, 5})
            while (rest % p == 0) rest /= p;
        if (rest == 1) return n;
    }
}

Spectrum::Spectrum(int width, int height)
    : width_(width), height_(height), stride_(2 * (width / 2 + 1)),
      data_(fftwf_alloc_real(static_cast<std::size_t>(stride_) * height)) {
    if (!data_) throw std::bad_alloc();
}

Spectrum::~Spectrum() { fftwf_free(data_); }

/// A plan that is made and destroyed under the planner's lock.
class FourierPlan {
  public:
    explicit FourierPlan(const std::function<fftwf_plan()>& make) {
        const std::lock_guard lock(fourier_planner());
        plan_ = make();
    }
    ~FourierPlan() {
        const std::lock_guard lock(fourier_planner());
        fftwf_destroy_plan(plan_);
    }
    FourierPlan(const FourierPlan&) = delete;
    FourierPlan& operator=(const FourierPlan&) = delete;
    operator fftwf_plan() const { return plan_; }

  private:
    fftwf_plan plan_;
};

void Spectrum::filter(const std::function<std::complex<double>(double, double)>& response) {
    // Rows, then columns there and back with the response in between, then rows again: each a piece of work
    // by itself, so that all threads have a share and it can be stopped. Rows lie where they lie: plans may
    // count on no alignment.
    const auto complex = [](float* p) { return reinterpret_cast<fftwf_complex*>(p); };
    const int w = width_, h = height_, wide = width_ / 2 + 1;
    constexpr unsigned how = FFTW_ESTIMATE | FFTW_UNALIGNED;
    constexpr int together = 16; // columns side by side
    const FourierPlan row_there([&] { return fftwf_plan_dft_r2c_1d(w, data_, complex(data_), how); }),
        row_back([&] { return fftwf_plan_dft_c2r_1d(w, complex(data_), data_, how); });
    const auto columns = [&](int count, int sign) {
        return FourierPlan([&] {
            return fftwf_plan_many_dft(1, &h, count, complex(data_), nullptr, wide, 1, complex(data_),
                                       nullptr, wide, 1, sign, how);
        });
    };
    const int last = wide % together == 0 ? together : wide % together;
    const FourierPlan down = columns(std::min(together, wide), FFTW_FORWARD),
                      up = columns(std::min(together, wide), FFTW_BACKWARD),
                      last_down = columns(last, FFTW_FORWARD), last_up = columns(last, FFTW_BACKWARD);
    parallel_rows(0, h, [&](int y) { fftwf_execute_dft_r2c(row_there, row(y), complex(row(y))); });
    const double scale = 1.0 / (double(w) * h);
    parallel_blocks(0, wide, together, [&](int from, int to) {
        fftwf_complex* block = complex(data_) + from;
        const bool rest = to == wide;
        fftwf_execute_dft(rest ? last_down : down, block, block);
        for (int y = 0; y < h; ++y) {
            const double wy = 2 * std::numbers::pi * (y <= h / 2 ? y : y - h) / h;
            fftwf_complex* at = block + static_cast<std::size_t>(y) * wide - from;
            for (int x = from; x < to; ++x) {
                const std::complex<double> v = response(2 * std::numbers::pi * x / w, wy) * scale *
                                               std::complex<double>(at[x][0], at[x][1]);
                at[x][0] = static_cast<float>(v.real()), at[x][1] = static_cast<float>(v.imag());
            }
        }
        fftwf_execute_dft(rest ? last_up : up, block, block);
    });
    parallel_rows(0, h, [&](int y) { fftwf_execute_dft_c2r(row_back, complex(row(y)), row(y)); });
}

struct RowPairs::Plans {
    Plans(int n, fftwf_complex* mixed, fftwf_complex* spectrum)
        : there([&] { return fftwf_plan_dft_1d(n, mixed, spectrum, FFTW_FORWARD, FFTW_ESTIMATE); }),
          back([&] { return fftwf_plan_dft_1d(n, spectrum, mixed, FFTW_BACKWARD, FFTW_ESTIMATE); }) {}
    FourierPlan there, back;
};

namespace {
fftwf_complex* of(std::complex<float>* p) { return reinterpret_cast<fftwf_complex*>(p); }
std::complex<float>* numbers(int n) {
    auto* p = reinterpret_cast<std::complex<float>*>(fftwf_alloc_complex(static_cast<std::size_t>(n)));
    if (!p) throw std::bad_alloc();
    return p;
}
} // namespace

RowPairs::Room::Room(const RowPairs& pairs) : mixed(numbers(pairs.n_)), spectrum(numbers(pairs.n_)) {}
RowPairs::Room::~Room() { fftwf_free(mixed), fftwf_free(spectrum); }

RowPairs::RowPairs(int n, bool ring) : n_(n), ring_(ring), cosine_(n), sine_(n) {
    for (int k = 0; k < n; ++k) {
        const double angle = std::numbers::pi * k / (2.0 * n);
        cosine_[k] = static_cast<float>(std::cos(angle)), sine_[k] = static_cast<float>(std::sin(angle));
    }
    const Room room(*this);
    plans_ = std::make_unique<Plans>(n, of(room.mixed), of(room.spectrum));
}

RowPairs::~RowPairs() = default;

float* RowPairs::alone(const float* a, Room& room) const {
    room.second.assign(a, a + n_);
    return room.second.data();
}

void RowPairs::there(float* a, float* b, Room& room) const {
    const int n = n_;
    if (!b) b = alone(a, room);
    std::complex<float>* v = room.mixed;
    if (ring_)
        for (int j = 0; j < n; ++j) v[j] = {a[j], b[j]};
    else {
        // Even places forwards, odd ones backwards.
        for (int j = 0; 2 * j < n; ++j) v[j] = {a[2 * j], b[2 * j]};
        for (int j = 0; 2 * j + 1 < n; ++j) v[n - 1 - j] = {a[2 * j + 1], b[2 * j + 1]};
    }
    fftwf_execute_dft(plans_->there, of(v), of(room.spectrum));
    // Of z = a + i b: A_k = (Z_k + Z̄_{n−k}) ÷ 2, B_k = (Z_k − Z̄_{n−k}) ÷ 2 i.
    const auto* z = reinterpret_cast<const float*>(room.spectrum);
    const auto part = [&](int k) {
        const int m = k == 0 ? 0 : n - k;
        struct {
            float a_re, a_im, b_re, b_im;
        } out{z[2 * k] + z[2 * m], z[2 * k + 1] - z[2 * m + 1], z[2 * k + 1] + z[2 * m + 1],
              z[2 * m] - z[2 * k]};
        return out;
    };
    if (ring_) {
        for (int k = 0; 2 * k <= n; ++k) {
            const auto p = part(k);
            a[k] = 0.5f * p.a_re;
            b[k] = 0.5f * p.b_re;
            if (k == 0 || 2 * k == n) continue;
            a[n - k] = 0.5f * p.a_im;
            b[n - k] = 0.5f * p.b_im;
        }
        return;
    }
    for (int k = 0; k < n; ++k) {
        const auto p = part(k);
        a[k] = cosine_[k] * p.a_re + sine_[k] * p.a_im;
        b[k] = cosine_[k] * p.b_re + sine_[k] * p.b_im;
    }
}

void RowPairs::back(float* a, float* b, Room& room) const {
    const int n = n_;
    if (!b) b = alone(a, room);
    const float scale = 1.0f / static_cast<float>(n);
    auto* z = reinterpret_cast<float*>(room.spectrum);
    if (ring_)
        for (int k = 0; 2 * k <= n; ++k) {
            const bool real = k == 0 || 2 * k == n;
            const int m = k == 0 ? 0 : n - k;
            const float ar = a[k], ai = real ? 0.0f : a[m], br = b[k], bi = real ? 0.0f : b[m];
            z[2 * m] = scale * (ar + bi), z[2 * m + 1] = scale * (br - ai);
            z[2 * k] = scale * (ar - bi), z[2 * k + 1] = scale * (br + ai);
        }
    else
        for (int k = 0; k < n; ++k) {
            // V_k = ½ exp(i π k ÷ 2 n) (Y_k − i Y_{n−k}), Y_n = 0.
            const float c = 0.5f * scale * cosine_[k], s = 0.5f * scale * sine_[k];
            const float ya = a[k], am = k ? a[n - k] : 0.0f, yb = b[k], bm = k ? b[n - k] : 0.0f;
            z[2 * k] = c * ya + s * am - (s * yb - c * bm);
            z[2 * k + 1] = s * ya - c * am + (c * yb + s * bm);
        }
    fftwf_execute_dft(plans_->back, of(room.spectrum), of(room.mixed));
    const std::complex<float>* v = room.mixed;
    const auto put = [&](int j, std::complex<float> value) {
        a[j] = value.real();
        b[j] = value.imag();
    };
    if (ring_)
        for (int j = 0; j < n; ++j) put(j, v[j]);
    else {
        for (int j = 0; 2 * j < n; ++j) put(2 * j, v[j]);
        for (int j = 0; 2 * j + 1 < n; ++j) put(2 * j + 1, v[n - 1 - j]);
    }
}

} // namespace bathylux
