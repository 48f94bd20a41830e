#include "app/window/shot_list.h"

#include "app/look/numbers.h"
#include "app/look/theme.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QPainter>

namespace yarngap::app {

namespace {

constexpr int cardHeight = 36;
constexpr int spacing = 4;
constexpr int mostVisible = 3;

} // namespace

ShotCard::ShotCard(QWidget* parent)
    : QAbstractButton(parent) {
    setFixedHeight(cardHeight);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setFocusPolicy(Qt::TabFocus);
}

void ShotCard::setShown(const QString& name, const QString& facts, const QImage& thumbnail, bool current,
                        bool failed) {
    // Every card is told of every change of any media; most have nothing new to show.
    if (name == text() && facts == facts_ && thumbnail.cacheKey() == thumbnail_.cacheKey() &&
        current == current_ && failed == failed_)
        return;
    setText(name);
    setAccessibleName(name);
    setAccessibleDescription(facts);
    setToolTip(facts);
    facts_ = facts;
    thumbnail_ = thumbnail;
    current_ = current;
    failed_ = failed;
    update();
}

void ShotCard::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHints(QPainter::Antialiasing | QPainter::SmoothPixmapTransform);
    p.setPen(QPen(current_ ? shades().indigo : shades().seam, 1));
    p.setBrush(current_ ? shades().paper : shades().cloth);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
    const QRectF slot(4, 4, 53, cardHeight - 8);
    p.fillRect(slot, colour::stage);
    if (!thumbnail_.isNull()) {
        const QSizeF size = QSizeF(thumbnail_.size()).scaled(slot.size(), Qt::KeepAspectRatio);
        p.drawImage(QRectF(slot.center() - QPointF(size.width() / 2, size.height() / 2), size), thumbnail_);
    }
    if (hasFocus()) drawFocus(p, rect());
    const QRect words = rect().adjusted(66, 3, -6, -3);
    p.setPen(shades().ink);
    p.setFont(textFont(13, QFont::DemiBold));
    p.drawText(words, Qt::AlignTop | Qt::AlignLeft,
               p.fontMetrics().elidedText(text(), Qt::ElideMiddle, words.width()));
    p.setPen(failed_ ? shades().madder : shades().faint);
    p.setFont(textFont(11));
    p.drawText(words, Qt::AlignBottom | Qt::AlignLeft,
               p.fontMetrics().elidedText(facts_, Qt::ElideRight, words.width()));
}

void ShotCard::mouseDoubleClickEvent(QMouseEvent*) {
    Q_EMIT renameAsked();
}

void ShotCard::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_F2)
        Q_EMIT renameAsked();
    else if (event->modifiers().testFlag(Qt::AltModifier))
        event->ignore(); // for the list; a button would take arrows for moves of the focus
    else
        QAbstractButton::keyPressEvent(event);
}

void ShotCard::contextMenuEvent(QContextMenuEvent* event) {
    click(); // what the menu does, it does to the current shot
    Q_EMIT menuAsked(event->globalPos());
}

ShotList::ShotList(Document& document, QWidget* parent)
    : QScrollArea(parent)
    , document_(document)
    , content_(new QWidget)
    , layout_(new QVBoxLayout(content_))
    , nameField_(new QLineEdit(content_)) {
    setObjectName(QStringLiteral("shotList"));
    setAccessibleName(tr("Shots"));
    setFocusPolicy(Qt::NoFocus); // its cards take it
    setWidgetResizable(true);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFrameShape(QFrame::NoFrame);
    layout_->setContentsMargins(0, 0, 0, 0);
    layout_->setSpacing(spacing);
    layout_->addStretch();
    setWidget(content_);
    nameField_->setObjectName(QStringLiteral("shotNameField"));
    nameField_->setAccessibleName(tr("Name of the shot"));
    nameField_->hide();
    connect(nameField_, &QLineEdit::editingFinished, this, [this] {
        if (!nameField_->isVisible()) return;
        nameField_->hide();
        document_.renameCurrent(nameField_->text());
    });
    connect(&document_, &Document::shotsChanged, this, &ShotList::refresh);
    connect(&document_, &Document::mediaChanged, this, &ShotList::refresh);
    refresh();
}

void ShotList::refresh() {
    const auto& shots = document_.project().shots;
    while (cards_.size() < static_cast<qsizetype>(shots.size())) {
        auto* card = new ShotCard(content_);
        connect(card, &ShotCard::clicked, this,
                [this, index = static_cast<int>(cards_.size())] { document_.setCurrent(index); });
        connect(card, &ShotCard::renameAsked, this, &ShotList::beginRename);
        connect(card, &ShotCard::menuAsked, this, &ShotList::openMenu);
        layout_->insertWidget(layout_->count() - 1, card);
        // Left to itself Tab would come to it last in the window.
        QWidget::setTabOrder(cards_.isEmpty() ? static_cast<QWidget*>(nameField_) : cards_.last(), card);
        cards_.append(card);
    }
    while (cards_.size() > static_cast<qsizetype>(shots.size()))
        delete cards_.takeLast();
    for (qsizetype i = 0; i < cards_.size(); ++i) {
        const Shot& shot = shots[static_cast<std::size_t>(i)];
        const MediaState& state = document_.media().state(shot.media);
        QString facts;
        switch (state.stage) {
        case MediaState::Stage::opening:
            facts = tr("opening…");
            break;
        case MediaState::Stage::indexing:
            facts = tr("%1 fps · counting frames").arg(shownDecimal(state.facts.rate.display()));
            break;
        case MediaState::Stage::failed:
            facts = state.isMissing ? tr("file is missing") : state.trouble;
            break;
        case MediaState::Stage::ready:
            facts = tr("%1 fps · %2 frames")
                        .arg(shownDecimal(state.facts.rate.display()))
                        .arg(state.facts.frames);
            // What is to be done says more than the length.
            if (const auto open = doubtful_.find(static_cast<int>(i));
                open != doubtful_.end() && open->second > 0)
                facts = tr("%1 fps · %2 doubtful")
                            .arg(shownDecimal(state.facts.rate.display()))
                            .arg(open->second);
            break;
        }
        cards_[i]->setShown(QString::fromStdString(shot.name), facts, state.thumbnail,
                            i == document_.currentIndex(), state.stage == MediaState::Stage::failed);
    }
    setVisible(!cards_.isEmpty());
    if (const int count = static_cast<int>(cards_.size()); count != counted_) {
        counted_ = count;
        updateGeometry();
        Q_EMIT counted();
    }
}

void ShotList::setDoubtful(const std::map<int, int>& open) {
    if (std::exchange(doubtful_, open) != open) refresh();
}

QSize ShotList::sizeHint() const {
    const int visible = std::clamp(static_cast<int>(cards_.size()), 1, mostVisible);
    return {240, visible * (cardHeight + spacing) - spacing};
}

QSize ShotList::minimumSizeHint() const {
    return {0, cards_.isEmpty() ? 0 : cardHeight};
}

void ShotList::beginRename() {
    const int index = document_.currentIndex();
    if (index < 0) return;
    const QRect card = cards_[index]->geometry();
    nameField_->setGeometry(card.adjusted(60, 4, -4, -4));
    nameField_->setText(QString::fromStdString(document_.current()->name));
    nameField_->show();
    nameField_->raise();
    nameField_->setFocus();
    nameField_->selectAll();
}

void ShotList::openMenu(const QPoint& globalPosition) {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const auto add = [&](const QString& words, const char* keys, auto act) {
        QAction* action = menu->addAction(words);
        if (*keys) action->setShortcut(QKeySequence(QString::fromLatin1(keys)));
        connect(action, &QAction::triggered, this, act);
        return action;
    };
    add(tr("Rename"), "F2", [this] { beginRename(); });
    add(tr("Duplicate"), "Ctrl+D", [this] { document_.duplicateCurrent(); });
    add(tr("Move up"), "Alt+Up", [this] {
        document_.moveCurrent(-1);
    })->setEnabled(document_.currentIndex() > 0);
    add(tr("Move down"), "Alt+Down", [this] {
        document_.moveCurrent(1);
    })->setEnabled(document_.currentIndex() + 1 < static_cast<int>(cards_.size()));
    menu->addSeparator();
    add(tr("Find the file again…"), "", [this] { Q_EMIT findAgainAsked(); });
    add(tr("Take out of the project"), "Del", [this] { document_.removeCurrent(); });
    menu->popup(globalPosition);
}

void ShotList::keyPressEvent(QKeyEvent* press) {
    const bool alt = press->modifiers().testFlag(Qt::AltModifier);
    if (nameField_->isVisible() && press->key() == Qt::Key_Escape)
        nameField_->hide();
    else if (press->key() == Qt::Key_Delete)
        document_.removeCurrent();
    else if (press->key() == Qt::Key_F2)
        beginRename();
    else if (press->key() == Qt::Key_D && press->modifiers() == Qt::ControlModifier)
        document_.duplicateCurrent();
    else if (alt && (press->key() == Qt::Key_Up || press->key() == Qt::Key_Down))
        document_.moveCurrent(press->key() == Qt::Key_Up ? -1 : 1);
    else
        QScrollArea::keyPressEvent(press);
}

} // namespace yarngap::app
