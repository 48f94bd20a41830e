// What is compared with what, and how.
#pragma once

#include "app/look/choice_box.h"
#include "core/shot/take.h"

#include <QToolButton>
#include <QWidget>

#include <vector>

namespace yarngap::app {

enum class CompareMode {
    sideBySide,
    wipe,
    blink,
    difference, ///< between both, enlarged
    fourAtOnce  ///< the present one and three others
};

/// The other version, and the way it is shown beside the present one.
class CompareBar : public QWidget {
    Q_OBJECT
  public:
    explicit CompareBar(QWidget* parent = nullptr);

    /// The present settings and those saved; `mended`: there is something from before mends.
    void setShot(const Take& now, const std::vector<Take>& takes, bool mended);
    /// Settings of the other version; of the frames of a file only the name.
    [[nodiscard]] Take other() const;
    /// The other versions: one, or up to three of four at once, the chosen one first.
    [[nodiscard]] std::vector<Take> others() const;
    /// Whether the other version is the frames of a file, as they are.
    [[nodiscard]] bool isFile(const Take& take) const { return !file_.isEmpty() && take.name == fileName(); }
    /// Whether the other version is the present one without its mends.
    [[nodiscard]] bool isBeforeMends(const Take& take) const;
    [[nodiscard]] QString file() const { return file_; }
    /// Compares with the frames of a file from now on; otherChanged tells.
    void setFile(const QString& file);
    [[nodiscard]] CompareMode mode() const;
    /// How long each version shows in a blink.
    [[nodiscard]] int blinkMilliseconds() const;
    /// By how much a difference is enlarged.
    [[nodiscard]] int gain() const;
    /// Whether sharpness and change of the versions are plotted below.
    [[nodiscard]] bool showsPlots() const { return plots_->isChecked(); }

  Q_SIGNALS:
    void otherChanged();
    void viewChanged();
    void plotsAsked(); ///< showsPlots() changed
    void keepAsked();  ///< the other version becomes the present one
    void saveAsked();  ///< the present settings become a take
    void deleteAsked(const QString& name);
    void fileAsked(); ///< a file whose frames are to be compared with

  private:
    void refresh();
    [[nodiscard]] std::string fileName() const;
    /// Entry `index` of the list, without the last, which asks for a file.
    [[nodiscard]] Take entry(int index) const;
    [[nodiscard]] int entries() const { return other_->count() - 1; }

    Take now_;
    QString file_;
    bool mended_ = false;
    bool four_ = false;          ///< the mode was four at once
    int chosen_ = 1;             ///< entry before the one that asks for a file
    bool choosesNewest_ = false; ///< what was just saved is to be compared with
    std::vector<Take> takes_;
    ChoiceBox* other_;
    ChoiceBox* mode_;
    ChoiceBox* blink_;
    ChoiceBox* gain_;
    QToolButton* plots_;
    QToolButton* keep_;
    QToolButton* save_;
    QToolButton* delete_;
};

} // namespace yarngap::app
