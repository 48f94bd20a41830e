// What the media libraries print of their own accord.
#pragma once

namespace yarngap {

/// Keeps FFmpeg from printing to standard error. Called once by each program at its start; what matters
/// reaches the editor as an Error or a remark.
void silenceMediaLibraries();

} // namespace yarngap
