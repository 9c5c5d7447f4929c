#pragma once
#include <vector>

#include "core/bend/survey.h"
#include "core/field/plane.h"

namespace bathylux {

/// A field that is read, and which of those beside it says how much it counts, as coverage does of heights:
/// it is read times that, and what comes of it divided by what comes of that.
struct TexelField {
    const Field* of = nullptr;
    int counted_by = -1;
};

/// Fields to be read between px, and their halvings (2 × 2 means), in groups of four side by side, so that a
/// px of a group is one load. What lies past `region` is told by `edge`: for all but `none` it is the whole
/// of what is repeated or held.
class Texels {
  public:
    struct Level {
        int width = 0, height = 0;
        std::vector<Plane> groups; // each 4 × width wide; of level 0 only where what is read lies scattered
    };

    /// Fields cover `have`, nothing beyond; they must outlive it.
    Texels(const std::vector<TexelField>& fields, Region have, Region region, Edge edge,
           const Survey& survey);

    Region region() const { return region_; }
    Edge edge() const { return edge_; }
    const std::vector<Level>& levels() const { return levels_; }
    std::size_t groups() const { return rows_.size() / 4; }
    /// For each field, as TexelField has it.
    const std::vector<int>& counted_by() const { return counted_by_; }
    /// Whether the last group is one field alone: it need not be laid beside nothing.
    bool ends_alone() const { return alone_; }
    /// A group's px x0 … x1 of a row, counted within the region or past it, side by side, or its first
    /// field's alone.
    void lay(std::size_t group, int y, int x0, int x1, float* to) const;
    void lay_alone(std::size_t group, int y, int x0, int x1, float* to) const;

  private:
    template <std::size_t fields> void lay(std::size_t group, int y, int x0, int x1, float* to) const;
    Level first_halving() const;

    Region have_, region_;
    Edge edge_;
    bool alone_;
    std::vector<Rows> rows_; // of the fields, filled up to whole groups
    std::vector<int> counted_by_;
    std::vector<Level> levels_;
};

/// Reads texels at every place looked at. Where a px sees about one px, by a Catmull–Rom spline (1974), up to
/// two by a softer one of the same family (Mitchell & Netravali 1988), held between the least and the most of
/// the four nearest, so that nothing swings over; where it sees more, the mean of
/// what it sees under a tent along both axes of its footprint, from the halving at which that takes few
/// samples (Heckbert 1989; McCormack et al. 1999). Gives `planes` planes over looks.region, in the order they
/// were packed.
std::vector<Plane> read_at(const Texels& texels, const Looks& looks, const Survey& survey, int planes);

} // namespace bathylux
