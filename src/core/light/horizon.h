#pragma once
#include <cmath>
#include <functional>
#include <vector>

#include "core/field/plane.h"
#include "core/light/beyond.h"
#include "core/light/sweep.h"

namespace bathylux {

/// The horizon where nothing stands in the way.
constexpr float no_horizon = -1e30f;

/// A height field (px) that is looked along in many directions. Directions are (dx, dy), y down; with
/// `repeat` the field goes on past its edges.
///
/// Lines are swept across the sheared field (Timonen & Westerholm 2010), each carrying, per level, the height
/// under which a ray of that slope would pass: the horizon is where height and ray cross. A px is tested
/// against what lies before it only: level ground sees nothing but itself. Sweeps go from row to row; where a
/// direction lies rather along the rows, a turned copy is swept.
class Horizons {
  public:
    Horizons(const Plane& height, bool repeat, const Surroundings& around = {})
        : height_(height), repeat_(repeat), around_(around) {}

    /// Whether that direction is swept on the turned field, whose x is y and whose y is x.
    static bool turned(double dx, double dy) { return std::abs(dx) > std::abs(dy); }
    const Plane& field(bool turned);

    /// What is done with a run of horizons: row, first px, count, and the steepest slope (height per px of
    /// way) under which anything is met from each px, the lowest level's slope where all lies under that. Up
    /// to 16 floats beyond the count may be read. Comes from several threads, every px once; in the turned
    /// field's px where that is swept.
    using Sink = std::function<void(int y, int x, int count, const float* slope)>;
    /// `near`: how many rows before a px are looked at exactly, up to near_rows.
    void sweep(double dx, double dy, const Levels& levels, const Sink& sink, int near = near_rows);

  private:
    const Plane& height_;
    Plane turned_;
    bool repeat_;
    Surroundings around_;
};

Plane transposed(const Plane& plane);
/// Heights in device px, so that slopes are slopes; `held` keeps them where they are not that already.
const Plane& upright(const Plane& height, float per_px, Plane& held);

/// For every px, the steepest slope under which anything within `radius` px is seen along a direction, or
/// no_horizon. Lines carry the upper hull of the heights met, so that the
/// horizon is exact, and found in constant time on average.
Plane horizons_within(const Plane& height, double dx, double dy, bool repeat, float radius);

/// A disc of radius 1, cut into upright slices of equal width, each made a box of the same area: where its
/// middle lies, half its height, and its share of the disc.
struct Slice {
    double aside, half, share;
};
std::vector<Slice> slices_of_disc(int count);

/// A shining ball, px of the field; it may lie outside it.
struct Ball {
    double x, y, z, radius;
};

/// How much every px sees of a ball, 0…1, cut into upright slices. For each slice lines run outwards from a
/// mast in its middle, one to every px of the field's rim in the four quarters around it, and carry for four
/// heights of the mast what hides most.
Plane seen_of_ball(const Plane& height, const Ball& lamp, int slices, const Surroundings& around = {});

} // namespace bathylux
