#include "core/allocation.h"

#ifdef __GLIBC__
#include <malloc.h>
#endif

namespace yarngap {

void shareFreedMemory() {
#ifdef __GLIBC__
    constexpr int arenas = 2; // one would make threads wait for each other
    ::mallopt(M_ARENA_MAX, arenas);
#endif
}

} // namespace yarngap
