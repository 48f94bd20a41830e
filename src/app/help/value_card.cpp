#include "app/help/value_card.h"

#include "app/help/guide_page.h"
#include "app/look/theme.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QImage>
#include <QKeyEvent>
#include <QPointer>
#include <QScreen>
#include <QVBoxLayout>

#include <algorithm>

namespace yarngap::app {

namespace {

constexpr int cardWidth = 320;
constexpr int beside = 8; ///< pixels between value and card

QLabel* paragraph(const QString& text, const char* name) {
    auto* label = new QLabel(text);
    label->setObjectName(QLatin1String(name));
    label->setWordWrap(true);
    return label;
}

} // namespace

ValueCard::ValueCard(const ValueWords& words, const QWidget& value, QWidget* parent)
    : QFrame(parent, Qt::Popup)
    , picture_(new QLabel)
    , ends_(new QWidget) {
    setObjectName(QStringLiteral("valueCard"));
    setAttribute(Qt::WA_DeleteOnClose);
    setFrameShape(QFrame::StyledPanel);
    setAutoFillBackground(true);
    setFixedWidth(cardWidth);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(words.name + QStringLiteral(". ") + words.what + QLatin1Char(' ') + words.when);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 10, 14, 12);
    layout->setSpacing(6);
    auto* name = paragraph(words.name, "valueName");
    name->setFont(textFont(13, QFont::DemiBold));
    layout->addWidget(name);
    layout->addWidget(paragraph(words.what, "valueWhat"));
    auto* when = paragraph(words.when, "valueWhen");
    when->setProperty("role", "faint");
    layout->addWidget(when);
    picture_->setObjectName(QStringLiteral("valuePicture"));
    picture_->hide();
    layout->addWidget(picture_);
    auto* ends = new QHBoxLayout(ends_);
    ends->setContentsMargins(0, 0, 0, 0);
    for (const QString& word : {words.less, words.more}) {
        auto* end = new QLabel(word);
        end->setAlignment(Qt::AlignCenter);
        end->setProperty("role", "faint");
        ends->addWidget(end, 1);
    }
    ends_->hide();
    layout->addWidget(ends_);
    placeBeside(value);
    const QString guide = guideFile();
    if (!words.picture.isEmpty() && !guide.isEmpty())
        readPicture(QFileInfo(guide).path() + QStringLiteral("/values/") + words.picture);
}

void ValueCard::readPicture(const QString& file) {
    tasks_.run([this, file](const std::stop_token&) {
        const QImage image(file);
        if (image.isNull()) return;
        const QImage fitting = image.scaledToWidth(cardWidth - 28, Qt::SmoothTransformation);
        postTo(this, [this, fitting] {
            picture_->setPixmap(QPixmap::fromImage(fitting));
            picture_->show();
            ends_->show();
            adjustSize();
        });
    });
}

void ValueCard::placeBeside(const QWidget& value) {
    adjustSize();
    const QRect there(value.mapToGlobal(QPoint()), value.size());
    const QRect screen = value.screen()->availableGeometry();
    QPoint at(there.right() + beside, there.top());
    if (at.x() + width() > screen.right()) at = {there.left(), there.bottom() + beside};
    at.setX(std::clamp(at.x(), screen.left(), std::max(screen.left(), screen.right() - width())));
    at.setY(std::clamp(at.y(), screen.top(), std::max(screen.top(), screen.bottom() - height())));
    move(at);
}

void ValueCard::keyPressEvent(QKeyEvent* press) {
    if (press->key() == Qt::Key_Escape) close();
    QFrame::keyPressEvent(press);
}

std::optional<ValueUnder> valueUnder(QWidget* widget) {
    for (QWidget* one = widget; one && !one->isWindow(); one = one->parentWidget()) {
        QWidget* value = one;
        if (const auto* caption = qobject_cast<const QLabel*>(one); caption && caption->buddy())
            value = caption->buddy();
        if (const auto words = wordsForValue(value->objectName())) return ValueUnder{value, *words};
    }
    return std::nullopt;
}

} // namespace yarngap::app
