// What mends the gap at the playhead, and what may be done about it.
#pragma once

#include "app/steps/patch_settings.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/settings/mend.h"
#include "core/shot/take.h"
#endif

#include <QCheckBox>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QWidget>

#include <optional>
#include <vector>

namespace yarngap::app {

/// The gap that mends are put on.
struct GapToMend {
    GapRange gaps;
    QString words;         ///< what is doubtful in it; empty where nothing is known
    bool isMade = false;   ///< something is made in it by optical flow
    bool accepted = false; ///< it may stay as it is
};

/// Buttons for every kind of mend, and the mends that lie on the gap: each can be turned off, renamed, taken
/// out, and laid on more gaps or fewer.
class GapMends : public QWidget {
    Q_OBJECT
  public:
    explicit GapMends(QWidget* parent = nullptr);

    /// No gap: nothing can be mended.
    void setGap(const std::optional<GapToMend>& gap, const Mending& mending, const std::vector<Take>& takes);
    /// The outline of a patch, or a guide, is being drawn.
    void setDrawing(bool patch, bool guide);
    /// The mend that is selected, as a place among those of the shot.
    [[nodiscard]] std::optional<std::size_t> selected() const;
    void select(std::size_t mend);

  Q_SIGNALS:
    void mendAsked(const yarngap::Mending& changed, const QString& what, int kind);
    void timingMendAsked(const yarngap::GapRange& gaps, bool quickly, bool keepLength);
    void curesAsked();
    void guideAsked(bool on);
    void patchAsked(bool on);   ///< a new patch is to be drawn
    void outlineAsked(bool on); ///< that of the selected patch is to be changed
    void selectionChanged();

  private:
    void layOut();
    QPushButton* menuButton(const QString& text, const char* name, const QString& tip,
                            const std::vector<std::pair<QString, MendChanges>>& choices);
    void fillList();
    void put(const QString& name, const MendChanges& changes);
    void changeItem(QListWidgetItem* item);
    void takeOut();
    void changeRange(ValueField& field, bool isLast, const QString& typed);
    void showSelected();

    std::optional<GapToMend> gap_;
    Mending mending_;
    std::vector<Take> takes_;
    QLabel* head_;
    QLabel* words_;
    QPushButton* cures_;
    QPushButton* through_;
    QPushButton* quickly_;
    QCheckBox* keepLength_;
    std::vector<QPushButton*> menus_;
    QPushButton* guide_;
    QPushButton* patch_;
    QPushButton* accept_;
    QLabel* listHead_;
    QListWidget* list_;
    QWidget* ofSelected_;
    ValueField* first_;
    ValueField* last_;
    QPushButton* out_;
    QLabel* problem_;
    PatchSettings* patchSettings_;
    bool filling_ = false;
};

} // namespace yarngap::app
