// The list of keys, to search and to change.
#pragma once

#include "app/help/key_table.h"

#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTreeWidget>
#include <QWidget>

namespace yarngap::app {

/// Takes the next key that is pressed.
class KeyCatcher : public QLineEdit {
    Q_OBJECT
  public:
    explicit KeyCatcher(QWidget* parent = nullptr);

  Q_SIGNALS:
    void caught(const QKeySequence& keys);
    void givenUp();

  protected:
    bool event(QEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
};

class KeysPage : public QWidget {
    Q_OBJECT
  public:
    explicit KeysPage(KeyTable& keys, QWidget* parent = nullptr);

    void focusSearch();

  private:
    void fill();
    void showMatches();
    void askForKey();
    void take(const QKeySequence& keys);
    void end(const QString& sentence);
    /// Of the chosen line; null for a heading, or none.
    [[nodiscard]] const KeyCommand* chosen() const;

    KeyTable& keys_;
    QLineEdit* search_;
    QTreeWidget* list_;
    QLabel* says_;
    KeyCatcher* catcher_;
    QPushButton* change_;
    QPushButton* takeOver_;
    QPushButton* restore_;
    QString asked_;       ///< name of the command that waits for a key
    QKeySequence wanted_; ///< taken by another
};

} // namespace yarngap::app
