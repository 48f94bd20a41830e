// The shots of the project as small cards.
#pragma once

#include "app/document.h"

#include <QAbstractButton>
#include <QList>
#include <QScrollArea>
#include <QVBoxLayout>
#include <QWidget>

namespace yarngap::app {

/// A shot: thumbnail, name and one line of facts.
class ShotCard : public QAbstractButton {
    Q_OBJECT
  public:
    explicit ShotCard(QWidget* parent);
    void setShown(const QString& name, const QString& facts, const QImage& thumbnail, bool current,
                  bool failed);
    [[nodiscard]] QSize sizeHint() const override { return {240, 38}; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    QString facts_;
    QImage thumbnail_;
    bool current_ = false;
    bool failed_ = false;
};

/// The list; clicking a card makes its shot the current one, Delete takes it out.
class ShotList : public QScrollArea {
    Q_OBJECT
  public:
    explicit ShotList(Document& document, QWidget* parent = nullptr);
    void refresh();

  protected:
    void keyPressEvent(QKeyEvent* event) override;

  private:
    Document& document_;
    QWidget* content_;
    QVBoxLayout* layout_;
    QList<ShotCard*> cards_;
};

} // namespace yarngap::app
