// Icons of the transport, drawn.
#pragma once

#include <QIcon>
#include <QToolButton>

namespace yarngap::app {

enum class TransportIcon {
    previousOriginal,
    stepBack,
    play,
    pause,
    stepForward,
    nextOriginal,
    loop,
    thereAndBack,
    readyThenPlay,
    sound
};

QIcon transportIcon(TransportIcon icon);
/// Gives a button the look of the transport.
void prepareTransportButton(QToolButton& button, TransportIcon icon, const QString& tip);

} // namespace yarngap::app
