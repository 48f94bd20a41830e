// The shots of the project as small cards.
#pragma once

#include "app/document/document.h"

#include <QAbstractButton>
#include <QLineEdit>
#include <QList>
#include <QScrollArea>

#include <QVBoxLayout>
#include <QWidget>
#include <map>

namespace yarngap::app {

/// A shot: thumbnail, name and one line of facts.
class ShotCard : public QAbstractButton {
    Q_OBJECT
  public:
    explicit ShotCard(QWidget* parent);
    void setShown(const QString& name, const QString& facts, const QImage& thumbnail, bool current,
                  bool failed);
    [[nodiscard]] QSize sizeHint() const override { return {240, 36}; }

  Q_SIGNALS:
    void renameAsked();
    void menuAsked(const QPoint& globalPosition);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;

  private:
    QString facts_;
    QImage thumbnail_;
    bool current_ = false;
    bool failed_ = false;
};

/// The list. Clicking a card makes its shot the current one; F2 or a double click renames it, Alt+Up and
/// Alt+Down move it, Ctrl+D duplicates it, Delete takes it out; a menu offers the same.
class ShotList : public QScrollArea {
    Q_OBJECT
  public:
    explicit ShotList(Document& document, QWidget* parent = nullptr);
    void refresh();
    /// Room for the first shots.
    [[nodiscard]] QSize sizeHint() const override;
    [[nodiscard]] QSize minimumSizeHint() const override;
    /// Shows the menu of the current shot.
    void openMenu(const QPoint& globalPosition);
    void beginRename();

    /// How many gaps are doubtful and open, by the shot's place; of shots that were looked through.
    void setDoubtful(const std::map<int, int>& open);

  Q_SIGNALS:
    void counted();        ///< there are more or fewer shots
    void findAgainAsked(); ///< the media of the current shot is to be looked for

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    std::map<int, int> doubtful_;
    Document& document_;
    QWidget* content_;
    QVBoxLayout* layout_;
    QList<ShotCard*> cards_;
    QLineEdit* nameField_;
    int counted_ = -1;
};

} // namespace yarngap::app
