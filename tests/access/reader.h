// What a screen reader sees of a program: objects on the accessibility bus (AT-SPI 2).
#pragma once

#include <QDBusArgument>
#include <QDBusConnection>
#include <QDBusInterface>
#include <QDBusReply>
#include <QString>

#include <functional>
#include <optional>
#include <vector>

namespace yarngap::test {

/// Name of an object on the bus: "(so)".
struct BusName {
    QString service;
    QDBusObjectPath path;
};

inline QDBusArgument& operator<<(QDBusArgument& out, const BusName& name) {
    out.beginStructure();
    out << name.service << name.path;
    out.endStructure();
    return out;
}
inline const QDBusArgument& operator>>(const QDBusArgument& in, BusName& name) {
    in.beginStructure();
    in >> name.service >> name.path;
    in.endStructure();
    return in;
}

} // namespace yarngap::test

Q_DECLARE_METATYPE(yarngap::test::BusName)

namespace yarngap::test {

/// One object. Each question goes over the bus.
class Seen {
  public:
    Seen(QDBusConnection bus, BusName name)
        : bus_(std::move(bus))
        , name_(std::move(name)) {}

    [[nodiscard]] QString name() const { return property("Accessible", "Name").toString(); }
    [[nodiscard]] QString role() const {
        return QDBusReply<QString>(call("Accessible", "GetRoleName")).value();
    }
    [[nodiscard]] int childCount() const { return property("Accessible", "ChildCount").toInt(); }
    [[nodiscard]] std::vector<Seen> children() const {
        std::vector<Seen> all;
        const QDBusMessage answer = call("Accessible", "GetChildren");
        if (answer.arguments().isEmpty()) return all;
        for (const BusName& one : qdbus_cast<QList<BusName>>(answer.arguments().front()))
            if (!one.path.path().endsWith(QLatin1String("/null"))) all.emplace_back(bus_, one);
        return all;
    }
    /// Whether it has a state, by its number in AT-SPI 2's AtspiStateType.
    [[nodiscard]] bool has(unsigned state) const {
        const QDBusMessage answer = call("Accessible", "GetState");
        if (answer.arguments().isEmpty()) return false;
        const auto words = qdbus_cast<QList<quint32>>(answer.arguments().front());
        const auto word = static_cast<qsizetype>(state / 32);
        return word < words.size() && ((words[word] >> (state % 32)) & 1U) != 0;
    }
    [[nodiscard]] QStringList interfaces() const {
        return QDBusReply<QStringList>(call("Accessible", "GetInterfaces")).value();
    }
    [[nodiscard]] double value() const { return property("Value", "CurrentValue").toDouble(); }
    void setValue(double value) const {
        QDBusMessage set = QDBusMessage::createMethodCall(name_.service, name_.path.path(),
                                                          QStringLiteral("org.freedesktop.DBus.Properties"),
                                                          QStringLiteral("Set"));
        set << QStringLiteral("org.a11y.atspi.Value") << QStringLiteral("CurrentValue")
            << QVariant::fromValue(QDBusVariant(value));
        bus_.call(set);
    }
    void act() const { [[maybe_unused]] const QDBusMessage answer = call("Action", "DoAction", {0}); }

    [[nodiscard]] QString path() const { return name_.path.path(); }

    /// This object and all below it, in order, until `found` is true of one.
    [[nodiscard]] std::optional<Seen> find(const std::function<bool(const Seen&)>& found) const {
        if (found(*this)) return *this;
        for (const Seen& child : children())
            if (auto hit = child.find(found)) return hit;
        return std::nullopt;
    }
    [[nodiscard]] std::optional<Seen> named(const QString& start, const QString& role = {}) const {
        return find([&](const Seen& one) {
            return one.name().startsWith(start) && (role.isEmpty() || one.role() == role);
        });
    }

  private:
    [[nodiscard]] QDBusMessage call(const char* what, const char* method,
                                    const QVariantList& with = {}) const {
        QDBusMessage asked = QDBusMessage::createMethodCall(
            name_.service, name_.path.path(), QStringLiteral("org.a11y.atspi.") + QLatin1String(what),
            QLatin1String(method));
        asked.setArguments(with);
        return bus_.call(asked);
    }
    [[nodiscard]] QVariant property(const char* what, const char* which) const {
        QDBusMessage asked = QDBusMessage::createMethodCall(name_.service, name_.path.path(),
                                                            QStringLiteral("org.freedesktop.DBus.Properties"),
                                                            QStringLiteral("Get"));
        asked << QStringLiteral("org.a11y.atspi.") + QLatin1String(what) << QLatin1String(which);
        const QDBusReply<QDBusVariant> answer = bus_.call(asked);
        return answer.isValid() ? answer.value().variant() : QVariant();
    }

    QDBusConnection bus_;
    BusName name_;
};

} // namespace yarngap::test
