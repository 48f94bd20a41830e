#include "core/media/library_messages.h"

extern "C" {
#include <libavutil/log.h>
}

#include <cstdlib>

namespace yarngap {

void silenceMediaLibraries() {
    av_log_set_level(AV_LOG_QUIET);
    ::setenv("SVT_LOG", "1", 0); // the AV1 encoder tells errors alone
}

} // namespace yarngap
