// Timecode, transport, zoom and what playing does, in one line under the stage.
#pragma once

#include "app/look/steady_label.h"
#include "app/playing/player.h"
#include "app/playing/preview.h"
#include "app/stage/loop_controls.h"
#include "core/time/rate.h"

#include <QToolButton>
#include <QWidget>

namespace yarngap::app {

class TransportBar : public QWidget {
    Q_OBJECT
  public:
    TransportBar(Player& player, Preview& preview, QWidget* parent = nullptr);

    /// Shows the state of the player, for frames at this rate.
    /// `source` is the timecode of the source frame that is shown; empty where the file has none.
    void refresh(const Rate& outputRate, const QString& source);
    [[nodiscard]] LoopControls& loops() { return *loops_; }
    /// The button that turns the sound on and off; hidden where there is none.
    [[nodiscard]] QToolButton& soundButton() { return *sound_; }
    [[nodiscard]] QToolButton& zoomButton() { return *zoom_; }

  Q_SIGNALS:
    void originalAsked(int direction); ///< the next original after (1) or before (−1) the playhead
    void zoomAsked();                  ///< between fitting and 100 %

  private:
    QWidget* pill();
    void prepareZoom();
    void showWhatPlayDoes();
    void giveStateItsRoom();
    [[nodiscard]] QString stateWords(const QString& rate) const;
    Player& player_;
    LoopControls* loops_;
    SteadyLabel* timecode_;
    SteadyLabel* sourceTimecode_;
    SteadyLabel* state_;
    QToolButton* play_;
    bool isPlayShown_ = true; ///< on its button, or else a pause
    QToolButton* sound_;
    QToolButton* zoom_;
};

} // namespace yarngap::app
