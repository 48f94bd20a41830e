#include "app/help/guide_page.h"

#include <QAbstractTextDocumentLayout>
#include <QCoreApplication>
#include <QFile>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QImage>
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

QVariant GuideText::loadResource(int type, const QUrl& name) {
    QVariant found = QTextBrowser::loadResource(type, name);
    if (type != QTextDocument::ImageResource) return found;
    const QImage image = QImage::fromData(found.toByteArray());
    return image.width() > pictureWidth ? image.scaledToWidth(pictureWidth, Qt::SmoothTransformation) : image;
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
    const QString file = guideFile();
    QFile guide(file);
    if (!file.isEmpty() && guide.open(QIODevice::ReadOnly)) {
        text_->setSearchPaths({QFileInfo(file).path()});
        text_->setMarkdown(QString::fromUtf8(guide.readAll()));
        listChapters();
    } else {
        says_->setText(tr("The guide is not installed. Install Yarn Gap again."));
    }
    connect(chapters_, &QListWidget::currentTextChanged, this, &GuidePage::goTo);
    connect(search_, &QLineEdit::returnPressed, this, &GuidePage::findNext);
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

bool GuidePage::goTo(const QString& heading) {
    for (QTextBlock block = text_->document()->begin(); block.isValid(); block = block.next()) {
        if (block.blockFormat().headingLevel() == 0 || block.text() != heading) continue;
        text_->setTextCursor(QTextCursor(block));
        const QRectF place = text_->document()->documentLayout()->blockBoundingRect(block);
        text_->verticalScrollBar()->setValue(static_cast<int>(place.top()));
        const QList<QListWidgetItem*> items = chapters_->findItems(heading, Qt::MatchExactly);
        if (!items.isEmpty() && chapters_->currentItem() != items.front())
            chapters_->setCurrentItem(items.front());
        return true;
    }
    return false;
}

void GuidePage::findNext() {
    const QString wanted = search_->text().trimmed();
    says_->clear();
    if (wanted.isEmpty() || text_->find(wanted)) return;
    text_->moveCursor(QTextCursor::Start); // and round again
    if (!text_->find(wanted)) says_->setText(tr("“%1” is not in the guide.").arg(wanted));
}

} // namespace yarngap::app
