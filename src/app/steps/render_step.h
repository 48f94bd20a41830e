// The step Render: what is written where, and how it is getting on.
#pragma once

#include "app/document/background_tasks.h"
#include "app/document/edit_return.h"
#include "app/look/choice_box.h"
#include "app/steps/output_presets.h"
#include "app/steps/output_settings.h"
#include "app/steps/render_forecast.h"
#include "app/steps/render_queue_list.h"
#include "app/steps/render_wish.h"
#include "app/steps/step_body.h"

#include <QLabel>
#include <QLineEdit>
#include <QProgressBar>
#include <QPushButton>
#include <QTimer>

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
    void add(std::vector<RenderWork> works);
    void handBack(const RenderWish& asked);
    void tell(const QString& sentence, bool isTrouble);
    [[nodiscard]] bool hasEdit() const;
    [[nodiscard]] RenderWish wish() const;
    /// The list that goes back with the shots of an edit, without its ending.
    [[nodiscard]] QString listName() const;
    /// What will be made, in a line or two.
    [[nodiscard]] QString ahead();
    void chooseTarget();
    void suggestTarget();
    void showState();
    /// The file to write, with the ending of the format where none was typed.
    [[nodiscard]] QString target() const;
    /// What the names of the files depend on.
    [[nodiscard]] QString lookKey() const;
    /// Looks, in the background, what the files will be called and what there is under these names.
    void lookAtTarget();
    /// Whether a shot to be rendered has frames that cannot be decoded, as far as is known.
    [[nodiscard]] bool hasUndecodable() const;
    [[nodiscard]] QString outcomeWords() const;
    [[nodiscard]] OutputFormat format() const { return output_->format(); }
    [[nodiscard]] RenderScope scope() const;

    ChoiceBox* scope_;
    OutputSettings* output_;
    ChoiceBox* undecodable_;
    ChoiceBox* handles_;
    ChoiceBox* where_;
    QLineEdit* target_;
    QPushButton* choose_;
    OutputPresets* presets_;
    QLabel* forecastLabel_;
    QLabel* replaces_;
    QPushButton* start_;
    QPushButton* cancel_;
    QPushButton* openFolder_;
    QProgressBar* progress_;
    QLabel* status_;
    RenderQueueList* queue_;
    EditReturn* return_;
    RenderForecast forecast_;
    QString suggestedFor_;    // shot the suggestion was made for
    QString lookedAt_;        // lookKey() that lookAtTarget() was asked about last
    QString whatIsThere_;     // what it found there; empty when nothing
    QString severalWords_;    // what will be made of several shots; found there too
    QString fileName_;        // what it found that one file will be called; empty for several
    QString renderedTarget_;  // lookKey() of the last render
    QString told_;            // what could not be done, or was done besides rendering
    bool isTrouble_ = false;  // of that
    int edits_ = 0;           // of any shot
    QTimer paused_;           // edits have
    BackgroundTasks looking_; // last: ends before what it tells
};

} // namespace yarngap::app
