// The demo shots, drawn by a program beside this one when they are wanted.
#pragma once

#include <QObject>
#include <QProcess>
#include <QString>
#include <QTimer>

namespace yarngap::app {

/// Draws them into a folder of this user, where what is drawn already stays.
class DemoShots : public QObject {
    Q_OBJECT
  public:
    explicit DemoShots(QObject* parent = nullptr);
    ~DemoShots() override;
    DemoShots(const DemoShots&) = delete;
    DemoShots& operator=(const DemoShots&) = delete;
    DemoShots(DemoShots&&) = delete;
    DemoShots& operator=(DemoShots&&) = delete;

    /// Where they are drawn, if not in the usual place.
    void setFolder(const QString& folder) { folder_ = folder; }
    void draw();
    [[nodiscard]] bool isDrawing() const { return drawing_.state() != QProcess::NotRunning; }

  Q_SIGNALS:
    /// The project is there; shots that are not drawn yet appear later.
    void ready(const QString& project);
    void failed(const QString& sentence);

  private:
    void look();
    void end(bool well);

    QString folder_;
    QString project_;
    bool isReady_ = false;
    QProcess drawing_;
    QTimer looking_;
};

} // namespace yarngap::app
