#pragma once
#include <memory>
#include <vector>

#include "core/field/plane.h"
#include "core/light/sweep.h"

namespace bathylux {

/// The relief around a window that is looked at px by px: what lies beyond is seen from a coarser picture of
/// it all, the coarser the farther (a pyramid of maxima, as in Tevs, Ihrke & Seidel 2008), so that a sweep of
/// a window costs no more than the window and still sees to the canvas's edge.
class Beyond {
  public:
    /// `coarse` covers the whole canvas, heights in px of the fine field; `ratio`: coarse px a fine px.
    Beyond(Plane coarse, double ratio);

    /// What a line that comes from (dx, dy) · t, t growing, carries when it enters a window at (x, y), fine
    /// px of the canvas: for each level the height under which a ray of that slope, come from what it met,
    /// passes there.
    void enter(double x, double y, double dx, double dy, const Levels& levels, float* horizon) const;

    /// Likewise of a line away from a lamp's mast at (mx, my): for each height of the mast, that of what
    /// hides most and 1 ÷ its way from the mast, ways counted along y (or x where `across`).
    void enter_from(double x, double y, double mx, double my, bool across, const Mast& mast, float* height,
                    float* inverse) const;

    float highest() const { return highest_; }
    float lowest() const { return lowest_; }

  private:
    float at(double x, double y, int level) const;
    /// Calls `meet(t, height)` for places at growing ways t from (x, y), up to `most`.
    template <class F> void walk(double x, double y, double dx, double dy, double most, const F& meet) const;

    double ratio_;
    std::vector<Plane> maxima_; // each half as large as the one before
    float highest_ = 0, lowest_ = 0;
};

/// A field that is a window of a larger one: what lies around it, and where it lies.
struct Surroundings {
    const Beyond* beyond = nullptr; // null: nothing lies around it
    double x0 = 0, y0 = 0;          // the field's first px on the canvas, fine px
    double width = 0, height = 0;   // of the canvas
};

} // namespace bathylux
