#pragma once
#include <functional>
#include <optional>
#include <vector>

#include "core/make/pattern.h"
#include "core/paint/painting.h"
#include "core/paint/tip.h"

namespace bathylux {

enum class BrushWork {
    raise,
    lower,
    level,
    smooth,
    flatten,
    pattern,
    hide,
    reveal,
    ink,
    lift,
    push,
    swell,
    thin,
    turn,
    smooth_out,
    settle
};
inline constexpr std::array<std::string_view, 16> brush_work_names{
    "raise", "lower", "level", "smooth", "flatten", "pattern", "hide",       "reveal",
    "ink",   "lift",  "push",  "swell",  "thin",    "turn",    "smooth_out", "settle"};
/// Whether it works on colour rather than on the relief.
inline bool works_on_ink(BrushWork work) { return work == BrushWork::ink || work == BrushWork::lift; }

/// Whether it moves what is there (see push_dab).
inline bool works_on_drift(BrushWork work) { return work >= BrushWork::push; }

/// What a brush does. Lengths are painting px, heights canvas px.
struct Brush {
    BrushWork work = BrushWork::raise;
    float size = 60;                  // diameter
    float hardness = 0.3f;            // 0 soft all through, 1 full up to the rim
    float flow = 0.3f;                // of one dab, 0…1
    float spacing = 0.12f;            // from dab to dab, in sizes
    float height = 4;                 // what a dab of full flow raises or lowers
    float ceiling = 0;                // heights painted stay within ± this; 0: no ceiling
    PatternSource pattern{};          // what `pattern` brings up
    Color color = rgb(11, 34, 51);    // of the ink
    std::shared_ptr<const Tip> tip{}; // what a dab covers; null: round
    float turns = 0;                  // how far dabs are turned by chance: 1 all round
    float scatter = 0;                // how far they fall beside the stroke, in sizes
    int seed = 1;

    static constexpr std::string_view id = "brush", name = "Brush", help = "What the hand does to the relief";
    static const std::array<Parameter, 9> parameters;
};

/// The relief that is painted upon, without what is painted, at a px of the painting; for brushes that look.
using Ground = std::function<float(int x, int y)>;

/// The share that a dab gives at a distance from its middle, both in radii: 1 up to `hardness`, then a smooth
/// step.
float falloff(float distance, float hardness);

/// One press of the brush at a place, in painting px. `strength`: the pen's pressure, 0…1. `target`: the
/// height that `level` draws to. `turn`: of its tip, degrees. Returns the px it may have changed. Its cost
/// depends on the brush alone. Ink is laid over ink (source over, in linear light).
Region dab(Painting& painting, const Brush& brush, Vec2 at, float strength, const Ground& ground,
           float target, float turn = 0);

/// A stroke: dabs set evenly along the way of the hand, mirrored about axes if wanted.
class BrushStroke {
  public:
    struct Mirrors {
        std::optional<double> x, y; // painting px: vertical axis at x, horizontal axis at y
    };
    BrushStroke(Painting painting, Brush brush, Ground ground, Mirrors mirrors = {})
        : painting_(std::move(painting)), brush_(std::move(brush)), ground_(std::move(ground)),
          mirrors_(mirrors) {}

    /// Goes on to a place (the first call begins there); returns the px that changed.
    std::vector<Region> to(Vec2 at, float pressure);
    const Painting& painting() const { return painting_; }

  private:
    void press(Vec2 at, float pressure, std::vector<Region>& changed);
    Painting painting_;
    Brush brush_;
    Ground ground_;
    Mirrors mirrors_;
    std::optional<Vec2> last_;
    float last_pressure_ = 1;
    std::optional<Vec2> pressed_; // where the last dab fell
    double due_ = 0;              // way left to the next dab
    std::optional<float> target_; // the height first touched
    int dabs_ = 0;
};

} // namespace bathylux
