#include "app/help/key_table.h"

#include <QSettings>

#include <algorithm>
#include <utility>

namespace yarngap::app {

namespace {

constexpr const char* writtenTip = "writtenTip"; ///< with the usual key

QString settingOf(const QString& name) {
    return QStringLiteral("keys/") + name;
}

bool overlap(KeyPlace a, KeyPlace b) {
    return a == b || a == KeyPlace::anywhere || b == KeyPlace::anywhere;
}

} // namespace

void KeyTable::set(std::vector<KeyCommand> commands) {
    commands_ = std::move(commands);
    const QSettings settings;
    for (KeyCommand& command : commands_) {
        const QVariant kept = settings.value(settingOf(command.name));
        command.keys = kept.isValid() && !command.isFixed
                           ? QKeySequence(kept.toString(), QKeySequence::PortableText)
                           : command.usual;
    }
    leaveClashes();
    Q_EMIT changed();
}

void KeyTable::leaveClashes() {
    // A command that came later, or a hand in the settings, may have given a key twice: the changed one has
    // it.
    for (std::size_t i = 0; i < commands_.size(); ++i)
        for (std::size_t k = i + 1; k < commands_.size(); ++k) {
            KeyCommand& a = commands_[i];
            KeyCommand& b = commands_[k];
            if (a.keys.isEmpty() || a.keys != b.keys || !overlap(a.place, b.place)) continue;
            const bool isFirstLeft = b.isFixed || (!a.isFixed && a.keys == a.usual);
            (isFirstLeft ? a : b).keys = QKeySequence();
        }
}

const KeyCommand* KeyTable::find(const QKeySequence& keys, KeyPlace place) const {
    const auto at = std::ranges::find_if(
        commands_, [&](const KeyCommand& c) { return c.keys == keys && overlap(c.place, place); });
    return keys.isEmpty() || at == commands_.end() ? nullptr : &*at;
}

const KeyCommand* KeyTable::named(const QString& name) const {
    const auto at = std::ranges::find_if(commands_, [&](const KeyCommand& c) { return c.name == name; });
    return at == commands_.end() ? nullptr : &*at;
}

bool KeyTable::act(int key, Qt::KeyboardModifiers modifiers, KeyPlace place) const {
    modifiers &= ~Qt::KeyboardModifiers(Qt::KeypadModifier);
    const KeyCommand* command =
        find(QKeySequence(QKeyCombination(modifiers, static_cast<Qt::Key>(key))), place);
    if (!command && modifiers == Qt::ShiftModifier)
        command = find(QKeySequence(QKeyCombination(Qt::NoModifier, static_cast<Qt::Key>(key))), place);
    if (!command || command->isFixed || (command->isOff && command->isOff())) return false;
    command->act();
    return true;
}

const KeyCommand* KeyTable::clashing(const QKeySequence& keys, const QString& of) const {
    const KeyCommand* own = named(of);
    const auto at = std::ranges::find_if(commands_, [&](const KeyCommand& c) {
        return own && c.name != of && c.keys == keys && overlap(c.place, own->place);
    });
    return keys.isEmpty() || at == commands_.end() ? nullptr : &*at;
}

void KeyTable::change(const QString& name, const QKeySequence& keys) {
    const KeyCommand* asked = named(name);
    if (!asked) return;
    const KeyPlace place = asked->place;
    QSettings settings;
    for (KeyCommand& command : commands_) {
        const bool isIt = command.name == name;
        const bool losesIt =
            !isIt && !keys.isEmpty() && command.keys == keys && overlap(command.place, place);
        if (command.isFixed || (!isIt && !losesIt)) continue;
        command.keys = isIt ? keys : QKeySequence();
        if (command.keys == command.usual)
            settings.remove(settingOf(command.name));
        else
            settings.setValue(settingOf(command.name), command.keys.toString(QKeySequence::PortableText));
    }
    Q_EMIT changed();
}

void KeyTable::restore() {
    QSettings().remove(QStringLiteral("keys"));
    for (KeyCommand& command : commands_)
        command.keys = command.usual;
    Q_EMIT changed();
}

bool KeyTable::isChanged() const {
    return std::ranges::any_of(commands_, [](const KeyCommand& c) { return c.keys != c.usual; });
}

QKeySequence saveAsKeys() {
    return Qt::CTRL | Qt::SHIFT | Qt::Key_S;
}

void nameKeys(QWidget& root, const KeyTable& keys) {
    const auto inBrackets = [](const QKeySequence& k) {
        return QLatin1Char('(') + k.toString(QKeySequence::NativeText) + QLatin1Char(')');
    };
    for (QWidget* widget : root.findChildren<QWidget*>()) {
        QVariant asWritten = widget->property(writtenTip);
        const QString tip = asWritten.isValid() ? asWritten.toString() : widget->toolTip();
        for (const KeyCommand& command : keys.commands()) {
            if (command.isFixed || command.place == KeyPlace::inTheSheet ||
                !tip.contains(inBrackets(command.usual)))
                continue;
            widget->setProperty(writtenTip, tip);
            QString now = tip;
            if (command.keys.isEmpty())
                now.remove(QLatin1Char(' ') + inBrackets(command.usual));
            else
                now.replace(inBrackets(command.usual), inBrackets(command.keys));
            if (widget->accessibleDescription() == widget->toolTip()) widget->setAccessibleDescription(now);
            widget->setToolTip(now);
            break;
        }
    }
}

} // namespace yarngap::app
