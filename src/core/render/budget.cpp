#include "core/render/budget.h"

namespace bathylux {

std::shared_ptr<const void> Budget::find(std::uint64_t key) {
    const std::lock_guard lock(mutex_);
    const auto found = index_.find(key);
    if (found == index_.end()) return nullptr;
    ++there_;
    used_.splice(used_.begin(), used_, found->second);
    return found->second->kept.what;
}

void Budget::keep(std::uint64_t key, Kept what) {
    if (what.bytes > limit_) return;
    // What goes is let go of outside the lock: handing back planes takes a while.
    std::list<Entry> gone;
    const std::lock_guard lock(mutex_);
    if (index_.contains(key)) return;
    ++made_;
    bytes_ += what.bytes;
    used_.push_front({key, std::move(what)});
    index_[key] = used_.begin();
    while (bytes_ > limit_) {
        bytes_ -= used_.back().kept.bytes;
        index_.erase(used_.back().key);
        gone.splice(gone.begin(), used_, std::prev(used_.end()));
    }
}

std::shared_ptr<const void> Budget::kept(std::uint64_t key, const std::function<Kept()>& make) {
    if (auto found = find(key)) return found;
    Kept made = make();
    auto what = made.what;
    keep(key, std::move(made));
    return what;
}

} // namespace bathylux
