#include "core/allocation.h"

#include <cstdlib> // says whose library it is

#ifdef __GLIBC__
#include <malloc.h>
#endif

namespace yarngap {

void reuseFreedMemory() {
#ifdef __GLIBC__
    constexpr int arenas = 2; // one would make threads wait for each other
    ::mallopt(M_ARENA_MAX, arenas);
    constexpr int kept = 64 << 20;       // bytes at the end of an arena
    constexpr int fromArenas = 32 << 20; // bytes up to which blocks come from one: the most there may be
    ::mallopt(M_TRIM_THRESHOLD, kept);
    ::mallopt(M_MMAP_THRESHOLD, fromArenas);
#endif
}

} // namespace yarngap
