// The settings of a patch.
#pragma once

#include "app/look/choice_box.h"
#include "app/look/value_field.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/settings/mend.h"
#include "core/shot/take.h"
#endif

#include <QCheckBox>
#include <QLabel>
#include <QPushButton>
#include <QWidget>

#include <functional>
#include <utility>
#include <vector>

namespace yarngap::app {

class PatchSettings : public QWidget {
    Q_OBJECT
  public:
    explicit PatchSettings(QWidget* parent = nullptr);
    /// `mend` has a patch. A take is one of the versions that it may show.
    void setMend(const Mend& mend, const std::vector<Take>& takes);
    void setDrawing(bool on) { outline_->setChecked(on); }

  Q_SIGNALS:
    void changed(const yarngap::Mend& mend, const QString& what, int kind);
    void outlineAsked(bool on);
    void problem(const QString& sentence);

  private:
    void layOut();
    void connectField(ValueField* field, int Patch::*value, int most, const char* unit, const QString& what,
                      int kind);
    void showVersions(const std::vector<Take>& takes);
    void takeVersion();

    Mend mend_;
    /// What the choices show: first what the patch does, then the changes.
    std::vector<std::pair<PatchShows, MendChanges>> versions_;
    ChoiceBox* shows_;
    ValueField* feather_;
    ValueField* strength_;
    ValueField* blur_;
    ValueField* fade_;
    QWidget* blurRow_;
    QCheckBox* onOriginals_;
    QPushButton* outline_;
    QLabel* keys_;
};

} // namespace yarngap::app
