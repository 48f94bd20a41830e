#include "core/background_priority.h"

#include <sys/resource.h>
#include <sys/syscall.h>
#include <unistd.h>

namespace yarngap {

void yieldToInterface() {
    // On Linux a priority belongs to a thread, though the call is named after processes.
    ::setpriority(PRIO_PROCESS, static_cast<id_t>(::syscall(SYS_gettid)), 10);
}

} // namespace yarngap
