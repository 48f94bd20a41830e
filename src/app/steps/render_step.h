// The step Render: what is written where, and how it is getting on.
#pragma once

#include "app/document/background_tasks.h"
#include "app/look/choice_box.h"
#include "app/steps/step_body.h"
#include "core/motion/vector_store.h"

#include <QLabel>
#include <QLineEdit>
#include <QProgressBar>
#include <QPushButton>

#include <filesystem>
#include <memory>
#include <vector>

namespace yarngap::app {

class RenderStep : public StepBody {
    Q_OBJECT
  public:
    RenderStep(Workspace& workspace, std::shared_ptr<VectorStore> vectors,
               std::shared_ptr<FrameFolder> finished);
    QString refresh() override;

  private:
    void layOut();
    void fillChoices();
    void connectParts();
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
