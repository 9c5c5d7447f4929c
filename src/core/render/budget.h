#pragma once
#include <atomic>
#include <list>
#include <mutex>
#include <unordered_map>

#include "core/step/bundle.h"

namespace bathylux {

/// What was computed, kept by the hash of all it depends on, up to a number of bytes; what was used longest
/// ago goes first. 0 keeps nothing. May be used from several threads.
class Budget : public Memo {
  public:
    explicit Budget(std::size_t bytes) : limit_(bytes) {}
    std::shared_ptr<const void> kept(std::uint64_t key, const std::function<Kept()>& make) override;
    std::shared_ptr<const void> find(std::uint64_t key);
    void keep(std::uint64_t key, Kept what);
    std::size_t limit() const { return limit_; }
    /// How many results were made so far, and how often one that was asked for was there.
    std::pair<long long, long long> counts() const { return {made_, there_}; }

  private:
    struct Entry {
        std::uint64_t key;
        Kept kept;
    };
    std::mutex mutex_;
    std::size_t limit_, bytes_ = 0;
    std::atomic<long long> made_ = 0, there_ = 0;
    std::list<Entry> used_; // most recently used first
    std::unordered_map<std::uint64_t, std::list<Entry>::iterator> index_;
};

} // namespace bathylux
