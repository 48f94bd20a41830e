// What an empty window offers.
#pragma once

#include <QLabel>
#include <QPushButton>
#include <QWidget>

namespace yarngap::app {

/// Lies in the middle of its parent.
class StartPanel : public QWidget {
    Q_OBJECT
  public:
    explicit StartPanel(QWidget* parent);

    /// Says that the demo shots are being drawn; empty: they are not.
    void setWaiting(const QString& sentence);

  Q_SIGNALS:
    void openAsked();
    void demoAsked();

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void centre();

    QPushButton* open_;
    QPushButton* demo_;
    QLabel* says_;
};

} // namespace yarngap::app
