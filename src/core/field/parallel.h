#pragma once
#include <cstddef>
#include <functional>
#include <stop_token>

namespace bathylux {

/// Calls `row(y)` for every y in [begin, end), on all threads of the current arena, in no order. What a row
/// throws is thrown here; Cancelled when the work is asked to stop (see Stoppable).
void parallel_rows(int begin, int end, const std::function<void(int)>& row);

/// Calls `block(begin, end)` over consecutive blocks of at most `grain` rows, likewise. For kernels that
/// keep scratch memory or state from row to row.
void parallel_blocks(int begin, int end, int grain, const std::function<void(int, int)>& block);

/// Copies bytes, many of them on all threads. Takes on no other work meanwhile and does not stop halfway, so
/// that it may be done under a lock.
void parallel_copy(const void* from, std::size_t bytes, void* to);

/// While it lives, what this thread computes, with all that runs for it on others, ends with Cancelled soon
/// after `stop` is asked to stop. Whether it is asked changes no value: like an exception it stands beside
/// what is computed, and is no argument of every function. Where there are several, the innermost counts.
class Stoppable {
  public:
    explicit Stoppable(std::stop_token stop);
    ~Stoppable();
    Stoppable(const Stoppable&) = delete;
    Stoppable& operator=(const Stoppable&) = delete;

  private:
    std::stop_token stop_;
    const std::stop_token* before_;
};

/// Throws Cancelled where this thread's work has been asked to stop. Parallel loops look by themselves; those
/// that go on for more than some 10 ms by themselves ask here now and then.
void stop_here();

} // namespace bathylux
