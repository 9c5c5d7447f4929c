#pragma once
#include <functional>
#include <mutex>
#include <optional>
#include <unordered_map>

#include "core/render/budget.h"
#include "core/render/graph.h"

namespace bathylux {

/// How large canvases are cut: in one go up to so many px, beyond that in tiles of so many px a side.
struct Cut {
    long long whole = 4 << 20;
    int side = 1024;
    bool one(Region canvas) const { return canvas.area() <= whole; }
};
/// The tiles of a canvas that touch `region`, row by row; all of it where that is one.
std::vector<Region> tiles_of(Region canvas, Region region, Cut cut);

/// Tells how far something is, 0…1.
using Progress = std::function<void(double)>;

/// Runs operations: the one who decides which region of which is done when, and what is kept. Results depend
/// on the operation, the region and what is wanted alone, and so does nothing else. May be used from several
/// threads.
class Evaluator {
  public:
    /// `budget_bytes`: how much of what was computed is kept.
    explicit Evaluator(std::size_t budget_bytes = std::size_t{256} << 20, Cut cut = {})
        : Evaluator(std::make_shared<Budget>(budget_bytes), cut) {}
    /// Keeps it where others keep theirs.
    explicit Evaluator(std::shared_ptr<Budget> budget, Cut cut = {})
        : budget_(std::move(budget)), cut_(cut) {}

    /// What an operation gives over `region`, or over the part of it that lies within the canvas where it
    /// cannot give more. Throws Cancelled when asked to stop.
    Bundle run(const OperationPtr& operation, Region canvas, Region region, Channels wanted,
               const Progress& progress = {});

    // The same of a scene, whose operations are worked out first (see Graph).

    /// All elements joined, on the canvas's ground, over `region` (device px at `scale`, within the canvas).
    Bundle relief(const Scene& scene, Region region, double scale, const Progress& progress = {},
                  Channels wanted = channel::all);
    /// One element by itself (its source and so many steps; −1: all; not mixed), over the part of `region`
    /// where it can give something; an empty bundle where it cannot.
    Bundle element(const Scene& scene, std::string_view id, Region region, double scale, int steps = -1);
    /// What an element serves as a map, 0…1, over a region of the canvas.
    Field map(const Scene& scene, const MapRef& ref, Region region, double scale);

    Budget& budget() { return *budget_; }
    Cut cut() const { return cut_; }

  private:
    struct Run; // one question's circumstances
    Bundle evaluate(const Run& run, const Operation& op, Region region, Channels wanted);
    Bundle evaluate_one(const Run& run, const Operation& op, Region region, Channels wanted);
    Bundle gathered(const Run& run, const Operation& op, Region region, Channels wanted);
    Bundle done(const Run& run, const Operation& op, Region region, Channels wanted,
                std::optional<Bundle> first);
    Bundle read(const Run& run, const Read& read, Region region, Channels wanted);
    std::pair<float, float> statistic(const Run& run, const Read& read);
    std::shared_ptr<const Bundle> find(const Run& run, const Operation& op, Region region, Channels wanted);
    bool seen_before(const Run& run, const Operation& op);

    std::shared_ptr<Budget> budget_;
    Cut cut_;
    // Which operations earlier questions came upon: what rests below what changes is worth keeping.
    std::mutex seen_mutex_;
    std::unordered_map<std::uint64_t, std::uint64_t> seen_; // hash → number of the first question
    std::uint64_t questions_ = 0;
};

/// Names everything that the relief of a scene depends on at a scale, lights left out.
std::uint64_t relief_hash(const Scene& scene, double scale = 1);

} // namespace bathylux
