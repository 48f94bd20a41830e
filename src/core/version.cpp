#include "core/version.h"

namespace yarngap {

std::string_view version() {
    return YARNGAP_VERSION;
}

} // namespace yarngap
