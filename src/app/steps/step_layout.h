// What the bodies of the steps are built from.
#pragma once

#include "app/steps/step_card.h"
#include "core/time/rational.h"

#include <QLabel>
#include <QString>
#include <QVBoxLayout>

#include <cstdint>
#include <initializer_list>
#include <string>
#include <string_view>

namespace yarngap::app {

[[nodiscard]] QString text(std::string_view s);
/// "16.000 s"
[[nodiscard]] QString seconds(const Rational& value);
/// Column with the margins of a step's body.
QVBoxLayout* bodyLayout(QWidget* body);
/// A field under its caption.
QWidget* captioned(const QString& caption, QWidget* field);
/// Hidden until showProblem gives it a sentence.
QLabel* problemLabel();
void showProblem(QLabel* label, const QString& sentence);
/// What was typed, without units and with a decimal point.
[[nodiscard]] std::string bare(const QString& typed, std::initializer_list<const char*> units);
/// The same as a number of frames. Throws Error for parts of one.
[[nodiscard]] std::int64_t wholeNumber(const QString& typed, std::initializer_list<const char*> units);

} // namespace yarngap::app
