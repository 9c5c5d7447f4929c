#include "core/render/heap.h"

#include <cstdlib>

#ifdef __GLIBC__
#include <malloc.h>
#endif

namespace bathylux {

namespace {

void big_from(int bytes) {
#ifdef __GLIBC__
    mallopt(M_MMAP_THRESHOLD, bytes); // set once, it no longer grows with what is freed
#else
    static_cast<void>(bytes);
#endif
}

} // namespace

void give_back_memory() {
#ifdef __GLIBC__
    malloc_trim(0);
#endif
}

NoHoles::NoHoles() { big_from(128 << 10); }

NoHoles::~NoHoles() {
    big_from(32 << 20); // what it grows to at most by itself
    give_back_memory();
}

} // namespace bathylux
