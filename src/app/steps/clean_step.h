// The step Clean: what is put right in the source before anything is made from it.
#pragma once

#include "app/document/background_tasks.h"
#include "app/look/choice_box.h"
#include "app/steps/step_body.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/cleaning/found_decisions.h"
#include "core/shot/subject_holds.h"
#endif

#include <QCheckBox>
#include <QLabel>
#include <QPushButton>
#include <QSlider>

#include <array>
#include <span>
#include <stop_token>
#include <vector>

class QGridLayout;

namespace yarngap::app {

class CleanStep : public StepBody {
    Q_OBJECT
  public:
    explicit CleanStep(Workspace& workspace);
    ~CleanStep() override;
    CleanStep(const CleanStep&) = delete;
    CleanStep& operator=(const CleanStep&) = delete;
    CleanStep(CleanStep&&) = delete;
    CleanStep& operator=(CleanStep&&) = delete;
    QString refresh() override;

    /// The line of the step when it is closed.
    [[nodiscard]] QString outcome() const;
    /// All that was found in the current shot, however sure.
    [[nodiscard]] const std::vector<CleanupDecision>& found() const { return found_; }
    /// How sure it must be.
    [[nodiscard]] double certainty() const;
    [[nodiscard]] bool keepsLength() const { return keepLength_->isChecked(); }
    /// The source sheet is shown, or not any more.
    void setSheetShown(bool on);

  Q_SIGNALS:
    void sheetAsked(bool on);
    void foundChanged(); ///< what was found, or how sure it must be

  private:
    /// Findings of one kind, with what can be done about all of them.
    struct Row {
        CleanupKind finding;
        QLabel* count;
        std::vector<QPushButton*> buttons;
    };
    void buildControls();
    void buildRows(QGridLayout& grid);
    QPushButton* doAllButton(const QString& text, const char* name, CleanupKind finding,
                             CleanupKind decision);
    void lookAgain();
    void takeFound(std::span<const FoundFrame> subject);
    /// Searches what lies inside the matte, in the background.
    void lookInsideMatte();
    [[nodiscard]] LookAt lookAt() const { return static_cast<LookAt>(lookAt_->currentData().toInt()); }
    void doAll(CleanupKind finding, CleanupKind decision);
    [[nodiscard]] int countOf(CleanupKind finding) const;
    void showRows();
    void showState();
    void showNotes();
    /// Whether the picture as a whole shows no repeats, but the figure is held.
    [[nodiscard]] bool hintsAtFigure() const;
    [[nodiscard]] QString foundWords() const;

    QLabel* state_;
    ChoiceBox* lookAt_;
    QSlider* certainty_;
    QLabel* certaintyText_;
    std::vector<Row> rows_;
    QCheckBox* keepLength_;
    QPushButton* sheet_;
    QPushButton* clear_;
    QLabel* notes_;
    std::shared_ptr<const ShotFindings> lookedAt_; ///< that found_ comes from
    std::shared_ptr<const SourceAxis> axis_;       ///< likewise
    std::vector<CleanupDecision> found_;
    Matte insideOf_; ///< the matte that was searched last, or is being searched
    bool isLookingInside_ = false;
    QString insideTrouble_;
    std::stop_source insideStop_;
    BackgroundTasks tasks_; ///< last: it stops before the rest goes
};

} // namespace yarngap::app
