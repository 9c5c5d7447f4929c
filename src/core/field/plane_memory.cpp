#include "core/field/plane_memory.h"

#include <cstdlib>
#include <mutex>
#include <new>
#include <set>
#include <string>
#include <vector>

#include <fcntl.h>
#include <sys/mman.h>
#include <unistd.h>

#include "core/field/machine_memory.h"

namespace bathylux::plane_memory {

namespace {

constexpr std::size_t line = 64; // of the cache

/// Memory in a file of that size; null where there is no room for it. It is allotted at once, so that a disk
/// that is full later ends nothing.
float* mapped(std::size_t size) {
    // Not in /tmp, which is itself memory on many machines.
    std::string path = "/var/tmp/bathylux-XXXXXX";
    const int file = mkostemp(path.data(), O_CLOEXEC);
    if (file < 0) return nullptr;
    unlink(path.c_str());
    void* const p = posix_fallocate(file, 0, static_cast<off_t>(size)) == 0
                        ? mmap(nullptr, size, PROT_READ | PROT_WRITE, MAP_SHARED, file, 0)
                        : MAP_FAILED;
    close(file);
    return p == MAP_FAILED ? nullptr : static_cast<float*>(p);
}

float* allocated(std::size_t size) {
    const bool pages = size >= huge_page;
    auto* p = static_cast<float*>(std::aligned_alloc(pages ? huge_page : line, size));
    if (!p) throw std::bad_alloc();
    if (pages) madvise(p, size, MADV_HUGEPAGE);
    return p;
}

/// Fresh memory costs a page fault every 4 KiB, which is as much as a whole Gaussian; planes come and go in a
/// few sizes, so most are taken from what was let go.
class Reserve {
  public:
    float* take(std::size_t size) {
        {
            const std::lock_guard lock(mutex_);
            for (auto k = spare_.rbegin(); k != spare_.rend(); ++k)
                if (k->first == size) {
                    float* p = k->second;
                    spare_.erase(std::next(k).base());
                    bytes_ -= size;
                    return p;
                }
        }
        return size < large ? allocated(size) : take_large(size);
    }

    void give(float* p, std::size_t size) {
        if (size >= large) return give_large(p, size);
        if (size < huge_page || size > most_bytes / 2) return std::free(p);
        std::vector<float*> gone;
        {
            const std::lock_guard lock(mutex_);
            spare_.insert(spare_.end(), Spare{size, p});
            bytes_ += size;
            while (bytes_ > most_bytes) {
                bytes_ -= spare_.front().first;
                gone.push_back(spare_.front().second);
                spare_.erase(spare_.begin());
            }
        }
        for (float* g : gone) std::free(g);
    }

    void keep(std::size_t bytes) {
        const std::lock_guard lock(mutex_);
        kept_ = bytes;
    }
    std::size_t kept() {
        const std::lock_guard lock(mutex_);
        return kept_;
    }

  private:
    float* take_large(std::size_t size) {
        const bool room = [&] {
            const std::lock_guard lock(mutex_);
            return in_memory_ + size <= kept_;
        }();
        float* const in_file = room ? nullptr : mapped(size);
        float* const p = in_file ? in_file : allocated(size);
        const std::lock_guard lock(mutex_);
        if (in_file)
            mapped_.insert(p);
        else
            in_memory_ += size;
        return p;
    }

    void give_large(float* p, std::size_t size) {
        {
            const std::lock_guard lock(mutex_);
            if (mapped_.erase(p) == 0) {
                in_memory_ -= size;
                std::free(p);
                return;
            }
        }
        munmap(p, size);
    }

    static constexpr std::size_t most_bytes = 96u << 20;
    std::mutex mutex_;
    using Spare = std::pair<std::size_t, float*>; // bytes, memory
    std::vector<Spare> spare_;                    // oldest first
    std::size_t bytes_ = 0;
    std::set<float*> mapped_; // large ones that lie in files
    std::size_t in_memory_ = 0, kept_ = machine_memory() / 2;
};

Reserve& reserve() {
    static Reserve* const r = new Reserve; // outlives every plane, whichever static holds it
    return *r;
}

} // namespace

float* take(std::size_t size) { return reserve().take(size); }
void give(float* p, std::size_t size) { reserve().give(p, size); }
void keep_in_memory(std::size_t bytes) { reserve().keep(bytes); }
std::size_t kept_in_memory() { return reserve().kept(); }

} // namespace bathylux::plane_memory
