// The media behind the shots, opened in the background.
#pragma once

#include "app/document/background_tasks.h"
#include "core/image/rgb_picture.h"
#include "core/inspection/known_media.h"
#include "core/media/frame_source.h"

#include <QFileSystemWatcher>
#include <QHash>
#include <QImage>
#include <QObject>

#include <memory>

namespace yarngap::app {

/// What is known of a media file by now.
struct MediaState {
    enum class Stage { opening, indexing, ready, failed };
    Stage stage = Stage::opening;
    MediaFacts facts;                        ///< the file's claims while indexing, complete when ready
    QImage thumbnail;                        ///< first picture, small; null until decoded
    QImage firstPicture;                     ///< first picture for showing at once, at most 1280 wide
    double progress = 0;                     ///< of indexing
    QString trouble;                         ///< sentence when failed
    bool isMissing = false;                  ///< it failed because there is no such file
    std::shared_ptr<const MediaIndex> index; ///< when ready
    double measured = -1;                    ///< share of the pictures measured, below 0 before that began
    std::shared_ptr<const ShotFindings> findings; ///< once all are
    /// Some time after the findings; of the frames as the findings propose to take them.
    std::shared_ptr<const Suitability> suitability;
};

/// Opens each file once: the preferred one first, then the first pictures of all, then their indices, so that
/// something is on screen at once. A file that is missing is opened when it comes.
class MediaLibrary : public QObject {
    Q_OBJECT
  public:
    explicit MediaLibrary(QObject* parent = nullptr);

    /// Starts opening `path` unless that was done; see `changed`.
    void open(const std::filesystem::path& path);
    /// Opens `path` as if for the first time, since it changed.
    void openAgain(const std::filesystem::path& path);
    /// Opens and measures `path` before the others.
    void prefer(const std::filesystem::path& path);
    /// Starts measuring the pictures of `path`, which is ready, unless that was done.
    void measure(const std::filesystem::path& path);
    /// What is known of media, for work on other threads.
    [[nodiscard]] const std::shared_ptr<const KnownMedia>& known() const { return known_; }
    [[nodiscard]] const MediaState& state(const std::filesystem::path& path) const;

  Q_SIGNALS:
    void changed(const QString& path);

  private:
    void openFirstPicture(const QString& path, const std::stop_token& stop);
    template <typename Change>
    void update(const QString& path, Change change);
    /// Opens `path`, which could not be opened, again once its folder has changed and it is there.
    void watchFor(const QString& path);
    void lookAgainIn(const QString& folder);

    std::shared_ptr<const KnownMedia> known_;
    QFileSystemWatcher folders_; ///< of missing files
    QHash<QString, MediaState> states_;
    BackgroundTasks measuring_; // apart, since it takes long and nothing waits for it
    BackgroundTasks tasks_;     // last: both stop before the states go
};

/// A screen picture as QImage.
QImage toQImage(const RgbPicture& picture);

} // namespace yarngap::app
