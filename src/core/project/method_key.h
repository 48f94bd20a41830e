// How a method is written in files. Internal to project/.
#pragma once

#include "core/time/frame_plan.h"

namespace yarngap {

/// "sample", "blend" or "flow", as parseMethod() reads them.
inline const char* key(Method method) {
    switch (method) {
    case Method::sample:
        return "sample";
    case Method::blend:
        return "blend";
    case Method::flow:
        return "flow";
    }
    return "";
}

} // namespace yarngap
