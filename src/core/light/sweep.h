#pragma once
#include <array>
#include <vector>

namespace bathylux {

// The inner loops of the horizon sweeps (horizon.h). A sweep goes from row to row; what it carries is kept by
// line, one float a line and level. Arrays may be read and written up to the next multiple of 16 beyond what is
// asked for. Nothing is fused: every instruction set gives the same values.

constexpr int most_levels = 12;

/// The slopes at which a straight sweep keeps a running horizon, lowest first.
struct Levels {
    int count = 0;
    std::array<float, most_levels> slope{};
};

/// What a chunk of lines carries along: for each level the height under which a ray of that slope, come from what
/// was met, would pass here. `stride` floats a level.
struct Carried {
    float* horizon;
    int stride;
};

/// Reads off the horizon's slope at `count` places: between lines i and i + 1, `part` of the way. Per place, d of
/// a level is the carried horizon above `height`; it falls with the slope, and where it crosses zero lies the
/// horizon, after `further` px more of way. Between the lowest two levels it is only known to lie there: the lowest is given. `lowest` where even
/// that is free, the highest level's slope where none is. Made for 4, 5 and 12 levels.
void read_horizon(const Carried& carried, const Levels& levels, float part, float further, const float* height,
                  int count, float lowest, float* slope);

/// The nearest rows are looked at px by px, exactly: between lines a wall beside the way would count as in it.
constexpr int near_rows = 6;
struct NearRow {
    const float* row; // place i lies `part` of the way from row[i] to row[i + 1]
    float part, inverse_way;
};

/// Raises `slope` to the steepest slope to one of the near rows, at `count` places.
void read_near(const NearRow* rows, int near, const float* height, int count, float* slope);

/// Has `count` lines meet a row of heights, place i between row[i] and row[i + 1], and go on to the next row,
/// `step` px of way further.
void meet_row(const Carried& carried, const Levels& levels, const float* row, float part, int count, float step);

/// Adds to `sum`, at `count` places, `weight` × the share of the slopes from `low` to `high` that lies above the
/// horizon.
void add_share_above(const float* slope, int count, float low, float high, float weight, float* sum);

/// Adds the cosine-weighted part of the sky seen along one azimuth (dx, dy; y down) over the horizon, for surfaces of
/// normal (nx, ny, nz; y up): n_u (T − ½ sin 2T) ÷ 2 + n_z ½ sin² T with T = ½π − atan(slope), the surface itself
/// hiding what lies below its own plane (Jiménez et al. 2016).
void add_sky(const float* slope, const float* nx, const float* ny, const float* nz, int count, float dx, float dy,
             float* sum);

// Lines that part from a lamp's mast. Four heights of the mast are told apart; for each, a line remembers the one
// thing that hides it most: its height and 1 ÷ its distance (along the rows' way). From that the height up to which
// the mast is hidden follows exactly, for any place beyond.

using Mast = std::array<float, 4>;

class Blockers {
  public:
    explicit Blockers(int lines) : data_(8 * static_cast<std::size_t>(lines)) {}
    void clear() {
        for (std::size_t i = 0; i < data_.size(); ++i) data_[i] = i % 8 < 4 ? -1e15f : 1;
    }
    float* line(int k) { return &data_[8 * static_cast<std::size_t>(k)]; } // four heights, four inverse distances

  private:
    std::vector<float> data_;
};

void meet_from_lamp(Blockers& blockers, const float* height, int count, const Mast& mast, float inverse_away);

/// Places in a row, as the mast and the lamp in its middle see them.
struct FromLamp {
    float away;         // of the row from the mast
    float beside, shift; // first place from the lamp, along the row; the mast from the lamp
    float top;          // height of the lamp's middle
    float half;         // half the height of the slice that shines on this mast
    float weight;       // of that slice
};

/// Adds the slice's weight times the share of it seen at `count` places, between line[i] and the next, part[i] of the
/// way. What shines are the slopes around the lamp's middle within half ÷ distance. `near`: the steepest slope to what
/// lies close before each place.
void read_from_lamp(Blockers& blockers, const FromLamp& from, const int* line, const float* part, const float* height,
                    const float* near, int count, float* seen);

} // namespace bathylux
