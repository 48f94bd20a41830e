// The bar under the top bar that tells of trouble, or asks before work would be lost. Never a modal box.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QString>
#include <QStringList>
#include <QWidget>

#include <functional>
#include <vector>

class QHBoxLayout;

namespace yarngap::app {

/// Hidden until there is something to tell.
///
///     notice->tell(tr("The disk is full…"));
///     notice->tell(tr("There are unsaved changes."), {{tr("Save"), [this] { save(); }}});
class NoticeBar : public QWidget {
    Q_OBJECT
  public:
    /// A button and what it does; the bar goes away first.
    struct Answer {
        QString text;
        std::function<void()> act;
    };

    explicit NoticeBar(QWidget* parent = nullptr);

    /// Replaces whatever stood here. "Dismiss" is always offered beside the answers.
    void tell(const QString& sentence, std::vector<Answer> answers = {});
    /// What was told so far, each with its time; the last hundred.
    [[nodiscard]] const QStringList& told() const { return told_; }

  private:
    QStringList told_;
    QLabel* text_;
    QHBoxLayout* row_;
    QPushButton* dismiss_;
    std::vector<QPushButton*> buttons_; // owned by Qt's parents
};

} // namespace yarngap::app
