// Doubt of the shots that are not on screen, looked for when there is nothing else to do.
#pragma once

#include "app/document/background_tasks.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/inspection/shot_findings.h"
#include "core/mending/known_doubts.h"
#include "core/shot/ready_shot.h"
#endif

#include <QObject>

#include <map>
#include <memory>
#include <stop_token>
#include <vector>

namespace yarngap::app {

/// A shot whose media is ready and measured.
struct OtherShot {
    int place = 0; ///< in the project
    Shot shot;
    std::shared_ptr<const MediaIndex> index;
    std::shared_ptr<const ShotFindings> findings;

    friend bool operator==(const OtherShot&, const OtherShot&) = default;
};

/// Counts the open doubtful gaps of shots, one shot after the other, with what was kept of them on disk.
class OtherDoubts : public QObject {
    Q_OBJECT
  public:
    explicit OtherDoubts(QObject* parent = nullptr);
    ~OtherDoubts() override;
    OtherDoubts(const OtherDoubts&) = delete;
    OtherDoubts& operator=(const OtherDoubts&) = delete;
    OtherDoubts(OtherDoubts&&) = delete;
    OtherDoubts& operator=(OtherDoubts&&) = delete;

    /// Looks at these; those that were looked at before are not looked at again.
    void look(const std::vector<OtherShot>& shots, double limit);
    /// Stops; what was seen is kept.
    void pause();
    /// Open gaps by the shot's place in the project, of shots that were looked through.
    [[nodiscard]] const std::map<int, int>& open() const { return open_; }

  Q_SIGNALS:
    void changed();

  private:
    std::vector<OtherShot> shots_;
    double limit_ = 0;
    bool isLooking_ = false;
    std::map<int, int> open_;
    std::shared_ptr<KnownDoubts> known_; ///< null where nothing is kept
    std::stop_source looking_;
    BackgroundTasks tasks_; ///< last: it stops before the rest goes
};

} // namespace yarngap::app
