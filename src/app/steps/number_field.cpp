#include "app/steps/number_field.h"

#include "app/steps/step_layout.h"
#include "core/error.h"
#include "core/time/rational.h"

#include <QLocale>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

NumberField::NumberField(const QString& caption, const QString& accessibleName, const char* objectName,
                         const NumberForm& form, QWidget* parent)
    : QWidget(parent)
    , form_(form)
    , field_(new ValueField(accessibleName)) {
    field_->setObjectName(QString::fromLatin1(objectName));
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(captioned(caption, field_));
    connect(field_, &ValueField::refused, this, &NumberField::problem);
    connect(field_, &ValueField::typed, this, [this](const QString& typed) {
        try {
            const std::string unit = form_.unit.toStdString();
            const double value = Rational::parse(bare(typed, {unit.c_str()})).toDouble();
            if (value < form_.least || value > form_.most)
                throw Error(tr("Type a value from %1 to %2.")
                                .arg(QLocale().toString(form_.least, 'f', form_.decimals),
                                     QLocale().toString(form_.most, 'f', form_.decimals))
                                .toStdString());
            Q_EMIT changed(value, false);
            setNumber(value_); // also when nothing changed, so that the field shows the value again
        } catch (const Error& error) {
            field_->refuse(QString::fromStdString(error.what()));
        }
    });
    connect(field_, &ValueField::stepped, this, [this](int steps, bool) {
        const double stepped = (std::round(value_ / form_.step) + steps) * form_.step;
        Q_EMIT changed(std::clamp(stepped, form_.least, form_.most), true);
    });
}

void NumberField::setNumber(double value) {
    value_ = value;
    const QString number = QLocale().toString(value, 'f', form_.decimals);
    field_->setShown(form_.unit.isEmpty() ? number : number + QLatin1Char(' ') + form_.unit);
}

} // namespace yarngap::app
