#include "core/field/fourier.h"

#include <fftw3.h>
#include <new>
#include <numbers>

#include "core/error.h"
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

void Spectrum::filter(const std::function<std::complex<double>(double, double)>& response,
                      std::stop_token stop) {
    auto* spectrum = reinterpret_cast<fftwf_complex*>(data_);
    fftwf_plan there = nullptr, back = nullptr;
    {
        const std::lock_guard lock(fourier_planner());
        there = fftwf_plan_dft_r2c_2d(height_, width_, data_, spectrum, FFTW_ESTIMATE);
        back = fftwf_plan_dft_c2r_2d(height_, width_, spectrum, data_, FFTW_ESTIMATE);
    }
    fftwf_execute(there);
    const double scale = 1.0 / (double(width_) * height_);
    bool cancelled = false;
    try {
        parallel_rows(
            0, height_,
            [&](int y) {
                const double wy = 2 * std::numbers::pi * (y <= height_ / 2 ? y : y - height_) / height_;
                fftwf_complex* row = spectrum + static_cast<std::size_t>(y) * (width_ / 2 + 1);
                for (int x = 0; x <= width_ / 2; ++x) {
                    const std::complex<double> v = response(2 * std::numbers::pi * x / width_, wy) * scale *
                                                   std::complex<double>(row[x][0], row[x][1]);
                    row[x][0] = static_cast<float>(v.real());
                    row[x][1] = static_cast<float>(v.imag());
                }
            },
            stop);
        fftwf_execute(back);
    } catch (...) {
        cancelled = true;
    }
    const std::lock_guard lock(fourier_planner());
    fftwf_destroy_plan(there);
    fftwf_destroy_plan(back);
    if (cancelled) throw Cancelled();
}

} // namespace bathylux
