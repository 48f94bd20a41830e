#include "app/help/report_page.h"

#include "app/window/preferences.h"
#include "core/error.h"
#include "core/files/new_file.h"
#include "core/memory_shares.h"
#include "core/version.h"

#include <QDateTime>
#include <QDir>
#include <QFileDialog>
#include <QGuiApplication>
#include <QHBoxLayout>
#include <QLocale>
#include <QScreen>
#include <QSysInfo>
#include <QVBoxLayout>

#include <thread>

namespace yarngap::app {

QString machineReport() {
    QStringList lines{
        QStringLiteral("Yarn Gap %1").arg(QString::fromUtf8(version())),
        QStringLiteral("Qt %1, %2").arg(QLatin1String(qVersion()), QGuiApplication::platformName()),
        QStringLiteral("%1, kernel %2").arg(QSysInfo::prettyProductName(), QSysInfo::kernelVersion()),
        QStringLiteral("%1 processors, %2 of memory")
            .arg(std::thread::hardware_concurrency())
            .arg(displayBytes(machineMemory())),
        QStringLiteral("Language and numbers: %1").arg(QLocale().name()),
    };
    for (const QScreen* screen : QGuiApplication::screens())
        lines << QStringLiteral("Screen %1 x %2, scale %3")
                     .arg(screen->size().width())
                     .arg(screen->size().height())
                     .arg(screen->devicePixelRatio());
    return lines.join(QLatin1Char('\n'));
}

ReportPage::ReportPage(QWidget* parent)
    : QWidget(parent)
    , text_(new QPlainTextEdit)
    , save_(new QPushButton(tr("Save report…")))
    , says_(new QLabel) {
    auto* why = new QLabel(tr(
        "When something goes wrong, save this and pass it on with what you did. It holds versions, settings, "
        "what the program told you, and the project: no pictures and no sound, but names of files. Read it "
        "first; nothing is sent."));
    why->setWordWrap(true);
    text_->setObjectName(QStringLiteral("reportText"));
    text_->setAccessibleName(tr("Problem report"));
    text_->setReadOnly(true);
    save_->setObjectName(QStringLiteral("saveReportButton"));
    says_->setObjectName(QStringLiteral("reportSentence"));
    says_->setWordWrap(true);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(12, 12, 12, 12);
    column->addWidget(why);
    column->addWidget(text_, 1);
    auto* row = new QHBoxLayout;
    row->addWidget(says_, 1);
    row->addWidget(save_);
    column->addLayout(row);
    connect(save_, &QPushButton::clicked, this, [this] {
        const QString name =
            QStringLiteral("yarngap-report-%1.txt")
                .arg(QDateTime::currentDateTime().toString(QStringLiteral("yyyy-MM-dd-HHmm")));
        auto* dialog = new QFileDialog(this, tr("Save the report"), QDir::homePath());
        dialog->setAttribute(Qt::WA_DeleteOnClose);
        dialog->setAcceptMode(QFileDialog::AcceptSave);
        dialog->selectFile(name);
        connect(dialog, &QFileDialog::fileSelected, this, &ReportPage::saveTo);
        dialog->open();
    });
}

void ReportPage::setReport(const QString& more) {
    text_->setPlainText(machineReport() + QStringLiteral("\n\n") + more);
    says_->clear();
}

void ReportPage::saveTo(const QString& file) {
    tasks_.run([this, file, text = text_->toPlainText().toStdString() + '\n'](const std::stop_token&) {
        QString said = tr("Saved as %1").arg(QDir::toNativeSeparators(file));
        try {
            writeWhole(file.toStdString(), text);
        } catch (const Error& error) {
            said = QString::fromUtf8(error.what());
        }
        postTo(this, [this, said] { says_->setText(said); });
    });
}

} // namespace yarngap::app
