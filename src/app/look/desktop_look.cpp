#include "app/look/desktop_look.h"

#include <QDBusConnection>
#include <QDBusMessage>
#include <QDBusPendingCallWatcher>
#include <QDBusPendingReply>
#include <QGuiApplication>

namespace yarngap::app {

namespace {

constexpr const char* service = "org.freedesktop.portal.Desktop";
constexpr const char* object = "/org/freedesktop/portal/desktop";
constexpr const char* settings = "org.freedesktop.portal.Settings";
constexpr const char* group = "org.freedesktop.appearance";
constexpr const char* key = "color-scheme";

} // namespace

DesktopLook::DesktopLook(QObject* parent)
    : QObject(parent) {
    // Without a screen there is no desktop, and the bus is not worth its thread.
    if (QGuiApplication::platformName() == QLatin1String("offscreen")) return;
    QDBusConnection bus = QDBusConnection::sessionBus();
    if (!bus.isConnected()) return;
    bus.connect(QLatin1String(service), QLatin1String(object), QLatin1String(settings),
                QStringLiteral("SettingChanged"), this, SLOT(take(QString, QString, QDBusVariant)));
    QDBusMessage ask = QDBusMessage::createMethodCall(QLatin1String(service), QLatin1String(object),
                                                      QLatin1String(settings), QStringLiteral("Read"));
    ask << QLatin1String(group) << QLatin1String(key);
    auto* answer = new QDBusPendingCallWatcher(bus.asyncCall(ask), this);
    connect(answer, &QDBusPendingCallWatcher::finished, this, [this, answer] {
        const QDBusPendingReply<QDBusVariant> reply = *answer;
        if (!reply.isError()) set(reply.value().variant());
        answer->deleteLater();
    });
}

void DesktopLook::take(const QString& where, const QString& what, const QDBusVariant& value) {
    if (where == QLatin1String(group) && what == QLatin1String(key)) set(value.variant());
}

void DesktopLook::set(const QVariant& value) {
    QVariant plain = value; // the portal wraps it once more
    while (plain.canConvert<QDBusVariant>())
        plain = plain.value<QDBusVariant>().variant();
    constexpr unsigned wantsDark = 1;
    const bool dark = plain.toUInt() == wantsDark;
    if (dark == dark_) return;
    dark_ = dark;
    Q_EMIT changed();
}

} // namespace yarngap::app
