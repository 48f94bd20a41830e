#include "app/shot_list.h"

#include "app/theme.h"

#include <QKeyEvent>
#include <QPainter>

namespace yarngap::app {

namespace {

constexpr int cardHeight = 38;
constexpr int spacing = 4;
constexpr int mostVisible = 4;

} // namespace

ShotCard::ShotCard(QWidget* parent)
    : QAbstractButton(parent) {
    setFixedHeight(cardHeight);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setFocusPolicy(Qt::TabFocus);
}

void ShotCard::setShown(const QString& name, const QString& facts, const QImage& thumbnail, bool current,
                        bool failed) {
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
    p.setPen(QPen(current_ || hasFocus() ? colour::indigo : colour::seam, 1));
    p.setBrush(current_ ? colour::paper : colour::cloth);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
    const QRectF slot(4, 4, 53, cardHeight - 8);
    p.fillRect(slot, colour::stage);
    if (!thumbnail_.isNull()) {
        const QSizeF size = QSizeF(thumbnail_.size()).scaled(slot.size(), Qt::KeepAspectRatio);
        p.drawImage(QRectF(slot.center() - QPointF(size.width() / 2, size.height() / 2), size), thumbnail_);
    }
    const QRect words = rect().adjusted(66, 3, -6, -3);
    p.setPen(colour::ink);
    p.setFont(textFont(13, QFont::DemiBold));
    p.drawText(words, Qt::AlignTop | Qt::AlignLeft,
               p.fontMetrics().elidedText(text(), Qt::ElideMiddle, words.width()));
    p.setPen(failed_ ? colour::madder : colour::faint);
    p.setFont(textFont(11));
    p.drawText(words, Qt::AlignBottom | Qt::AlignLeft,
               p.fontMetrics().elidedText(facts_, Qt::ElideRight, words.width()));
}

ShotList::ShotList(Document& document, QWidget* parent)
    : QScrollArea(parent)
    , document_(document)
    , content_(new QWidget)
    , layout_(new QVBoxLayout(content_)) {
    setObjectName(QStringLiteral("shotList"));
    setAccessibleName(tr("Shots"));
    setWidgetResizable(true);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFrameShape(QFrame::NoFrame);
    layout_->setContentsMargins(0, 0, 0, 0);
    layout_->setSpacing(spacing);
    layout_->addStretch();
    setWidget(content_);
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
        layout_->insertWidget(layout_->count() - 1, card);
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
            facts = tr("%1 fps · counting frames").arg(QString::fromStdString(state.facts.rate.display()));
            break;
        case MediaState::Stage::failed:
            facts = state.trouble;
            break;
        case MediaState::Stage::ready:
            facts = tr("%1 fps · %2 frames · %3 × %4")
                        .arg(QString::fromStdString(state.facts.rate.display()))
                        .arg(state.facts.frames)
                        .arg(state.facts.width)
                        .arg(state.facts.height);
            break;
        }
        cards_[i]->setShown(QString::fromStdString(shot.name), facts, state.thumbnail,
                            i == document_.currentIndex(), state.stage == MediaState::Stage::failed);
    }
    const int visible = std::clamp(static_cast<int>(cards_.size()), 1, mostVisible);
    setFixedHeight(visible * (cardHeight + spacing) - spacing);
    setVisible(!cards_.isEmpty());
}

void ShotList::keyPressEvent(QKeyEvent* press) {
    if (press->key() == Qt::Key_Delete)
        document_.removeCurrent();
    else
        QScrollArea::keyPressEvent(press);
}

} // namespace yarngap::app
