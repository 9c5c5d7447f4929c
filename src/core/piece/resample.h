#pragma once
#include <array>
#include <stop_token>

#include "core/piece/bundle.h"

namespace bathylux {

/// Reads a picture through a placement: bilinear between pixel centres, from the level of its pyramid at
/// which one pixel is about one sample. A placement without scale or turn that lands on whole pixels
/// gives the picture's own values.
class PictureSampler {
  public:
    /// `levels(n)`: the pyramid to read.
    PictureSampler(const Picture& picture, const Affine& to_picture, Edge edge, bool color);
    /// RGBA at a point in device px.
    std::array<float, 4> at(double x, double y) const;

  private:
    const Picture::Level* level_ = nullptr;
    Affine map_; // device px → px of the level, shifted to centres
    Edge edge_;
    bool unscaled_ = false; // one to one, at right angles: samples may fall on pixel centres
};

class StoredSampler : public PictureSampler {
  public:
    explicit StoredSampler(const StoredSamples& s)
        : PictureSampler(*s.picture, s.to_picture, s.edge, false) {}
};

} // namespace bathylux
