// A render that goes on while the editor works.
#pragma once

#include "core/inspection/known_media.h"
#include "core/motion/vector_store.h"
#include "core/project/project.h"
#include "core/render/render_job.h"

#include <QObject>
#include <QString>

#include <optional>
#include <stop_token>
#include <thread>
#include <vector>

namespace yarngap::app {

/// A shot as it is to be rendered.
struct RenderRequest {
    Shot shot;
    Timing timing;
    std::shared_ptr<const MediaIndex> index;
    std::shared_ptr<const SourceAxis> axis;
    /// Cuts and repeats; absent where the pictures have not been searched yet, which is then done first.
    std::optional<GapFindings> found;
    std::shared_ptr<const KnownMedia> known;
};

/// Runs one render at a time in the background.
class RenderController : public QObject {
    Q_OBJECT
  public:
    explicit RenderController(QObject* parent = nullptr)
        : QObject(parent) {}
    ~RenderController() override;
    RenderController(const RenderController&) = delete;
    RenderController& operator=(const RenderController&) = delete;
    RenderController(RenderController&&) = delete;
    RenderController& operator=(RenderController&&) = delete;

    [[nodiscard]] bool running() const { return running_; }
    [[nodiscard]] const RenderProgress& progress() const { return progress_; }
    /// Name of the shot being rendered, or what stands for several.
    [[nodiscard]] const QString& shotName() const { return shotName_; }
    /// How the last render ended: a sentence, empty before the first.
    [[nodiscard]] const QString& outcome() const { return outcome_; }
    [[nodiscard]] bool failed() const { return failed_; }
    [[nodiscard]] const std::optional<RenderReport>& report() const { return report_; }
    /// Whether frames of the last result stand in for source frames that cannot be decoded.
    [[nodiscard]] bool hasStandIns() const { return report_ && report_->standIns > 0; }

    /// Renders the shots one after the other into one file, but not onto one of `kept`.
    void start(const QString& what, std::vector<RenderRequest> shots, std::shared_ptr<VectorStore> vectors,
               std::shared_ptr<FrameFolder> finished, RenderOptions options,
               std::vector<std::filesystem::path> kept);
    void cancel();
    /// Forgets how the last render ended, once it no longer describes the shot.
    void forgetOutcome();

  Q_SIGNALS:
    void changed();
    void finished(); ///< done, failed or cancelled; see outcome

  private:
    void end(const QString& outcome, bool failed, std::optional<RenderReport> report);

    bool running_ = false;
    bool failed_ = false;
    RenderProgress progress_;
    QString shotName_;
    QString outcome_;
    std::optional<RenderReport> report_;
    std::uint64_t generation_ = 0;
    std::jthread thread_;
};

} // namespace yarngap::app
