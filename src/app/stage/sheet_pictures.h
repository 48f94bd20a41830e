// Pictures of source frames for the source sheet, read and made in the background.
#pragma once

#include "app/document/background_tasks.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/media/lru_cache.h"
#include "core/shot/ready_shot.h"
#endif

#include <QImage>
#include <QObject>

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace yarngap::app {

/// A source frame before or after the cleanup, small for a page or large for a close look.
struct SheetPicture {
    std::int64_t frame = 0; ///< counted before the cleanup
    bool after = false;
    bool large = false;
};

/// Read one after the other; what is kept is told by what a picture shows, so that nothing old is shown after
/// a decision. Interface thread only.
class SheetPictures : public QObject {
    Q_OBJECT
  public:
    static constexpr int smallWidth = 256;
    static constexpr int largeWidth = 1600;
    static constexpr std::size_t pictureBytes = std::size_t{96} << 20;

    explicit SheetPictures(QObject* parent = nullptr)
        : QObject(parent) {}
    ~SheetPictures() override;
    SheetPictures(const SheetPictures&) = delete;
    SheetPictures& operator=(const SheetPictures&) = delete;
    SheetPictures(SheetPictures&&) = delete;
    SheetPictures& operator=(SheetPictures&&) = delete;

    /// The frames of a shot; without frames: none.
    void setFootage(const Footage& footage);
    /// Width over height on the screen.
    [[nodiscard]] double aspect() const { return aspect_; }
    /// Null until it is there.
    [[nodiscard]] QImage picture(const SheetPicture& which);
    /// Why it cannot be shown; empty while nothing is known against it.
    [[nodiscard]] QString troubleOf(const SheetPicture& which);
    /// What to read next, in this order, instead of what was wanted before.
    void want(std::vector<SheetPicture> pictures);

  Q_SIGNALS:
    void ready();

  private:
    struct Made {
        QImage image;
        QString trouble;
    };
    struct Place {
        std::shared_ptr<ShotFrames> frames;
        std::int64_t number = 0;
        std::string key;
    };
    [[nodiscard]] std::optional<Place> placeOf(const SheetPicture& which) const;
    void readNext();
    void stopReading();

    Footage footage_;
    double aspect_ = 16.0 / 9;
    LruCache<std::string, Made> pictures_{pictureBytes};
    std::vector<SheetPicture> wanted_;
    bool reading_ = false;
    std::string running_; ///< key of what is being read
    std::stop_source stop_;
    BackgroundTasks tasks_; // last: it stops before the rest goes
};

} // namespace yarngap::app
