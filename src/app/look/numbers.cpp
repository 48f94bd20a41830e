#include "app/look/numbers.h"

#include <QLocale>

#include <cmath>

namespace yarngap::app {

namespace {

QLocale plainLocale() {
    QLocale locale;
    locale.setNumberOptions(QLocale::OmitGroupSeparator);
    return locale;
}

} // namespace

QString shownNumber(double value, int decimals) {
    return plainLocale().toString(value, 'f', decimals);
}

QString shownShortly(double value, int decimals) {
    const double grain = std::pow(10, decimals);
    return plainLocale().toString(std::round(value * grain) / grain, 'f', QLocale::FloatingPointShortest);
}

QString shownDecimal(std::string_view written) {
    return QString::fromUtf8(written.data(), static_cast<qsizetype>(written.size()))
        .replace(QLatin1Char('.'), QLocale().decimalPoint());
}

} // namespace yarngap::app
