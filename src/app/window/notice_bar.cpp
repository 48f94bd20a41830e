#include "app/window/notice_bar.h"

#include "app/access/drawn_parts.h"

#include <QHBoxLayout>
#include <QTime>

namespace yarngap::app {

NoticeBar::NoticeBar(QWidget* parent)
    : QWidget(parent)
    , text_(new QLabel)
    , row_(new QHBoxLayout(this))
    , dismiss_(new QPushButton(tr("Dismiss"))) {
    setAttribute(Qt::WA_StyledBackground);
    row_->setContentsMargins(16, 4, 12, 4);
    row_->setSpacing(8);
    text_->setWordWrap(true);
    text_->setObjectName(QStringLiteral("notice"));
    dismiss_->setProperty("role", "flat");
    row_->addWidget(text_, 1);
    row_->addWidget(dismiss_);
    connect(dismiss_, &QPushButton::clicked, this, &QWidget::hide);
    readOutNews(*this, {});
    hide();
}

void NoticeBar::tell(const QString& sentence, std::vector<Answer> answers) {
    for (QPushButton* button : buttons_) {
        button->hide();
        button->deleteLater(); // it may be the one whose click led here
    }
    buttons_.clear();
    for (Answer& answer : answers) {
        auto* button = new QPushButton(answer.text);
        row_->insertWidget(row_->count() - 1, button);
        connect(button, &QPushButton::clicked, this, [this, act = std::move(answer.act)] {
            hide();
            act();
        });
        buttons_.push_back(button);
    }
    text_->setText(sentence);
    readOutNews(*this, sentence);
    constexpr qsizetype most = 100;
    told_ << QTime::currentTime().toString(Qt::ISODate) + QLatin1Char(' ') + sentence;
    if (told_.size() > most) told_.removeFirst();
    show();
}

} // namespace yarngap::app
