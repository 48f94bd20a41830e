// Small pictures of source frames, read in the background.
#pragma once

#include "app/document/background_tasks.h"
#include "core/media/lru_cache.h"
#include "core/media/shot_frames.h"

#include <QImage>
#include <QObject>

#include <cstdint>
#include <functional>
#include <memory>
#include <vector>

namespace yarngap::app {

/// Thumbnails of the current shot, read one after the other by a reader of their own, so that the picture at
/// the playhead never waits for them. Interface thread only.
class SourceThumbnails : public QObject {
    Q_OBJECT
  public:
    static constexpr int height = 72;
    static constexpr std::size_t pictureBytes = std::size_t{16} << 20;

    /// Opens the frames of a shot; called in the background.
    using Open = std::function<std::shared_ptr<ShotFrames>()>;

    explicit SourceThumbnails(QObject* parent = nullptr);

    /// Another shot, with its facts as interpreted; what was read of the one before is dropped.
    void setShot(const MediaFacts& facts, Open open);
    /// Width over height on the screen.
    [[nodiscard]] double aspect() const { return aspect_; }
    /// The picture of source frame `n`, null until it is read or when it cannot be.
    [[nodiscard]] QImage picture(std::int64_t n);
    /// The frames to read next, in this order, instead of those wanted before.
    void want(std::vector<std::int64_t> frames);

  Q_SIGNALS:
    void ready();

  private:
    void readNext();

    Open open_;
    MediaFacts facts_;
    double aspect_ = 16.0 / 9.0;
    std::shared_ptr<std::shared_ptr<ShotFrames>> frames_; // opened and used by the task that reads
    LruCache<std::int64_t, QImage> pictures_{pictureBytes};
    std::vector<std::int64_t> wanted_;
    bool reading_ = false;
    std::uint64_t shot_ = 0; // number of the present one
    BackgroundTasks tasks_;  // last: it stops before the rest goes
};

} // namespace yarngap::app
