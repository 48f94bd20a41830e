#include "app/steps/farm_parts.h"

#include <QFileInfo>
#include <QHBoxLayout>

namespace yarngap::app {

namespace {

QString wordFor(FarmState::Slice slice) {
    switch (slice) {
    case FarmState::Slice::waiting:
        return FarmParts::tr("waits");
    case FarmState::Slice::running:
        return FarmParts::tr("runs");
    case FarmState::Slice::ready:
        return FarmParts::tr("ready");
    case FarmState::Slice::failed:
        return FarmParts::tr("failed");
    }
    return {};
}

QString wordFor(FarmState::Join join) {
    switch (join) {
    case FarmState::Join::waiting:
        return FarmParts::tr("waits");
    case FarmState::Join::running:
        return FarmParts::tr("runs");
    case FarmState::Join::done:
        return FarmParts::tr("done");
    case FarmState::Join::failed:
        return FarmParts::tr("failed");
    }
    return {};
}

} // namespace

FarmParts::FarmParts(RenderController& render, const QueuedRender& job, QWidget* parent)
    : QDialog(parent)
    , render_(render)
    , number_(job.number)
    , target_(job.work.targets.front().file)
    , parts_(new QListWidget)
    , log_(new QPlainTextEdit) {
    setObjectName(QStringLiteral("farmParts"));
    setWindowTitle(tr("Parts of %1").arg(QFileInfo(QString::fromStdString(target_.string())).fileName()));
    constexpr int listWidth = 150;
    resize(720, 420);
    parts_->setObjectName(QStringLiteral("farmPartsList"));
    parts_->setAccessibleName(tr("Parts"));
    parts_->setFixedWidth(listWidth);
    log_->setObjectName(QStringLiteral("farmLog"));
    log_->setAccessibleName(tr("Log of the part"));
    log_->setReadOnly(true);
    log_->setPlaceholderText(tr("Nothing was logged yet."));
    auto* row = new QHBoxLayout(this);
    row->addWidget(parts_);
    row->addWidget(log_, 1);
    const auto ofThis = [this](qint64 number) {
        if (number == number_) showStates();
    };
    connect(&render_.farm(), &FarmWatch::looked, this, ofThis);
    connect(&render_.farm(), &FarmWatch::ended, this, ofThis);
    connect(&render_.farm(), &FarmWatch::logRead, this, &FarmParts::showLog);
    connect(parts_, &QListWidget::currentRowChanged, this, &FarmParts::readLog);
    showStates();
    readLog();
}

void FarmParts::showStates() {
    const FarmState* state = render_.farm().state(number_);
    if (!state) return; // what was known last stays, with the log
    const int parts = static_cast<int>(state->slices.size());
    while (parts_->count() < parts + 1)
        parts_->addItem(QString());
    for (int n = 0; n < parts; ++n)
        parts_->item(n)->setText(
            tr("Part %1: %2").arg(n).arg(wordFor(state->slices[static_cast<std::size_t>(n)])));
    parts_->item(parts)->setText(tr("Join: %1").arg(wordFor(state->join)));
    if (parts_->currentRow() < 0) parts_->setCurrentRow(0);
    readLog();
}

int FarmParts::slice() const {
    const int row = parts_->currentRow();
    return row == parts_->count() - 1 ? -1 : row;
}

void FarmParts::readLog() {
    const int chosen = slice();
    render_.farm().readLog(target_, chosen < 0 ? std::nullopt : std::optional(chosen));
}

void FarmParts::showLog(const QString& target, int part, const QString& text) {
    if (target != QString::fromStdString(target_.string()) || part != slice()) return; // another window's
    if (text != log_->toPlainText()) log_->setPlainText(text); // or what was scrolled to is lost
}

} // namespace yarngap::app
