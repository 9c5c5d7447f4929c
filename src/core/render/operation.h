#pragma once
#include <functional>
#include <limits>
#include <memory>
#include <string>
#include <vector>

#include "core/step/bundle.h"

namespace bathylux {

struct Operation;
class Evaluator;
/// Operations are shared: what several read is one.
using OperationPtr = std::shared_ptr<const Operation>;

constexpr double the_whole = std::numeric_limits<double>::infinity();

/// What has to be known of the whole canvas, though the work itself is local: the range of the height where
/// it counts at least half, or of height times weight, 0 where the element is not. Gathered once, tile by
/// tile.
enum class Statistic : std::uint8_t { none, range_where_it_counts, range_of_weighted };

/// What an operation reads of another.
struct Read {
    OperationPtr from;
    Channels always{};          // whatever is wanted of the reader
    bool what_is_wanted = true; // and whatever that is
    double reach = 0;           // device px beyond what is wanted; the_whole: all of the canvas
    bool within_canvas = false; // there is nothing beyond the canvas's edge but what that holds
    bool where_it_is = false;   // only where `from` can give something; an empty bundle elsewhere
    Statistic statistic = Statistic::none;
};

/// Under what circumstances an operation is done.
struct Work {
    Region region;                       // what is wanted, device px
    Channels wanted;                     // what else need not be made
    std::pair<float, float> range{0, 0}; // the first read's statistic
    Memo* memo = nullptr;
    Evaluator* evaluator = nullptr; // for those who know only then how much of something they read
};

/// One thing done to bundles on the canvas at one scale: a source, a step, a mask, a join, the light. It says
/// what it reads, and how far, and what it gives; who runs it decides which regions in which order.
struct Operation {
    std::uint64_t hash = 0;          // names it, with all that it reads
    std::string called{};            // for those who look at what is slow
    Channels gives = channel::all;   // with what it passes on
    Channels changes = channel::all; // where none of these is wanted, the first read stands for it
    bool outlined = false;           // its edge is an outline (Bundle::silhouette)
    Region extent{};                 // where it can give something, device px
    std::vector<Read> reads{};
    bool worth_keeping = false; // its result is kept from one evaluation to the next
    /// Costly, and read from afar: on canvases that are cut, large regions of it are put together out of
    /// tiles that are kept. Gives colour and coverage, everywhere on the canvas.
    bool in_tiles = false;
    bool straight =
        false;        // hands its first read the region and the wants it got: a long row of such is walked
    double share = 0; // how far the whole is when this is done, 0…1; 0: not told
    /// `read`: a bundle for every read, the first covering work.region and what it reaches, the others the
    /// region as they read it. The result covers work.region.
    std::function<Bundle(const Work& work, std::vector<Bundle> read)> run{};
};

/// More than any canvas: where what has no end gives something.
constexpr Region everywhere{-(1 << 24), -(1 << 24), 1 << 24, 1 << 24};

} // namespace bathylux
