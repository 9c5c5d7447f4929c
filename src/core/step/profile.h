#pragma once
#include <array>
#include <string_view>

#include "core/step/points.h"

namespace bathylux {

/// Cross-section of an edge: how far up it is, 0…1, a given share of its width in, 0…1. Named by joinery.
struct Profile {
    enum class Shape { chamfer, round, cove, ogee, step, bead, own };
    Shape shape = Shape::chamfer;
    /// For `own`: at least two points, x rising; held before the first and past the last.
    Points points;
    /// For `own`: a smooth curve through the points that never overshoots (MonotoneCurve),
    /// otherwise straight lines.
    bool smooth = false;

    Profile() = default;
    Profile(Shape s) : shape(s) {}
    friend bool operator==(const Profile&, const Profile&) = default;
};

constexpr std::array<std::string_view, 6> profile_names{"chamfer", "round", "cove", "ogee", "step", "bead"};

/// A profile made ready to be read at many places.
class ProfileCurve {
  public:
    explicit ProfileCurve(const Profile& profile);
    float operator()(float t) const;

  private:
    Profile profile_;
    MonotoneCurve smooth_{{}};
};

} // namespace bathylux
