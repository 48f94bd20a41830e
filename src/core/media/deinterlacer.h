// Deinterlacing of single frames with FFmpeg's bwdif filter.
#pragma once

#include "core/image/image.h"

namespace yarngap {

/// The progressive picture at the first or the second field of `now`, from it and the coded frames before and
/// after it (at the ends of a file, `now` itself). All of one size and layout. Throws Error when the layout
/// cannot be deinterlaced.
///
/// bwdif (Bob Weaver: motion adaptive between w3fdif's and yadif's interpolation) came out nearer to the true
/// progressive frames than w3fdif in bench_fields; see docs.
Image deinterlace(const Image& before, const Image& now, const Image& after, bool topFirst, bool second);

} // namespace yarngap
