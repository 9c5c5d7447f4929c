#include "core/field/plane_memory.h"

#include <cstdlib>
#include <map>
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
#ifdef __SANITIZE_ADDRESS__
constexpr std::size_t small = huge_page; // what is read past its end is to be seen
#else
constexpr std::size_t small = std::size_t{128} << 10; // below that the C library has pages of its own
#endif

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

/// Blocks smaller than a huge page, one behind the other in a few of them.
class Slabs {
  public:
    float* take(std::size_t size) {
        if (!open_ || used_ + size > slab) {
            open_ = allocated(slab);
            used_ = 0;
            blocks_[open_] = 0;
        }
        ++blocks_[open_];
        float* const p = open_ + used_ / sizeof(float);
        used_ += size;
        return p;
    }
    void give(float* p) {
        const auto of = std::prev(blocks_.upper_bound(p));
        if (--of->second > 0) return;
        if (of->first == open_) {
            used_ = 0;
        } else {
            std::free(of->first);
            blocks_.erase(of);
        }
    }

  private:
    static constexpr std::size_t slab = 4 * huge_page;
    std::map<float*, int> blocks_; // how many are in use of each
    float* open_ = nullptr;        // the one that blocks are taken from
    std::size_t used_ = 0;         // of that
};

/// Fresh memory costs a page fault every 4 KiB, which is as much as a whole Gaussian; planes come and go in a
/// few sizes, so most are taken from what was let go.
class Reserve {
  public:
    float* take(std::size_t size) {
        if (size < small) return allocated(size);
        {
            const std::lock_guard lock(mutex_);
            for (auto k = spare_.rbegin(); k != spare_.rend(); ++k)
                if (k->first == size) {
                    float* p = k->second;
                    spare_.erase(std::next(k).base());
                    bytes_ -= size;
                    return p;
                }
            if (size < huge_page) return slabs_.take(size);
        }
        return size < large ? allocated(size) : take_large(size);
    }

    void give(float* p, std::size_t size) {
        if (size >= large) return give_large(p, size);
        if (size < small || size > most_bytes / 2) return std::free(p);
        const std::lock_guard lock(mutex_);
        spare_.insert(spare_.end(), Spare{size, p});
        bytes_ += size;
        while (bytes_ > most_bytes) {
            const auto [gone, oldest] = spare_.front();
            spare_.erase(spare_.begin());
            bytes_ -= gone;
            if (gone < huge_page)
                slabs_.give(oldest);
            else
                std::free(oldest);
        }
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
    Slabs slabs_;
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
