#pragma once
#include <complex>
#include <functional>
#include <memory>
#include <mutex>
#include <vector>

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
    void filter(const std::function<std::complex<double>(double, double)>& response);

  private:
    int width_, height_, stride_;
    float* data_;
};

/// Transforms rows of n numbers two by two, as the real and imaginary part of one complex transform, for
/// which the library has its fastest code. With free ends the cosine transform (DCT-II; Makhoul 1980):
///     Y_k = 2 Σ x_j cos(π (j + ½) k ÷ n);
/// on a ring that of Fourier, real parts at 0 … n ÷ 2, imaginary ones at n − k. `back` undoes `there`.
class RowPairs {
  public:
    RowPairs(int n, bool ring);
    ~RowPairs();
    RowPairs(const RowPairs&) = delete;
    RowPairs& operator=(const RowPairs&) = delete;

    /// Room to work in, one a thread.
    class Room {
      public:
        explicit Room(const RowPairs& pairs);
        ~Room();
        Room(const Room&) = delete;
        Room& operator=(const Room&) = delete;
        std::complex<float>*mixed, *spectrum;
        std::vector<float> second; // of a row without a partner
    };
    /// In place; `b` may be null: a row by itself.
    void there(float* a, float* b, Room& room) const;
    void back(float* a, float* b, Room& room) const;

  private:
    struct Plans;
    float* alone(const float* a, Room& room) const;
    int n_;
    bool ring_;
    std::vector<float> cosine_, sine_; // of π k ÷ 2 n
    std::unique_ptr<Plans> plans_;
};

} // namespace bathylux
