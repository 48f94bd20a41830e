// What keys do, wherever the focus is: one table, from which keys are acted on, listed and changed.
#pragma once

#include <QKeySequence>
#include <QObject>
#include <QString>
#include <QWidget>

#include <functional>
#include <vector>

namespace yarngap::app {

/// Where a key means something: one that acts in one place may mean something else in another.
enum class KeyPlace { anywhere, atThePicture, inTheSheet };

/// Something that a key does.
struct KeyCommand {
    QString name;  ///< "loop"; under it a changed key is kept
    QString group; ///< heading in the overview
    QString words; ///< "Play or pause"
    QKeySequence usual;
    std::function<void()> act;
    std::function<bool()> isOff = nullptr; ///< the key is then left to others; null: never
    bool isFixed = false;                  ///< Qt or the sheet acts on it, and it cannot be changed
    KeyPlace place = KeyPlace::atThePicture;
    QKeySequence keys = {}; ///< in force
};

/// All commands with the keys in force.
///
/// A key that means nothing with Shift does what it does without. Changed keys are kept in the user's
/// settings.
class KeyTable : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;

    /// Takes the commands, with the keys that were kept.
    void set(std::vector<KeyCommand> commands);
    [[nodiscard]] const std::vector<KeyCommand>& commands() const { return commands_; }
    /// Does what a key asks for at `place`, the picture or the sheet; false where it asks for nothing.
    bool act(int key, Qt::KeyboardModifiers modifiers, KeyPlace place) const;

    /// Null where no command has this name.
    [[nodiscard]] const KeyCommand* named(const QString& name) const;
    /// The command that has these keys where `of` has its own.
    [[nodiscard]] const KeyCommand* clashing(const QKeySequence& keys, const QString& of) const;
    /// Gives a command other keys; one that clashes with it is left without.
    void change(const QString& name, const QKeySequence& keys);
    /// All as they came.
    void restore();
    [[nodiscard]] bool isChanged() const;

  Q_SIGNALS:
    void changed();

  private:
    [[nodiscard]] const KeyCommand* find(const QKeySequence& keys, KeyPlace place) const;
    void leaveClashes();

    std::vector<KeyCommand> commands_;
};

/// Qt knows none where the desktop tells none.
QKeySequence saveAsKeys();

/// Tool tips below `root` name keys in brackets, "Filmstrip (F)": those of commands whose keys were changed
/// name the ones in force. Of the sheet's see SourceSheetBar.
void nameKeys(QWidget& root, const KeyTable& keys);

} // namespace yarngap::app
