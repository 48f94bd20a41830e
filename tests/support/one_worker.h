// Included by all test support: under ThreadSanitizer, parallel loops run on their calling thread.
#pragma once

#ifdef __SANITIZE_THREAD__
#include <tbb/global_control.h>

namespace yarngap::test {

// Debian's oneTBB is not built for ThreadSanitizer, which would report every loop body as a race. Our own
// threads stay as many as they are.
inline const tbb::global_control oneWorker(tbb::global_control::max_allowed_parallelism, 1);

} // namespace yarngap::test
#endif
