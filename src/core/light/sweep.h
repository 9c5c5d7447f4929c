#pragma once
#include <array>

namespace bathylux {

// The inner loops of the horizon sweeps (horizon.h). A sweep goes from row to row; what it carries is kept by
// line, one float a line and level. Arrays may be read and written up to the next multiple of 16 beyond what
// is asked for. Every instruction set gives the same values.

constexpr int most_levels = 9;

/// The slopes at which a straight sweep keeps a running horizon, lowest first.
struct Levels {
    int count = 0;
    std::array<float, most_levels> slope{};
    /// A horizon between the lowest two is a guess from both, which do for what is interpolated beside a
    /// shadow; where it would count by itself, the lowest is given and what is near decides.
    bool guess = true;
};

/// What a chunk of lines carries along: for each level the height under which a ray of that slope, come from
/// what was met, would pass here. `stride` floats a level.
struct Carried {
    float* horizon;
    int stride;
};

/// The horizon of lines at a row: its slope seen from height 0 there, and how much less steep it is from 1 px
/// higher.
struct LineHorizons {
    float *slope, *less;
};

/// Finds the horizons of `count` lines, line i crossing the row between row[i] and row[i + 1], `part` of the
/// way, after `further` px more of way. The ray of a level passes by so much above the line's own height
/// there; that falls with the level's slope, and where it would be nothing lies the horizon: on the line
/// through the two levels around or below it, which is exact while one thing stands in the way. The lowest
/// level's slope where even that is free. Made for 5 and 9 levels.
void solve_lines(const Carried& carried, const Levels& levels, const float* row, float part, float further,
                 int count, const LineHorizons& out);

/// The horizon's slope at `count` places of given height, place i between lines i and i + 1, `part` of the
/// way: what is interpolated is the slope, as heights between px are.
void read_horizon(const LineHorizons& lines, float part, const float* height, int count, float* slope);

/// The nearest rows are looked at px by px, exactly: between lines a wall beside the way would count as in
/// it. The relief is bilinear between px, so the way is looked at where it crosses rows and where it crosses
/// columns.
constexpr int near_rows = 6;
struct NearPoint {
    const float *a, *b; // place i lies `part` of the way from a[i] to b[i]
    float part, inverse_way;
};

/// Raises `slope` to the steepest slope to one of the near points, at `count` places.
void read_near(const NearPoint* points, int near, const float* height, int count, float* slope);

/// The same for what lies one px away, within the cell before each place: place i lies `aside` of the way
/// from own[i] to own[i + 1] and from before[i] to before[i + 1], and `back` of the way from the one to the
/// other.
void read_cell(const float* own, const float* before, float aside, float back, const float* height, int count,
               float* slope);

/// Has `count` lines meet a row of heights, place i between row[i] and row[i + 1], and go on to the next row,
/// `step` px of way further.
void meet_row(const Carried& carried, const Levels& levels, const float* row, float part, int count,
              float step);

/// Adds to `sum`, at `count` places, `weight` × the share of the slopes from `low` to `high` that lies above
/// the horizon.
void add_share_above(const float* slope, int count, float low, float high, float weight, float* sum);

/// Adds the cosine-weighted part of the sky seen along one azimuth (dx, dy; y down) over the horizon, for
/// surfaces that rise by (gx, gy; y down) and whose normal's z is nz: n_u (T − ½ sin 2T) ÷ 2 + n_z ½ sin² T
/// with T = ½π − atan(slope) and n_u = −n_z (gx dx + gy dy), the surface itself hiding what lies below its
/// own plane (Jiménez et al. 2016).
void add_sky(const float* slope, const float* gx, const float* gy, const float* nz, int count, float dx,
             float dy, float* sum);

// Lines that part from a lamp's mast. Four heights of the mast are told apart; for each, a line remembers the
// one thing that hides it most: its height and 1 ÷ its distance (along the rows' way). From that the height
// up to which the mast is hidden follows exactly, for any place beyond.

constexpr int mast_levels = 4;
using Mast = std::array<float, mast_levels>;

/// One float a line: for each level the height of what hides most and 1 ÷ its distance, and, for the row at
/// hand, up to which height the mast is hidden from height 0 there and how much less from a place 1 px
/// higher.
struct Fan {
    std::array<float*, mast_levels> height, inverse;
    float *hidden, *less;
};

/// Heights of a row where lines cross it: line i at `at` + i × `spread` px from row[0]; all within −1 …
/// width, where the row is readable. What lies outside 0 … width − 1 is held at the edge.
void cross_row(const float* row, int width, float at, float spread, int count, float* height);
/// Has `count` lines meet heights at a distance.
void meet_from_lamp(const Fan& fan, const float* height, int count, const Mast& mast, float inverse_away);
/// Works out `hidden` and `less` for places at a distance, whose heights are about `height`.
void solve_fan(const Fan& fan, const float* height, int count, float inverse_away);

/// A field as a kernel wants it: px (x, y) at from[y × stride + x].
struct FieldView {
    const float* from;
    int width, height, stride;
};

/// The steepest slopes to what lies within `near` rows towards a lamp at column `ox`, `away` rows off, for
/// `count` places of row `y` from x0 on; `sign` is 1 where the lamp lies above. Each way is looked at one px
/// off, where it crosses rows and where it crosses columns.
void near_towards_lamp(const FieldView& field, int y, int sign, int x0, int count, float ox, float away,
                       int near, float* slope);

/// Places in a row, as the mast and the lamp in its middle see them.
struct FromLamp {
    float away;          // of the row from the mast
    float beside, shift; // first place from the lamp, along the row; the mast from the lamp
    float top;           // height of the lamp's middle
    float half;          // half the height of the slice that shines on this mast
    float weight;        // of that slice
    float line, per;     // the line through the first place, and lines from place to place
};

/// Adds the slice's weight times the share of it seen at `count` places, interpolating between lines. What
/// shines are the slopes around the lamp's middle within half ÷ distance. `near`: the steepest slope to what
/// lies close before each place.
void read_from_lamp(const Fan& fan, const FromLamp& from, const float* height, const float* near, int count,
                    float* seen);

} // namespace bathylux
