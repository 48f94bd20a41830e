#include "app/help/keys_page.h"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QKeyEvent>
#include <QVBoxLayout>

#include <algorithm>
#include <array>

namespace yarngap::app {

namespace {

constexpr int nameRole = Qt::UserRole;

/// Keys that mean the same everywhere: they accept, leave, move on and take out.
bool isOfEverything(Qt::Key key) {
    constexpr std::array<Qt::Key, 8> own{Qt::Key_Return, Qt::Key_Enter, Qt::Key_Tab,  Qt::Key_Backtab,
                                         Qt::Key_Delete, Qt::Key_Up,    Qt::Key_Down, Qt::Key_Backspace};
    return std::ranges::find(own, key) != own.end();
}

bool isModifier(int key) {
    return key == Qt::Key_Shift || key == Qt::Key_Control || key == Qt::Key_Alt || key == Qt::Key_Meta ||
           key == Qt::Key_AltGr || key == Qt::Key_unknown || key == 0;
}

} // namespace

KeyCatcher::KeyCatcher(QWidget* parent)
    : QLineEdit(parent) {
    setReadOnly(true);
    setObjectName(QStringLiteral("keyCatcher"));
    setAccessibleName(tr("New key"));
    setPlaceholderText(tr("Press the new key; Esc leaves it as it is"));
}

bool KeyCatcher::event(QEvent* event) {
    if (event->type() != QEvent::ShortcutOverride) return QLineEdit::event(event);
    event->accept(); // no shortcut before it
    return true;
}

void KeyCatcher::keyPressEvent(QKeyEvent* event) {
    if (isModifier(event->key())) return;
    if (event->key() == Qt::Key_Escape) {
        Q_EMIT givenUp();
        return;
    }
    const auto modifiers = event->modifiers() & ~Qt::KeyboardModifiers(Qt::KeypadModifier);
    Q_EMIT caught(QKeySequence(QKeyCombination(modifiers, static_cast<Qt::Key>(event->key()))));
}

KeysPage::KeysPage(KeyTable& keys, QWidget* parent)
    : QWidget(parent)
    , keys_(keys)
    , search_(new QLineEdit)
    , list_(new QTreeWidget)
    , says_(new QLabel)
    , catcher_(new KeyCatcher)
    , change_(new QPushButton(tr("Change key")))
    , takeOver_(new QPushButton(tr("Take it over")))
    , restore_(new QPushButton(tr("Usual keys"))) {
    search_->setObjectName(QStringLiteral("keySearch"));
    search_->setPlaceholderText(tr("Search for what it does, or for a key"));
    search_->setAccessibleName(tr("Search the keys"));
    search_->setClearButtonEnabled(true);
    list_->setObjectName(QStringLiteral("keyList"));
    list_->setAccessibleName(tr("Keys"));
    list_->setColumnCount(2);
    list_->setHeaderLabels({tr("What it does"), tr("Key")});
    list_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    list_->header()->setSectionResizeMode(1, QHeaderView::ResizeToContents);
    list_->setRootIsDecorated(false);
    says_->setObjectName(QStringLiteral("keySentence"));
    says_->setWordWrap(true);
    change_->setObjectName(QStringLiteral("changeKeyButton"));
    takeOver_->setObjectName(QStringLiteral("takeKeyOverButton"));
    restore_->setObjectName(QStringLiteral("usualKeysButton"));
    restore_->setToolTip(tr("Give every command the key it came with"));
    catcher_->hide();
    takeOver_->hide();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(12, 12, 12, 12);
    column->addWidget(search_);
    column->addWidget(list_, 1);
    column->addWidget(says_);
    auto* row = new QHBoxLayout;
    row->addWidget(catcher_, 1);
    row->addWidget(takeOver_);
    row->addStretch();
    row->addWidget(change_);
    row->addWidget(restore_);
    column->addLayout(row);

    connect(search_, &QLineEdit::textChanged, this, &KeysPage::showMatches);
    connect(list_, &QTreeWidget::currentItemChanged, this, [this] { end({}); });
    connect(list_, &QTreeWidget::itemActivated, this, &KeysPage::askForKey);
    connect(change_, &QPushButton::clicked, this, &KeysPage::askForKey);
    connect(restore_, &QPushButton::clicked, &keys_, &KeyTable::restore);
    connect(catcher_, &KeyCatcher::caught, this, &KeysPage::take);
    connect(catcher_, &KeyCatcher::givenUp, this, [this] { end({}); });
    connect(takeOver_, &QPushButton::clicked, this, [this] {
        keys_.change(asked_, wanted_);
        end({});
    });
    connect(&keys_, &KeyTable::changed, this, &KeysPage::fill);
    fill();
}

void KeysPage::focusSearch() {
    search_->setFocus();
    search_->selectAll();
}

const KeyCommand* KeysPage::chosen() const {
    const QTreeWidgetItem* item = list_->currentItem();
    return item ? keys_.named(item->data(0, nameRole).toString()) : nullptr;
}

void KeysPage::fill() {
    const KeyCommand* before = chosen();
    const QString kept = before ? before->name : QString();
    list_->clear();
    QTreeWidgetItem* group = nullptr;
    QTreeWidgetItem* again = nullptr;
    for (const KeyCommand& command : keys_.commands()) {
        if (!group || group->text(0) != command.group) {
            group = new QTreeWidgetItem(list_, {command.group});
            group->setFlags(Qt::ItemIsEnabled);
            QFont bold = list_->font();
            bold.setBold(true);
            group->setFont(0, bold);
        }
        const QString keys = command.keys.toString(QKeySequence::NativeText);
        const QString changed = command.keys == command.usual ? QString() : tr(" (changed)");
        auto* item =
            new QTreeWidgetItem(group, {command.words, (keys.isEmpty() ? tr("none") : keys) + changed});
        item->setData(0, nameRole, command.name);
        if (command.name == kept) again = item;
    }
    list_->expandAll();
    if (again) list_->setCurrentItem(again);
    restore_->setEnabled(keys_.isChanged());
    showMatches();
    end({});
}

void KeysPage::showMatches() {
    const QString wanted = search_->text().trimmed();
    for (int g = 0; g < list_->topLevelItemCount(); ++g) {
        QTreeWidgetItem* group = list_->topLevelItem(g);
        bool any = false;
        for (int i = 0; i < group->childCount(); ++i) {
            QTreeWidgetItem* item = group->child(i);
            // A single letter is a key, or else every other line would hold it.
            const bool matches =
                wanted.size() == 1
                    ? item->text(1).section(QLatin1Char(' '), 0, 0).compare(wanted, Qt::CaseInsensitive) == 0
                    : item->text(0).contains(wanted, Qt::CaseInsensitive) ||
                          item->text(1).contains(wanted, Qt::CaseInsensitive);
            item->setHidden(!matches);
            any |= matches;
        }
        group->setHidden(!any);
    }
}

void KeysPage::askForKey() {
    const KeyCommand* command = chosen();
    if (!command) return;
    if (command->isFixed) {
        end(tr("%1 cannot be changed.").arg(command->keys.toString(QKeySequence::NativeText)));
        return;
    }
    asked_ = command->name;
    says_->setText(tr("New key for “%1”").arg(command->words));
    catcher_->clear();
    catcher_->show();
    catcher_->setFocus();
    takeOver_->hide();
    change_->setEnabled(false);
}

void KeysPage::take(const QKeySequence& keys) {
    const QString text = keys.toString(QKeySequence::NativeText);
    catcher_->setText(text);
    takeOver_->hide();
    if (isOfEverything(keys[0].key())) {
        says_->setText(tr("%1 has its own meaning everywhere. Press another key.").arg(text));
        return;
    }
    const KeyCommand* other = keys_.clashing(keys, asked_);
    if (other && other->isFixed) {
        says_->setText(tr("%1 always means “%2”. Press another key.").arg(text, other->words));
        return;
    }
    if (!other) {
        keys_.change(asked_, keys);
        end({});
        return;
    }
    wanted_ = keys;
    says_->setText(
        tr("%1 belongs to “%2”. Take it over, which leaves that command without a key, or press another key.")
            .arg(text, other->words));
    takeOver_->show();
}

void KeysPage::end(const QString& sentence) {
    asked_.clear();
    says_->setText(sentence);
    if (catcher_->hasFocus()) list_->setFocus();
    catcher_->hide();
    takeOver_->hide();
    change_->setEnabled(chosen() != nullptr);
}

} // namespace yarngap::app
