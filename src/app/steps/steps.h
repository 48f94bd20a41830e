// The steps of the job, in order, as a column of cards.
#pragma once

#include "app/document/background_tasks.h"
#include "app/look/choice_box.h"
#include "app/document/document.h"
#include "app/playing/player.h"
#include "app/document/render_controller.h"
#include "app/steps/step_card.h"
#include "app/look/value_field.h"
#include "core/motion/vector_store.h"
#include "core/time/frame_plan.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over <span>
#include "app/chart/lane_edits.h"
#endif

#include <QButtonGroup>
#include <QLabel>
#include <QProgressBar>
#include <QPushButton>
#include <QWidget>

#include <functional>
#include <memory>
#include <optional>
#include <utility>

namespace yarngap::app {

/// What the steps show and change.
struct Workspace {
    Document& document;
    Player& player;
    RenderController& render;
    std::function<std::shared_ptr<const FramePlan>()>
        plan; ///< of the current shot, null until its media is ready
    std::function<std::int64_t()> sourceFrameAtPlayhead;
    /// First and last gap of the stretch selected in the thread chart.
    std::function<std::optional<std::pair<std::int64_t, std::int64_t>>()> selectedGaps;
    /// What a change of speed leaves alone.
    std::function<LaneKeeping()> keeping;
};

/// Body of a step. `refresh` shows the present state and returns the outcome for the step's line.
class StepBody : public QWidget {
    Q_OBJECT
  public:
    explicit StepBody(Workspace& workspace)
        : workspace_(workspace) {}
    virtual QString refresh() = 0;

  protected:
    /// Runs an edit of the timing from a field; refusals are shown on the field.
    void apply(ValueField& field, const QString& text, int kind,
               const std::function<Timing(const Timing&)>& change);
    Workspace& workspace_;
};

class TrimStep : public StepBody {
    Q_OBJECT
  public:
    explicit TrimStep(Workspace& workspace);
    QString refresh() override;
    /// Puts the first or last source frame at the playhead.
    void setInAtPlayhead();
    void setOutAtPlayhead();

  private:
    void setFrames(ValueField& field, const QString& what, int kind, std::int64_t from, std::int64_t to);
    ValueField* in_;
    ValueField* out_;
    QLabel* count_;
    QLabel* problem_;
};

class TimingStep : public StepBody {
    Q_OBJECT
  public:
    explicit TimingStep(Workspace& workspace);
    QString refresh() override;

  private:
    void setRate(const QString& text);
    QPushButton* shapeButton(const QString& words, const char* objectName, const QString& tip,
                             void (TimingStep::*act)());
    void addRamp();
    void freezeHere();
    void reverse();
    void turnBack();
    void showMore();
    void shape(const QString& what, const std::function<Timing(Timing)>& change);
    /// Passes into or out of the speed of the shot at `other` in the list, on the other side of the cut.
    void matchSpeed(int other);
    void savePreset(const QString& name);
    void applyPreset(const QString& name);
    void writeMap();
    void readMap();
    [[nodiscard]] Timing withWholeSpeed(const Timing& now, const Rational& speed) const;
    static QString speedWords(const Timing& timing);
    ValueField* speed_;
    ValueField* factor_;
    ValueField* frames_;
    ValueField* seconds_;
    ValueField* timecode_;
    ChoiceBox* rate_;
    QLabel* counts_;
    QLabel* tail_;
    QLabel* problem_;
    QPushButton* everyFrame_;
    QPushButton* sameLength_;
    QLineEdit* presetName_; ///< shown while a name is asked for
    BackgroundTasks files_;
};

class RenderStep : public StepBody {
    Q_OBJECT
  public:
    RenderStep(Workspace& workspace, std::shared_ptr<VectorStore> vectors,
               std::shared_ptr<FrameFolder> finished);
    QString refresh() override;

  private:
    void start();
    void chooseTarget();
    void suggestTarget();
    void showState();
    /// The file to write, with the ending of the format where none was typed.
    [[nodiscard]] QString target() const;
    /// Looks, in the background, what there is under the target's name.
    void lookAtTarget();
    /// Whether a shot to be rendered has frames that cannot be decoded, as far as is known.
    [[nodiscard]] bool hasUndecodable() const;
    [[nodiscard]] std::vector<std::filesystem::path> filesToKeep() const;
    [[nodiscard]] QString outcomeWords() const;
    [[nodiscard]] OutputFormat format() const;
    [[nodiscard]] bool wholeReel() const;
    /// All shots in the order of the list, for the rate of the current one. Throws Error for one that is not
    /// ready.
    [[nodiscard]] std::vector<RenderRequest> reel() const;

    std::shared_ptr<VectorStore> vectors_;
    std::shared_ptr<FrameFolder> finished_;
    ChoiceBox* scope_;
    ChoiceBox* format_;
    ChoiceBox* undecodable_;
    QLineEdit* target_;
    QPushButton* choose_;
    QLabel* replaces_;
    QPushButton* start_;
    QPushButton* cancel_;
    QPushButton* openFolder_;
    QProgressBar* progress_;
    QLabel* status_;
    QString suggestedFor_; // shot the suggestion was made for
    bool targetTyped_ = false;
    QString lookedAt_;        // target that lookAtTarget() was asked about last
    QString whatIsThere_;     // what it found there; empty when nothing
    QString renderedTarget_;  // of the last render
    BackgroundTasks looking_; // last: ends before what it tells
};

} // namespace yarngap::app
