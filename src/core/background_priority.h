// Threads of long work that let the window go first.
#pragma once

#include <functional>

namespace yarngap {

/// Lowers the priority of the calling thread, and of threads it starts from now on.
void yieldToInterface();

/// Does `work` on the calling thread alone: helpers would not have its priority.
void withoutHelpers(const std::function<void()>& work);

} // namespace yarngap
