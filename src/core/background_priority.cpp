#include "core/background_priority.h"

#include <tbb/task_arena.h>

#include <sys/resource.h>
#include <sys/syscall.h>
#include <unistd.h>

namespace yarngap {

void yieldToInterface() {
    // On Linux a priority belongs to a thread, though the call is named after processes.
    ::setpriority(PRIO_PROCESS, static_cast<id_t>(::syscall(SYS_gettid)), 10);
}

void withoutHelpers(const std::function<void()>& work) {
    tbb::task_arena alone(1);
    alone.execute(work);
}

} // namespace yarngap
