#include "app/stage/transport_bar.h"
#include "app/stage/stage_tools.h"

#include "app/look/numbers.h"
#include "app/look/transport_icons.h"
#include "core/time/timecode.h"

#include <QHBoxLayout>

#include <algorithm>
#include <cmath>
#include <utility>

namespace yarngap::app {

TransportBar::TransportBar(Player& player, Preview& preview, QWidget* parent)
    : QWidget(parent)
    , player_(player)
    , loops_(new LoopControls(player, preview))
    , timecode_(new SteadyLabel(SteadyLabel::Room::widest, QStringLiteral("timecodeLabel"),
                                QStringLiteral("color: white; font-weight: 600; font-size: 14px;")))
    , sourceTimecode_(new SteadyLabel(SteadyLabel::Room::widest, QStringLiteral("sourceTimecodeLabel"),
                                      QStringLiteral("color: #E4E2DD; font-size: 12px;")))
    , state_(new SteadyLabel(SteadyLabel::Room::widest, QStringLiteral("playState"),
                             QStringLiteral("color: #E4E2DD; font-size: 12px;")))
    , play_(new QToolButton)
    , sound_(new QToolButton)
    , zoom_(stageButton({}, QStringLiteral("zoomButton"),
                        tr("Switch between fitting the window and 100 %; the wheel zooms"))) {
    timecode_->setToolTip(tr("Where the playhead is in the result, from its first frame"));
    sourceTimecode_->setToolTip(tr("Timecode of the source frame before the playhead"));
    state_->label().setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    giveStateItsRoom();
    prepareZoom();
    auto* line = new QHBoxLayout(this);
    line->setContentsMargins(16, 0, 16, 0);
    auto* left = new QHBoxLayout;
    left->setSpacing(12);
    left->addWidget(timecode_);
    left->addWidget(sourceTimecode_, 1);
    line->addLayout(left, 1);
    line->addWidget(pill());
    auto* right = new QHBoxLayout;
    right->setSpacing(8);
    right->addSpacing(8);
    right->addWidget(zoom_);
    right->addWidget(state_, 1);
    line->addLayout(right, 1);
}

QWidget* TransportBar::pill() {
    const auto button = [this](QToolButton* b, TransportIcon icon, const QString& tip, auto action) {
        prepareTransportButton(*b, icon, tip);
        connect(b, &QToolButton::clicked, this, action);
        return b;
    };
    auto* pill = new QWidget;
    pill->setStyleSheet(QStringLiteral(".QWidget { background: #5A5A5A; border-radius: 16px; }"));
    auto* row = new QHBoxLayout(pill);
    row->setContentsMargins(12, 2, 12, 2);
    row->setSpacing(4);
    row->addWidget(button(new QToolButton, TransportIcon::previousOriginal,
                          tr("Previous original (Shift+Left)"), [this] { Q_EMIT originalAsked(-1); }));
    row->addWidget(button(new QToolButton, TransportIcon::stepBack, tr("One frame back (Left)"),
                          [this] { player_.goTo(player_.playhead() - 1); }));
    row->addWidget(
        button(play_, TransportIcon::play, tr("Play or pause (Space)"), [this] { player_.togglePlay(); }));
    row->addWidget(button(new QToolButton, TransportIcon::stepForward, tr("One frame on (Right)"),
                          [this] { player_.goTo(player_.playhead() + 1); }));
    row->addWidget(button(new QToolButton, TransportIcon::nextOriginal, tr("Next original (Shift+Right)"),
                          [this] { Q_EMIT originalAsked(1); }));
    row->addWidget(loops_);
    row->addWidget(sound_);
    prepareTransportButton(*sound_, TransportIcon::sound, tr("Sound"));
    sound_->setObjectName(QStringLiteral("soundButton"));
    sound_->setCheckable(true);
    sound_->hide();
    play_->setObjectName(QStringLiteral("playButton"));
    return pill;
}

void TransportBar::prepareZoom() {
    zoom_->setAutoRaise(true);
    zoom_->setStyleSheet(QStringLiteral(
        "QToolButton { color: #E4E2DD; border: 1px solid transparent; font-size: 12px; padding: 2px 6px; "
        "border-radius: 4px; }"
        "QToolButton:hover { background: #7C7C7C; } QToolButton:focus { border-color: white; }"));
    zoom_->setAccessibleName(tr("Zoom"));
    connect(zoom_, &QToolButton::clicked, this, &TransportBar::zoomAsked);
}

void TransportBar::refresh(const Rate& outputRate, const QString& source) {
    sourceTimecode_->tell(source.isEmpty() ? source : tr("source %1").arg(source));
    timecode_->tell(QString::fromStdString(Timecode(outputRate).format(player_.playhead())));
    state_->tell(stateWords(shownDecimal(outputRate.display())));
    showWhatPlayDoes();
}

/// Not with every frame: the row would be laid out anew.
void TransportBar::showWhatPlayDoes() {
    const bool isPlay = player_.speed() == 0;
    if (std::exchange(isPlayShown_, isPlay) == isPlay) return;
    play_->setIcon(transportIcon(isPlay ? TransportIcon::play : TransportIcon::pause));
    giveStateItsRoom(); // what was said of late frames took more
}

void TransportBar::giveStateItsRoom() {
    constexpr int usual = 110; // so that the buttons stay where they are
    state_->settle();
    state_->setMinimumWidth(std::max(usual, state_->minimumWidth()));
}

QString TransportBar::stateWords(const QString& rate) const {
    if (loops_->isWaiting()) return loops_->waitingText();
    if (player_.speed() == 0) {
        const auto loop = player_.loop();
        return loop ? tr("loop %1 to %2 · %3 fps").arg(loop->first).arg(loop->second).arg(rate)
                    : tr("%1 of %2 · %3 fps").arg(player_.playhead() + 1).arg(player_.frames()).arg(rate);
    }
    const double wanted = player_.rate() * std::abs(player_.speed());
    if (player_.notShown() > 0)
        return tr("%1 of %2 fps · %n frames not shown in time", nullptr, static_cast<int>(player_.notShown()))
            .arg(shownNumber(player_.shownRate(), 1))
            .arg(wanted, 0, 'f', wanted == std::floor(wanted) ? 0 : 2);
    return player_.speed() == 1 ? tr("playing %1 fps").arg(rate)
                                : tr("playing %1 × %2 fps").arg(player_.speed()).arg(rate);
}

} // namespace yarngap::app
