// Holding a thing still, in the step Finish.
#pragma once

#include "app/document/finish_work.h"
#include "app/look/choice_box.h"
#include "app/steps/finish_row.h"

#include <QCheckBox>

namespace yarngap::app {

class HoldRow : public FinishRow {
    Q_OBJECT
  public:
    HoldRow(Workspace& workspace, FinishWork& work);
    /// What the overlay is on for: nothing, the point, or the second point.
    enum class Choosing { nothing, point, second };
    void setChoosing(Choosing what);
    /// A point, chosen in a source frame, is followed from there and then held.
    void choose(Choosing which, std::int64_t frame, const PicturePoint& at, double reach);
    /// A point of the path is put by hand; what was lost or found wrong is followed again from there.
    void put(Choosing which, std::int64_t frame, const PicturePoint& at);

  Q_SIGNALS:
    void chooseAsked(yarngap::app::HoldRow::Choosing what);

  protected:
    QString show(const Finish& finish, const MediaFacts& facts) override;

  private:
    void layOut();
    void take(Choosing which, const FollowReport& report, const FollowOptions& options, bool isNew);

    FinishWork& work_;
    QPushButton* choose_;
    QPushButton* second_;
    QPushButton* remove_;
    QPushButton* bridge_;
    QCheckBox* on_;
    QCheckBox* turns_;
    ChoiceBox* at_;
    NumberField* share_;
    NumberField* x_;
    NumberField* y_;
    QWidget* settings_;
    QLabel* words_;
    QString lost_;
    FollowedPath lostOf_; ///< the path that `lost_` is about
    FrameSize result_{1, 1};
};

} // namespace yarngap::app
