// Whether the desktop asks programs for a dark look.
#pragma once

#include <QDBusVariant>
#include <QObject>

namespace yarngap::app {

/// Asks the desktop's settings portal (org.freedesktop.appearance, color-scheme), and listens to it. Light
/// where there is none, until it has answered.
class DesktopLook : public QObject {
    Q_OBJECT
  public:
    explicit DesktopLook(QObject* parent = nullptr);

    [[nodiscard]] bool isDark() const { return dark_; }

  Q_SIGNALS:
    void changed();

  private:
    Q_SLOT void take(const QString& group, const QString& key, const QDBusVariant& value);
    void set(const QVariant& value);
    bool dark_ = false;
};

} // namespace yarngap::app
