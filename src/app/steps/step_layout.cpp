#include "app/steps/step_layout.h"

#include "app/look/numbers.h"
#include "app/steps/step_card.h"
#include "core/error.h"

namespace yarngap::app {

QString text(std::string_view s) {
    return QString::fromUtf8(s.data(), static_cast<qsizetype>(s.size()));
}

QString seconds(const Rational& value) {
    return shownNumber(value.toDouble(), 3) + QStringLiteral(" s");
}

QVBoxLayout* bodyLayout(QWidget* body) {
    auto* layout = new QVBoxLayout(body);
    layout->setContentsMargins(10, 2, 10, 8);
    layout->setSpacing(4);
    return layout;
}

QWidget* captioned(const QString& caption, QWidget* field) {
    auto* box = new QWidget;
    auto* layout = new QVBoxLayout(box);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(2);
    auto* label = faintLabel(caption);
    label->setBuddy(field);
    layout->addWidget(label);
    layout->addWidget(field);
    return box;
}

QLabel* problemLabel() {
    auto* label = new QLabel;
    label->setProperty("role", "error");
    label->setWordWrap(true);
    label->hide();
    return label;
}

void showProblem(QLabel* label, const QString& sentence) {
    label->setText(sentence);
    label->setVisible(!sentence.isEmpty());
}

std::string bare(const QString& typed, std::initializer_list<const char*> units) {
    QString t = typed.trimmed();
    t.remove(QChar(0x00D7));
    for (const char* unit : units)
        t.remove(QLatin1String(unit), Qt::CaseInsensitive);
    return t.trimmed().replace(QLatin1Char(','), QLatin1Char('.')).toStdString();
}

std::int64_t wholeNumber(const QString& typed, std::initializer_list<const char*> units) {
    const Rational value = Rational::parse(bare(typed, units));
    if (value.den() != 1) throw Error("A frame number is a whole number.");
    return value.num();
}

} // namespace yarngap::app
