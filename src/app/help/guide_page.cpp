#include "app/help/guide_page.h"

#include <QAbstractTextDocumentLayout>
#include <QCoreApplication>
#include <QFile>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QRegularExpression>
#include <QScrollBar>
#include <QTextBlock>
#include <QVBoxLayout>

namespace yarngap::app {

namespace {

constexpr int pictureWidth = 620;

} // namespace

QString guideFile() {
    const QString programs = QCoreApplication::applicationDirPath();
    for (const char* place : {"/../share/yarngap/guide.md", "/../../../docs/guide.md"})
        if (const QFileInfo file(programs + QLatin1String(place)); file.isFile())
            return file.canonicalFilePath();
    return {};
}

void GuideText::show(const QString& markdown, const QHash<QString, QImage>& pictures) {
    pictures_ = pictures;
    setMarkdown(markdown);
}

QVariant GuideText::loadResource(int type, const QUrl& name) {
    if (type == QTextDocument::ImageResource) return pictures_.value(name.toString());
    return {};
}

GuidePage::GuidePage(QWidget* parent)
    : QWidget(parent)
    , search_(new QLineEdit)
    , chapters_(new QListWidget)
    , text_(new GuideText)
    , says_(new QLabel) {
    search_->setObjectName(QStringLiteral("guideSearch"));
    search_->setPlaceholderText(tr("Search the guide; Enter goes on to the next place"));
    search_->setAccessibleName(tr("Search the guide"));
    search_->setClearButtonEnabled(true);
    chapters_->setObjectName(QStringLiteral("guideChapters"));
    chapters_->setAccessibleName(tr("Chapters"));
    chapters_->setFixedWidth(230);
    text_->setObjectName(QStringLiteral("guideText"));
    text_->setAccessibleName(tr("Guide"));
    text_->setOpenLinks(false);
    says_->setObjectName(QStringLiteral("guideSentence"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(12, 12, 12, 12);
    column->addWidget(search_);
    auto* row = new QHBoxLayout;
    row->addWidget(chapters_);
    row->addWidget(text_, 1);
    column->addLayout(row, 1);
    column->addWidget(says_);
    connect(chapters_, &QListWidget::currentTextChanged, this, &GuidePage::goTo);
    connect(search_, &QLineEdit::returnPressed, this, &GuidePage::findNext);
    if (const QString file = guideFile(); !file.isEmpty())
        read(file);
    else
        says_->setText(tr("The guide is not installed. Install Yarn Gap again."));
}

void GuidePage::read(const QString& file) {
    tasks_.run([this, file](const std::stop_token& stop) {
        QFile guide(file);
        const QString markdown =
            guide.open(QIODevice::ReadOnly) ? QString::fromUtf8(guide.readAll()) : QString();
        static const QRegularExpression named(QStringLiteral("!\\[[^\\]]*\\]\\(([^)]+)\\)"));
        QHash<QString, QImage> pictures;
        for (auto at = named.globalMatch(markdown); at.hasNext() && !stop.stop_requested();) {
            const QString name = at.next().captured(1);
            const QImage image(QFileInfo(file).path() + QLatin1Char('/') + name);
            pictures.insert(name, image.width() > pictureWidth
                                      ? image.scaledToWidth(pictureWidth, Qt::SmoothTransformation)
                                      : image);
        }
        postTo(this, [this, markdown, pictures] {
            text_->show(markdown, pictures);
            listChapters();
            if (!wanted_.isEmpty()) goTo(wanted_);
        });
    });
}

void GuidePage::focusSearch() {
    search_->setFocus();
    search_->selectAll();
}

void GuidePage::listChapters() {
    constexpr int chapterLevel = 2;
    for (QTextBlock block = text_->document()->begin(); block.isValid(); block = block.next())
        if (block.blockFormat().headingLevel() == chapterLevel) chapters_->addItem(block.text());
}

void GuidePage::goTo(const QString& heading) {
    wanted_ = heading;
    for (QTextBlock block = text_->document()->begin(); block.isValid(); block = block.next()) {
        if (block.blockFormat().headingLevel() == 0 || block.text() != heading) continue;
        text_->setTextCursor(QTextCursor(block));
        const QRectF place = text_->document()->documentLayout()->blockBoundingRect(block);
        text_->verticalScrollBar()->setValue(static_cast<int>(place.top()));
        const QList<QListWidgetItem*> items = chapters_->findItems(heading, Qt::MatchExactly);
        if (!items.isEmpty()) chapters_->setCurrentItem(items.front());
        return;
    }
}

void GuidePage::findNext() {
    const QString wanted = search_->text().trimmed();
    says_->clear();
    if (wanted.isEmpty() || text_->find(wanted)) return;
    text_->moveCursor(QTextCursor::Start); // and round again
    if (!text_->find(wanted)) says_->setText(tr("“%1” is not in the guide.").arg(wanted));
}

} // namespace yarngap::app
