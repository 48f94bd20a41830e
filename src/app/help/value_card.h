// A card that says what a value is, when to change it, and shows little of it against much.
#pragma once

#include "app/document/background_tasks.h"
#include "app/help/value_words.h"

#include <QFrame>
#include <QLabel>

namespace yarngap::app {

/// Goes away at the next click elsewhere, or with Esc.
class ValueCard : public QFrame {
    Q_OBJECT
  public:
    /// Beside `value`, for which there are words.
    ValueCard(const ValueWords& words, const QWidget& value, QWidget* parent);

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void readPicture(const QString& file);
    void placeBeside(const QWidget& value);

    QLabel* picture_;
    QWidget* ends_;         ///< the words under it
    BackgroundTasks tasks_; ///< last: ended before what it answers to goes
};

/// The value that `widget` is, or stands in, or is the caption of, and its words; nothing where there are
/// none.
struct ValueUnder {
    QWidget* value;
    ValueWords words;
};
[[nodiscard]] std::optional<ValueUnder> valueUnder(QWidget* widget);

} // namespace yarngap::app
