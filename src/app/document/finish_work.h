// What a finish needs to know of the pictures, found out in the background.
#pragma once

#include "app/document/background_tasks.h"
#include "core/finish/follow_point.h"
#include "core/finish/measured_finish.h"
#include "core/shot/ready_shot.h"

#include <QObject>
#include <QString>

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <stop_token>

namespace yarngap::app {

/// One search at a time; a new one ends the one before. Answers come on the interface thread, and none comes
/// for another shot than the one that is set.
class FinishWork : public QObject {
    Q_OBJECT
  public:
    /// What is looked at.
    struct Subject {
        std::shared_ptr<ShotFrames> source; ///< null: nothing
        std::shared_ptr<VectorStore> vectors;
        std::vector<std::int64_t> cuts;
        OutputFramesPtr unfinished;
        std::int64_t first = 0, last = 0; ///< source frames of the trim
    };
    explicit FinishWork(QObject* parent = nullptr)
        : QObject(parent) {}
    ~FinishWork() override { cancel(); }
    FinishWork(const FinishWork&) = delete;
    FinishWork& operator=(const FinishWork&) = delete;
    FinishWork(FinishWork&&) = delete;
    FinishWork& operator=(FinishWork&&) = delete;

    /// Of other source frames than before, the search under way ends.
    void setSubject(Subject subject);
    [[nodiscard]] const Subject& subject() const { return subject_; }

    void follow(const FollowOptions& options, std::function<void(const FollowReport&)> answer);
    void measureCamera(std::function<void(const CameraPath&)> answer);
    void measureGrain(std::function<void(const GrainLook&)> answer);
    /// The direction of the camera between two source frames, in degrees.
    void measureDirection(std::int64_t first, std::int64_t last, std::function<void(double)> answer);
    void hideEdges(const Finish& finish, std::int64_t firstOutput, std::int64_t lastOutput,
                   std::function<void(const HiddenEdges&)> answer);
    void cancel();

    /// What is being looked for, in words; empty when nothing is.
    [[nodiscard]] const QString& what() const { return what_; }
    [[nodiscard]] double progress() const { return progress_; }

  Q_SIGNALS:
    void changed(); ///< something began, went on or ended
    void failed(const QString& sentence);

  private:
    template <typename Find, typename Answer>
    void start(const QString& what, Find find, Answer answer);
    void end();

    Subject subject_;
    QString what_;
    double progress_ = 0;
    std::uint64_t generation_ = 0;
    std::stop_source stop_;
    BackgroundTasks tasks_; ///< last: ended before what it answers to goes
};

} // namespace yarngap::app
