// Threads of long work that let the window go first.
#pragma once

namespace yarngap {

/// Lowers the priority of the calling thread, and of threads it starts from now on.
void yieldToInterface();

} // namespace yarngap
