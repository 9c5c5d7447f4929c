#include "core/render/budget.h"

namespace bathylux {

std::shared_ptr<const void> Budget::find(std::uint64_t key) {
    const std::lock_guard lock(mutex_);
    const auto found = index_.find(key);
    if (found == index_.end()) return nullptr;
    ++there_;
    auto& used = shelves_[found->second->shelf].used;
    used.splice(used.begin(), used, found->second);
    return found->second->kept.what;
}

bool Budget::has(std::uint64_t key) const {
    const std::lock_guard lock(mutex_);
    return index_.contains(key);
}

std::size_t Budget::bytes() const {
    const std::lock_guard lock(mutex_);
    return shelves_[0].bytes + shelves_[1].bytes;
}

/// Takes what was used longest ago off a shelf.
void Budget::let_go(Shelf& shelf, std::list<Entry>& gone) {
    shelf.bytes -= shelf.used.back().kept.bytes;
    index_.erase(shelf.used.back().key);
    gone.splice(gone.begin(), shelf.used, std::prev(shelf.used.end()));
}

void Budget::keep(std::uint64_t key, Kept what, Lasts lasts) {
    auto& [results, lasting] = shelves_;
    const std::size_t most = lasts == Lasts::lasting ? limit_ / 2 : limit_;
    if (what.bytes > most) return;
    // What goes is let go of outside the lock: handing back planes takes a while.
    std::list<Entry> gone;
    const std::lock_guard lock(mutex_);
    if (index_.contains(key)) return;
    ++made_;
    const auto i = static_cast<std::size_t>(lasts);
    Shelf& shelf = shelves_[i];
    shelf.bytes += what.bytes;
    shelf.used.push_front({key, std::move(what), i});
    index_[key] = shelf.used.begin();
    while (lasting.bytes > limit_ / 2) let_go(lasting, gone);
    while (results.bytes + lasting.bytes > limit_) let_go(results.used.empty() ? lasting : results, gone);
}

std::shared_ptr<const void> Budget::kept(std::uint64_t key, const std::function<Kept()>& make) {
    if (auto found = find(key)) return found;
    Kept made = make();
    auto what = made.what;
    keep(key, std::move(made));
    return what;
}

} // namespace bathylux
