#pragma once
#include <array>
#include <atomic>
#include <list>
#include <mutex>
#include <unordered_map>

#include "core/step/bundle.h"

namespace bathylux {

/// How soon what is kept goes: results of operations first; what is lasting (pictures of frames that will be
/// played again) only to make room for its like, and it never has more than half of the bytes.
enum class Lasts { result, lasting };

/// What was computed, kept by the hash of all it depends on, up to a number of bytes; what was used longest
/// ago goes first. One for all that keeps something: results, pictures of clips, frames kept ready. 0 keeps
/// nothing. May be used from several threads.
class Budget : public Memo {
  public:
    explicit Budget(std::size_t bytes) : limit_(bytes) {}
    std::shared_ptr<const void> kept(std::uint64_t key, const std::function<Kept()>& make) override;
    std::shared_ptr<const void> find(std::uint64_t key);
    /// Whether it is there; looking does not make it newer.
    bool has(std::uint64_t key) const;
    void keep(std::uint64_t key, Kept what, Lasts lasts = Lasts::result);
    std::size_t limit() const { return limit_; }
    std::size_t bytes() const;
    /// How many results were made so far, and how often one that was asked for was there.
    std::pair<long long, long long> counts() const { return {made_, there_}; }

  private:
    struct Entry {
        std::uint64_t key;
        Kept kept;
        std::size_t shelf;
    };
    struct Shelf {
        std::list<Entry> used; // most recently used first
        std::size_t bytes = 0;
    };
    void let_go(Shelf& shelf, std::list<Entry>& gone);
    mutable std::mutex mutex_;
    std::size_t limit_;
    std::atomic<long long> made_ = 0, there_ = 0;
    std::array<Shelf, 2> shelves_; // by Lasts
    std::unordered_map<std::uint64_t, std::list<Entry>::iterator> index_;
};

} // namespace bathylux
