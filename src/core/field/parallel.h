#pragma once
#include <functional>
#include <stop_token>

namespace bathylux {

/// Calls `row(y)` for every y in [begin, end), on all threads of the current arena, in no order.
/// Throws Cancelled when `stop` is asked to stop before the end.
void parallel_rows(int begin, int end, const std::function<void(int)>& row, std::stop_token stop = {});

/// Calls `block(begin, end)` over consecutive blocks of at most `grain` rows, likewise. For kernels that
/// keep scratch memory or state from row to row.
void parallel_blocks(int begin, int end, int grain, const std::function<void(int, int)>& block,
                     std::stop_token stop = {});

} // namespace bathylux
