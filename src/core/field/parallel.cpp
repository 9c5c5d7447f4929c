#include "core/field/parallel.h"

#include <tbb/parallel_for.h>

#include <algorithm>

#include "core/error.h"

namespace bathylux {

void parallel_blocks(int begin, int end, int grain, const std::function<void(int, int)>& block,
                     std::stop_token stop) {
    if (end <= begin) return;
    const int blocks = (end - begin + grain - 1) / grain;
    const auto run = [&](int i) {
        if (!stop.stop_requested()) block(begin + i * grain, std::min(end, begin + (i + 1) * grain));
    };
    if (blocks == 1)
        run(0);
    else
        tbb::parallel_for(0, blocks, run);
    if (stop.stop_requested()) throw Cancelled();
}

void parallel_rows(int begin, int end, const std::function<void(int)>& row, std::stop_token stop) {
    // Sixteen rows of a full-HD picture are about 100 kB: small enough to balance, large enough to pay.
    parallel_blocks(
        begin, end, 16,
        [&](int y0, int y1) {
            for (int y = y0; y < y1; ++y) row(y);
        },
        stop);
}

} // namespace bathylux
