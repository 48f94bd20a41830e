// Clips whose frames a test draws itself, so that what they show is known.
#pragma once

#include "core/media/frame_writer.h"
#include "support/clips.h"

#include <functional>

namespace yarngap::test {

/// Writes frames 0 to `frames` − 1 without loss at 24 fps into the clip of that name; its path.
inline QString drawnClip(const Clips& clips, const QString& name, int frames,
                         const std::function<Image(int)>& frameAt) {
    QString target = clips.path(name);
    const Image first = frameAt(0);
    const auto writer = openWriter({.target = target.toStdString(),
                                    .rate = Rate(24, 1),
                                    .width = first.width(),
                                    .height = first.height(),
                                    .layout = first.layout()});
    for (int n = 0; n < frames; ++n)
        writer->write(frameAt(n));
    writer->finish();
    return target;
}

} // namespace yarngap::test
