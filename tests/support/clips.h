// Clips for tests, made by the ffmpeg program, which also tells what linear decoding shows.
#pragma once

#include "core/image/image.h"
#include "core/media/frame_source.h"
#include "support/one_worker.h"

#include <QByteArray>
#include <QString>
#include <QStringList>
#include <QTemporaryDir>

#include <memory>

namespace yarngap::test {

/// A temporary folder with clips in it.
class Clips {
  public:
    /// Runs ffmpeg with `arguments` and the path of `name` at the end; the path. Fails the test loudly.
    QString make(const QString& name, const QStringList& arguments) const;
    /// `frames` moving frames of `size` ("160x120") at `rate`, coded as `coding` says.
    QString moving(const QString& name, int frames, const QStringList& coding,
                   const QString& size = QStringLiteral("160x120"),
                   const QString& rate = QStringLiteral("24"),
                   const QString& pixelFormat = QStringLiteral("yuv420p")) const;
    /// 45 frames at 25 fps of which every tenth is missing, its time left open.
    QString varying(const QString& name) const;
    [[nodiscard]] QString path(const QString& name) const { return dir_.filePath(name); }

  private:
    QTemporaryDir dir_;
};

/// All frames of a clip as ffmpeg decodes them from start to end, raw samples in its own pixel format.
QByteArray linearFrames(const QString& clip, const QString& pixelFormat);
/// The samples of a picture, rows without padding, plane after plane, as raw video has them.
QByteArray rawSamples(const Image& image);

std::shared_ptr<FrameSource> openSource(const QString& clip);

} // namespace yarngap::test
