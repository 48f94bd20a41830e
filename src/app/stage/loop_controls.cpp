#include "app/stage/loop_controls.h"

#include "app/look/transport_icons.h"

#include <QHBoxLayout>

#include <algorithm>

namespace yarngap::app {

LoopControls::LoopControls(Player& player, Preview& preview, QWidget* parent)
    : QWidget(parent)
    , player_(player)
    , preview_(preview)
    , loop_(new QToolButton)
    , back_(new QToolButton)
    , ready_(new QToolButton) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(4, 0, 0, 0);
    row->setSpacing(4);
    const auto add = [&](QToolButton* button, TransportIcon icon, const char* objectName, const QString& tip,
                         auto action) {
        prepareTransportButton(*button, icon, tip);
        button->setObjectName(QLatin1String(objectName));
        button->setCheckable(true);
        connect(button, &QToolButton::clicked, this, action);
        row->addWidget(button);
    };
    add(loop_, TransportIcon::loop, "loopButton",
        tr("Loop the selected stretch, or a second around the playhead (G)"), [this] { toggleLoop(); });
    add(back_, TransportIcon::thereAndBack, "thereAndBackButton", tr("Play there and back (Shift+G)"),
        [this] { toggleThereAndBack(); });
    add(ready_, TransportIcon::readyThenPlay, "readyButton",
        tr("Make it ready, then play it, so that no frame comes late (Shift+Space)"),
        [this] { readyThenPlay(); });
    connect(&player_, &Player::loopChanged, this, [this] {
        waiting_ = false;
        preview_.setLoop(player_.loop());
        refresh();
    });
    connect(&player_, &Player::stateChanged, this, [this] {
        if (player_.speed() == 0 || !waiting_) return;
        waiting_ = false; // it was started without waiting
        refresh();
    });
    for (const auto signal : {&Preview::pictureReady, &Preview::draftReady})
        connect(&preview_, signal, this, &LoopControls::look);
    connect(&preview_, &Preview::readyReset, this, &LoopControls::look);
    refresh();
}

void LoopControls::toggleLoop() {
    if (player_.loop())
        player_.setLoop(std::nullopt);
    else if (choose_ && player_.frames() > 0)
        player_.setLoop(choose_());
    refresh();
}

void LoopControls::toggleThereAndBack() {
    player_.setThereAndBack(!player_.isThereAndBack());
    refresh();
}

void LoopControls::readyThenPlay() {
    if (waiting_ || player_.frames() == 0) {
        waiting_ = false;
        preview_.setLoop(player_.loop());
        refresh();
        return;
    }
    player_.pause();
    const auto [first, last] = player_.played();
    const qint64 room = std::max<qint64>(1, preview_.room());
    if (last - first + 1 > room) {
        const qint64 from = std::clamp(player_.playhead(), first, last);
        player_.setLoop(Range(from, std::min(last, from + room - 1)));
    }
    waiting_ = true;
    preview_.setLoop(player_.played());
    look();
    refresh();
}

void LoopControls::leave() {
    waiting_ = false;
    player_.setLoop(std::nullopt);
    preview_.setLoop(std::nullopt);
    refresh();
}

std::pair<qint64, qint64> LoopControls::countReady() const {
    const auto [first, last] = player_.played();
    const auto& ready = preview_.ready();
    qint64 count = 0;
    for (qint64 i = first; i <= last && i < static_cast<qint64>(ready.size()); ++i) {
        const Readiness readiness = ready[static_cast<std::size_t>(i)];
        // What cannot be made is not waited for.
        count += readiness == Readiness::ready || readiness == Readiness::failed ? 1 : 0;
    }
    return {count, last - first + 1};
}

void LoopControls::look() {
    if (!waiting_) return;
    const auto [ready, all] = countReady();
    if (ready == all) {
        waiting_ = false;
        player_.goTo(player_.played().first);
        player_.play(1);
    }
    refresh();
}

QString LoopControls::waitingText() const {
    if (!waiting_) return {};
    const auto [ready, all] = countReady();
    return tr("making ready, %1 of %2").arg(ready).arg(all);
}

void LoopControls::refresh() {
    loop_->setChecked(player_.loop().has_value());
    back_->setChecked(player_.isThereAndBack());
    ready_->setChecked(waiting_);
    Q_EMIT changed();
}

} // namespace yarngap::app
