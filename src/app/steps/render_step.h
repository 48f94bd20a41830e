// The step Render: what is written where, and how it is getting on.
#pragma once

#include "app/document/background_tasks.h"
#include "app/look/choice_box.h"
#include "app/steps/output_settings.h"
#include "app/steps/render_queue_list.h"
#include "app/steps/step_body.h"

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
    explicit RenderStep(Workspace& workspace);
    QString refresh() override;

  private:
    void layOut();
    void fillChoices();
    void connectParts();
    void start();
    void loadSettings();
    void keepSettings();
    void preparePresets();
    /// Renders the shots that came from an edit, and writes the list that replaces them once all are done.
    void handBack();
    void writeListWhenDone();
    [[nodiscard]] bool hasEdit() const;
    /// What a render of now consists of. Throws Error for shots that are not ready.
    [[nodiscard]] std::vector<RenderWork> works();
    [[nodiscard]] WorkShot workOf(const Shot& shot, const std::optional<Rate>& rate) const;
    /// What will be made, in a line.
    [[nodiscard]] QString forecast() const;
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
    [[nodiscard]] OutputFormat format() const { return output_->format(); }
    enum class Scope { shot, reel, each, loop, edit };
    [[nodiscard]] Scope scope() const;

    ChoiceBox* scope_;
    OutputSettings* output_;
    ChoiceBox* undecodable_;
    ChoiceBox* handles_;
    QLineEdit* target_;
    QPushButton* choose_;
    QPushButton* presets_;
    QLabel* forecast_;
    QLabel* replaces_;
    QPushButton* start_;
    QPushButton* cancel_;
    QPushButton* openFolder_;
    QProgressBar* progress_;
    QLabel* status_;
    RenderQueueList* queue_;
    QString suggestedFor_; // shot the suggestion was made for
    bool targetTyped_ = false;
    QString lookedAt_;       // target that lookAtTarget() was asked about last
    QString whatIsThere_;    // what it found there; empty when nothing
    QString renderedTarget_; // of the last render
    /// What is being handed back: its renders, and the list that says where they lie.
    struct Return {
        std::vector<std::int64_t> renders;
        QString file;
        std::string list;
    };
    std::optional<Return> return_;
    QString told_;            // what could not be done, or was done besides rendering
    BackgroundTasks looking_; // last: ends before what it tells
};

} // namespace yarngap::app
