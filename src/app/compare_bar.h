// What is compared with what, and how.
#pragma once

#include "app/choice_box.h"
#include "core/project/take.h"

#include <QToolButton>
#include <QWidget>

#include <vector>

namespace yarngap::app {

enum class CompareMode {
    sideBySide,
    wipe,
    blink,
    difference ///< between both, enlarged
};

/// The other version, and the way it is shown beside the present one.
class CompareBar : public QWidget {
    Q_OBJECT
  public:
    explicit CompareBar(QWidget* parent = nullptr);

    /// The present settings and those put by.
    void setShot(const Take& now, const std::vector<Take>& takes);
    /// Settings of the other version.
    [[nodiscard]] Take other() const;
    [[nodiscard]] CompareMode mode() const;
    /// How long each version shows in a blink.
    [[nodiscard]] int blinkMilliseconds() const;
    /// By how much a difference is enlarged.
    [[nodiscard]] int gain() const;

  Q_SIGNALS:
    void otherChanged();
    void viewChanged();
    void keepAsked();  ///< the other version becomes the present one
    void putByAsked(); ///< the present settings become a take
    void forgetAsked(const QString& name);

  private:
    void refresh();

    Take now_;
    bool choosesNewest_ = false; ///< what was just put by is to be compared with
    std::vector<Take> takes_;
    ChoiceBox* other_;
    ChoiceBox* mode_;
    ChoiceBox* blink_;
    ChoiceBox* gain_;
    QToolButton* keep_;
    QToolButton* putBy_;
    QToolButton* forget_;
};

} // namespace yarngap::app
