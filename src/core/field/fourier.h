#pragma once
#include <complex>
#include <functional>
#include <memory>
#include <mutex>
#include <stop_token>

#include "core/field/plane.h"

namespace bathylux {

/// The next size from n that factors into 2, 3 and 5.
int fast_size(int n);

/// FFTW makes plans on one thread at a time; carrying them out is free of that.
std::mutex& fourier_planner();

/// A picture that repeats, to be filtered by frequency (FFTW, Frigo & Johnson 2005). Contents are not
/// initialised.
class Spectrum {
  public:
    Spectrum(int width, int height);
    ~Spectrum();
    Spectrum(const Spectrum&) = delete;
    Spectrum& operator=(const Spectrum&) = delete;
    int width() const { return width_; }
    int height() const { return height_; }
    float* row(int y) { return data_ + static_cast<std::size_t>(y) * stride_; }
    const float* row(int y) const { return data_ + static_cast<std::size_t>(y) * stride_; }

    /// Multiplies the transform, in place, by a response at (ω_x, ω_y), radians a px; it must be that of a
    /// real filter.
    void filter(const std::function<std::complex<double>(double, double)>& response,
                std::stop_token stop = {});

  private:
    int width_, height_, stride_;
    float* data_;
};

} // namespace bathylux
