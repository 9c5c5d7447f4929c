#pragma once
#include <array>

#include "core/step/bundle.h"

namespace bathylux {

/// Reads a picture through a placement, within a region: bilinear between pixel centres, from the halving at
/// which one pixel is about one sample. A placement without scale or turn that lands on whole pixels gives
/// the picture's own values. Holds the part of the picture that the region shows.
class PictureSampler {
  public:
    PictureSampler(const Picture& picture, const Affine& to_picture, Edge edge, Picture::Reading reading,
                   Region region);
    /// RGBA at a point of the region, device px.
    std::array<float, 4> at(double x, double y) const;

  private:
    Picture::Texels texels_;
    Region held_;        // which px of the halving they are
    int width_, height_; // of the halving
    bool whole_ = false; // all of it is held, and read round and round
    Affine map_;         // device px → px of the halving, shifted to centres
    Edge edge_;
    bool unscaled_ = false; // one to one, at right angles: samples may fall on pixel centres
};

class StoredSampler : public PictureSampler {
  public:
    StoredSampler(const StoredSamples& s, Region region)
        : PictureSampler(*s.picture, s.to_picture, s.edge, Picture::Reading::stored, region) {}
};

} // namespace bathylux
