// Renders that go on while the editor works.
#pragma once

#include "app/document/background_tasks.h"
#include "app/document/farm_watch.h"
#include "core/inspection/known_media.h"
#include "core/project/queue_file.h"
#include "core/render/render_job.h"
#include "core/render/render_work.h"

#include <QLockFile>
#include <QObject>
#include <QString>

#include <atomic>
#include <cstdint>
#include <memory>
#include <optional>
#include <set>
#include <stop_token>
#include <thread>
#include <vector>

namespace yarngap::app {

/// The queue of renders: one runs at a time, in the background, the others wait.
///
/// Those that take long are made in parts beside their result (see slice_folder.h): paused, cut off by a
/// crash or stopped by a full disk they go on from there. With a file to keep it in, the queue outlives the
/// program.
class RenderController : public QObject {
    Q_OBJECT
  public:
    explicit RenderController(QObject* parent = nullptr);
    ~RenderController() override;
    RenderController(const RenderController&) = delete;
    RenderController& operator=(const RenderController&) = delete;
    RenderController(RenderController&&) = delete;
    RenderController& operator=(RenderController&&) = delete;

    /// What frames are made with.
    void setMeans(const WorkMeans& means) { means_ = means; }
    /// Reads the queue that was kept in `file`, in the background, and keeps this one there from now on. What
    /// ran when the program ended is paused.
    /// While another program keeps its queue there, nothing is read or kept.
    void keepIn(const QString& file);

    [[nodiscard]] const std::vector<QueuedRender>& queue() const { return queue_; }
    [[nodiscard]] const QueuedRender* find(std::int64_t number) const;
    /// Files that renders which are not over are going to write.
    [[nodiscard]] std::set<std::filesystem::path> filesToCome() const;

    /// Puts a render behind all others; it begins when they are over, or at once on the farm. Its number.
    std::int64_t add(RenderWork work, bool onFarm = false);
    void cancel(std::int64_t number); ///< parts that are finished go
    void pause(std::int64_t number);  ///< they stay
    void goOn(std::int64_t number);   ///< after a pause, a failure or a cancel
    void remove(std::int64_t number); ///< one that does not run
    /// Moves a waiting one by so many places.
    void move(std::int64_t number, int by);
    void removeOver(); ///< all that are over

    /// Those that a cluster makes.
    [[nodiscard]] FarmWatch& farm() { return farm_; }

    /// Whether one runs here, and which.
    [[nodiscard]] bool running() const { return running_.has_value(); }
    [[nodiscard]] std::optional<std::int64_t> runningNumber() const { return running_; }
    [[nodiscard]] const RenderProgress& progress() const { return progress_; }
    /// Frames in a second, of those made lately; 0 while unknown.
    [[nodiscard]] double framesPerSecond() const { return framesPerSecond_; }
    /// Name of the one that runs or ran last.
    [[nodiscard]] const QString& shotName() const { return shotName_; }
    /// How the last one ended: a sentence, empty before the first.
    [[nodiscard]] const QString& outcome() const { return outcome_; }
    [[nodiscard]] bool failed() const { return failed_; }
    [[nodiscard]] const std::optional<RenderReport>& report() const { return report_; }
    /// Whether frames of the last result stand in for source frames that cannot be decoded.
    [[nodiscard]] bool hasStandIns() const { return report_ && report_->standIns > 0; }
    void cancel(); ///< the one that runs
    /// Forgets how the last one ended, once it no longer describes the shot.
    void forgetOutcome();

  Q_SIGNALS:
    void changed();
    void notKept();      ///< another program keeps its queue in the file
    void queueChanged(); ///< its entries, not their progress
    void finished();     ///< one is done, failed, paused or cancelled; see outcome

  private:
    enum class Ending { done, failed, cancelled };

    [[nodiscard]] QueuedRender* entry(std::int64_t number);
    void startNext();
    void run(std::int64_t number, const RenderWork& work, const std::stop_token& stop);
    void showProgress(std::int64_t number, const RenderProgress& progress);
    void end(std::int64_t number, Ending ending, const QString& outcome,
             const std::optional<RenderReport>& report);
    void endOnFarm(std::int64_t number, FarmWatch::Ending ending, const QString& words);
    void changeQueue();
    void tellDesktop(const QString& outcome) const;

    WorkMeans means_;
    std::vector<QueuedRender> queue_;
    std::int64_t nextNumber_ = 1;
    std::optional<std::int64_t> running_;
    std::atomic<bool> pausing_ = false; ///< the one that runs is to be paused, not cancelled
    bool failed_ = false;
    RenderProgress progress_;
    double framesPerSecond_ = 0;
    double firstSeconds_ = 0; ///< when counting of frames per second began
    std::int64_t firstDone_ = 0;
    QString shotName_;
    QString outcome_;
    std::optional<RenderReport> report_;
    QString file_; ///< empty: the queue is not kept
    std::shared_ptr<QLockFile>
        lock_; ///< held while the queue is kept; another window keeps its own for itself
    std::jthread thread_;
    FarmWatch farm_;
    BackgroundTasks keeping_; ///< last: ends before what it tells
};

} // namespace yarngap::app
