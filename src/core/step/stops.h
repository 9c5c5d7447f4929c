#pragma once
#include <array>
#include <cmath>
#include <cstdint>
#include <string_view>
#include <vector>

#include "core/field/srgb.h"

namespace bathylux {

/// A colour at a place of a ramp, 0…1.
struct Stop {
    float at = 0;
    Color color;
    friend bool operator==(const Stop&, const Stop&) = default;
};
/// Places rising; at least one.
using Stops = std::vector<Stop>;
constexpr int most_stops = 64;

/// In which values colours between stops are mixed, always premultiplied: sRGB-encoded, linear light, OKLab.
enum class MixIn : std::uint8_t { encoded, linear, oklab };
inline constexpr std::array<std::string_view, 3> mix_in_names{"encoded", "linear", "oklab"};
inline constexpr std::array<std::string_view, 3> mix_in_words{"as stored", "light", "evenness to the eye"};

/// Stops ready to be read. Before the first and past the last their colours go on.
class MixedStops {
  public:
    MixedStops(const Stops& stops, MixIn mix_in);
    /// Straight and sRGB-encoded.
    Color at(float t) const;
    /// The same of a row of places; written up to the next multiple of 16, `t` readable as far.
    void row(const float* t, int width, const std::array<float*, 4>& out) const;
    bool opaque() const { return opaque_; }

    /// Straight lines between knots: for the kernel that reads them.
    struct Knots {
        std::vector<float> at;                         // the last is past all
        std::array<std::vector<float>, 4> value, rise; // encoded, premultiplied; there, and per unit of t
        std::vector<std::int32_t> first;               // by even stretches of 0…1, the knot before
        int steps = 1;                                 // at most so many knots on from there
        bool few = false; // and none of them steep: summed up as hinges, which is quicker than looked up
    };

  private:
    Knots knots_;
    bool opaque_ = true;
};

/// The colour between two, mixed premultiplied.
Color mixed(const Color& a, const Color& b, float t, MixIn mix_in);

/// A place within repeats: t for one; otherwise the fraction of repeats × t, every second one backwards where
/// mirrored.
inline float repeated(float t, float repeats, bool mirrored) {
    if (repeats == 1) return t;
    const float n = repeats * t;
    int whole = static_cast<int>(n);
    whole -= static_cast<float>(whole) > n;
    const float f = n - static_cast<float>(whole);
    return mirrored && (whole & 1) ? 1 - f : f;
}

} // namespace bathylux
