#pragma once
#include <array>

#include "core/field/geometry.h"
#include "core/step/stops.h"

namespace bathylux {

enum class GradientShape : std::uint8_t { linear, reflected, radial, conic, corners };
inline constexpr std::array<std::string_view, 5> gradient_shape_names{"linear", "reflected", "radial",
                                                                      "conic", "corners"};
inline constexpr std::array<std::string_view, 5> gradient_shape_words{
    "along a line", "there and back", "from the middle", "once round", "from the corners"};

/// What lays a gradient over a box.
struct GradientLine {
    GradientShape shape = GradientShape::linear;
    float angle = 0; // degrees, counter-clockwise from the right
    float repeats = 1;
    bool mirrored = false;
};

/// Colours laid over a box. Along a line, the ends lie where CSS Images 3 puts them: the corners' feet on it;
/// from the middle, 1 lies at the middles of the sides and goes on growing beyond; once round counts
/// counter-clockwise from the angle; from the corners, the first four stops' colours (their places do not
/// count; the last is taken again where there are fewer): top left, top right, bottom left, bottom right,
/// mixed bilinearly.
class Gradient {
  public:
    /// `box`, about its centre, lies by `to_device`, which can be inverted.
    Gradient(const GradientLine& line, const Stops& stops, MixIn mix_in, const Box& box,
             const Affine& to_device);
    /// The colours of a row of px that starts at (x0, y): straight, sRGB-encoded, and their alpha. Written up
    /// to the next multiple of 16.
    void row(int x0, int y, int width, const std::array<float*, 4>& out) const;
    bool opaque() const { return opaque_; }

  private:
    void places(float u, float v, float du, float dv, int x0, int width, float* t) const;
    Color at_corners(float x, float y) const;

    GradientLine line_;
    MixIn mix_in_;
    MixedStops stops_;
    std::array<Color, 4> corners_;
    Affine to_box_;            // device px → −1…1 across and down the box
    double along_u_, along_v_; // t of a line − ½, by those
    double half_u_, half_v_;   // of the box, px
    double turn_;              // radians
    bool opaque_;
};

} // namespace bathylux
