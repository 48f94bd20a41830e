// A foldable part of the step Finish.
#pragma once

#include "app/look/choice_box.h"
#include "app/steps/number_field.h"
#include "app/steps/step_body.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/finish/finish.h"
#include "core/media/media_facts.h"
#endif

#include <QAbstractButton>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include <functional>

namespace yarngap::app {

/// The line of a part: a mark that turns when it opens, its name, and what it came to.
class FoldHeader : public QAbstractButton {
    Q_OBJECT
  public:
    FoldHeader(const QString& title, QWidget* parent);
    void setOutcome(const QString& outcome);
    [[nodiscard]] const QString& outcome() const { return outcome_; }
    [[nodiscard]] QSize sizeHint() const override { return {200, 24}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    QString outcome_;
};

/// What the rows show and change.
class FinishRow : public QWidget {
    Q_OBJECT
  public:
    FinishRow(Workspace& workspace, const QString& title, const char* objectName);
    /// Shows the finish of a shot whose source is `facts`.
    void refresh(const Finish& finish, const MediaFacts& facts);
    [[nodiscard]] QString outcome() const { return header_->outcome(); }
    void setOpen(bool on);
    [[nodiscard]] bool isOpen() const { return header_->isChecked(); }

  Q_SIGNALS:
    void opened();

  protected:
    /// Shows the values and returns what they come to, empty for nothing.
    virtual QString show(const Finish& finish, const MediaFacts& facts) = 0;
    /// Changes the finish of the current shot. What cannot be is told and not done.
    void edit(const QString& what, const std::function<void(Finish&)>& change, int kind = 0);
    [[nodiscard]] const Finish* finish() const;
    /// A field that changes the finish by `change(finish, value)`.
    NumberField* number(const QString& caption, const QString& accessibleName, const char* objectName,
                        const NumberForm& form, const std::function<void(Finish&, double)>& change);
    QPushButton* button(const QString& text, const char* objectName, const QString& tip,
                        bool isCheckable = false);
    /// A choice that is no wider than its column.
    static ChoiceBox* choice(const char* objectName, const QString& accessibleName, const QStringList& items);
    /// The kind of edits of a field: its own, so that steps of one merge and those of two do not.
    static int kindOf(const char* objectName);
    /// Two columns for fields.
    QGridLayout* addGrid();
    QHBoxLayout* addLine();
    QLabel* addWords();
    [[nodiscard]] QVBoxLayout* body() const { return layout_; }
    void tell(const QString& sentence);
    Workspace& workspace_;

  private:
    FoldHeader* header_;
    QWidget* body_;
    QVBoxLayout* layout_;
    QLabel* problem_;
};

} // namespace yarngap::app
