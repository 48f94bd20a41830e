// Every step and sheet of a window, one after the other, and what is wrong with how it is laid out.
#pragma once

#include "support/shot_window.h"

#include <QStringList>

#include <functional>

namespace yarngap::test {

/// Lets what has changed reach the layout.
void settleLayout();

/// Opens each step and each sheet, and calls look() with its name. On a failure of the test it ends early.
void walkScreens(const ShotWindow& window, const std::function<void(const QString&)>& look);

/// What is read or pressed.
bool isShownControl(const QWidget& widget);

/// What is cut, off the window or over something else. Buttons that can end in … must not, unless they may.
QStringList faultsOf(const QWidget& window, bool mayElide = false);

} // namespace yarngap::test
