// What the program says to its caller when it ends.
#pragma once

namespace yarngap::cli {

enum ExitStatus {
    done = 0,
    failed = 1,
    wrongUsage = 2,
    undecodable = 3,  ///< a source frame cannot be decoded, so nothing was written
    withStandIns = 4, ///< written, but other frames stand in for source frames that cannot be decoded
    cancelled = 130
};

} // namespace yarngap::cli
