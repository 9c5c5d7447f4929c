#pragma once
#include <utility>
#include <vector>

namespace bathylux {

/// Points of a curve, x rising; at least two.
using Points = std::vector<std::pair<float, float>>;

/// A smooth curve through points that turns only at them: a cubic between every two, tangents the mean of the
/// slopes on either side, at the ends the slope there, 0 at turns, shortened where the cubic would overshoot
/// (Fritsch & Carlson 1980). Held before the first point and after the last.
class MonotoneCurve {
  public:
    explicit MonotoneCurve(Points points);
    float operator()(float x) const;

  private:
    Points points_;
    std::vector<float> tangents_;
};

} // namespace bathylux
