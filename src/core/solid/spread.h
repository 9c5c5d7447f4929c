#pragma once
#include <cmath>
#include <cstdint>
#include <numbers>
#include <utility>
#include <vector>

#include "core/field/hash.h"
#include "core/solid/vec3.h"

namespace bathylux {

/// Points of a sequence that is evenly spread wherever one enters it (R2, Roberts 2018): of the unit square
/// and, by the same number, of the unit disc.
class Sequence {
  public:
    static constexpr std::uint32_t length = 1u << 12;
    struct Point {
        float x, y, disc_x, disc_y;
    };
    static const Point& at(std::uint32_t i) {
        static const Sequence made;
        return made.points_[i % length];
    }

  private:
    Sequence() : points_(length) {
        for (std::uint32_t i = 0; i < length; ++i) {
            const auto part = [](double v) { return v - std::floor(v); };
            const double x = part(0.5 + i * 0.7548776662466927), y = part(0.5 + i * 0.5698402909980532),
                         r = std::sqrt(x), t = 2 * std::numbers::pi * y;
            points_[i] = {static_cast<float>(x), static_cast<float>(y), static_cast<float>(r * std::cos(t)),
                          static_cast<float>(r * std::sin(t))};
        }
    }
    std::vector<Point> points_;
};

/// The point of a px for a sample and a use: every px and every use enters the sequence elsewhere.
struct Spread {
    std::uint64_t px;
    const Sequence::Point& operator()(std::uint32_t sample, std::uint32_t use) const {
        return Sequence::at(static_cast<std::uint32_t>(bathylux::mixed(px << 20 | use)) + sample);
    }
};

/// Two unit vectors across a third (Duff et al. 2017).
inline std::pair<Vec3, Vec3> across(Vec3 n) {
    const double sign = std::copysign(1.0, n.z), a = -1 / (sign + n.z), b = n.x * n.y * a;
    return {{1 + sign * n.x * n.x * a, sign * b, -sign * n.x}, {b, sign + n.y * n.y * a, -n.y}};
}

} // namespace bathylux
