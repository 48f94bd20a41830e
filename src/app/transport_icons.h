// Icons of the transport, drawn.
#pragma once

#include <QIcon>

namespace yarngap::app {

enum class TransportIcon { previousOriginal, stepBack, play, pause, stepForward, nextOriginal };

QIcon transportIcon(TransportIcon icon);

} // namespace yarngap::app
