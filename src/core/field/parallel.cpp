#include "core/field/parallel.h"

#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

#include <algorithm>
#include <cstring>
#include <utility>

#include "core/error.h"

namespace bathylux {

namespace {

thread_local const std::stop_token* asked = nullptr; // of the work this thread is at

/// Does on a thread what another one asked for: it stops when that one's work does. A thread that waits for
/// its own blocks may be lent to somebody else's, so what was asked before comes back afterwards.
class OnBehalfOf {
  public:
    explicit OnBehalfOf(const std::stop_token* stop) : before_(std::exchange(asked, stop)) {}
    ~OnBehalfOf() { asked = before_; }
    OnBehalfOf(const OnBehalfOf&) = delete;
    OnBehalfOf& operator=(const OnBehalfOf&) = delete;

  private:
    const std::stop_token* before_;
};

} // namespace

Stoppable::Stoppable(std::stop_token stop) : stop_(std::move(stop)), before_(std::exchange(asked, &stop_)) {}
Stoppable::~Stoppable() { asked = before_; }

void stop_here() {
    if (asked && asked->stop_requested()) throw Cancelled();
}

void parallel_blocks(int begin, int end, int grain, const std::function<void(int, int)>& block) {
    if (end <= begin) return;
    const int blocks = (end - begin + grain - 1) / grain;
    const auto run = [&](int i) {
        stop_here();
        block(begin + i * grain, std::min(end, begin + (i + 1) * grain));
    };
    if (blocks == 1) return run(0);
    tbb::parallel_for(0, blocks, [&run, stop = asked](int i) {
        const OnBehalfOf whom(stop);
        run(i);
    });
}

void parallel_rows(int begin, int end, const std::function<void(int)>& row) {
    // Sixteen rows of a full-HD picture are about 100 kB: small enough to balance, large enough to pay.
    parallel_blocks(begin, end, 16, [&](int y0, int y1) {
        for (int y = y0; y < y1; ++y) row(y);
    });
}

void parallel_copy(const void* from, std::size_t bytes, void* to) {
    constexpr std::size_t piece = 256 << 10;
    const auto copy = [&](std::size_t begin) {
        std::memcpy(static_cast<char*>(to) + begin, static_cast<const char*>(from) + begin,
                    std::min(piece, bytes - begin));
    };
    const std::size_t pieces = (bytes + piece - 1) / piece;
    if (pieces <= 2) {
        for (std::size_t i = 0; i < pieces; ++i) copy(i * piece);
        return;
    }
    tbb::this_task_arena::isolate(
        [&] { tbb::parallel_for(std::size_t{0}, pieces, [&](std::size_t i) { copy(i * piece); }); });
}

} // namespace bathylux
