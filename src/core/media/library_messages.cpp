#include "core/media/library_messages.h"

extern "C" {
#include <libavutil/log.h>
}

namespace yarngap {

void silenceMediaLibraries() {
    av_log_set_level(AV_LOG_QUIET);
}

} // namespace yarngap
