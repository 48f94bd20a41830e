#include "app/steps/render_step.h"
#include "app/steps/step_layout.h"

#include "core/error.h"

#include <QDesktopServices>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QUrl>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {

constexpr std::initializer_list<OutputFormat> formats{OutputFormat::ffv1Mkv, OutputFormat::h264Mp4,
                                                      OutputFormat::proresMov, OutputFormat::pngSequence,
                                                      OutputFormat::exrSequence};

QString duration(double seconds) {
    const auto s = static_cast<int>(std::lround(seconds));
    return s < 60 ? RenderStep::tr("%1 s").arg(s) : RenderStep::tr("%1 min %2 s").arg(s / 60).arg(s % 60);
}

} // namespace

RenderStep::RenderStep(Workspace& workspace, std::shared_ptr<VectorStore> vectors,
                       std::shared_ptr<FrameFolder> finished)
    : StepBody(workspace)
    , vectors_(std::move(vectors))
    , finished_(std::move(finished))
    , scope_(new ChoiceBox)
    , format_(new ChoiceBox)
    , undecodable_(new ChoiceBox)
    , target_(new QLineEdit)
    , choose_(new QPushButton(tr("Choose…")))
    , replaces_(new QLabel)
    , start_(new QPushButton(tr("Render")))
    , cancel_(new QPushButton(tr("Cancel")))
    , openFolder_(new QPushButton(tr("Open folder")))
    , progress_(new QProgressBar)
    , status_(faintLabel()) {
    layOut();
    fillChoices();
    connectParts();
}

void RenderStep::layOut() {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(10, 2, 10, 10);
    layout->setSpacing(8);
    layout->addWidget(scope_);
    layout->addWidget(format_);
    layout->addWidget(undecodable_);
    layout->addWidget(target_);
    replaces_->setWordWrap(true);
    layout->addWidget(replaces_);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    row->addWidget(choose_);
    row->addWidget(start_, 1);
    row->addWidget(cancel_, 1);
    layout->addLayout(row);
    layout->addWidget(progress_);
    layout->addWidget(status_);
    layout->addWidget(openFolder_);
}

void RenderStep::fillChoices() {
    scope_->setObjectName(QStringLiteral("scopeBox"));
    scope_->setAccessibleName(tr("What to render"));
    scope_->addItem(tr("This shot"));
    scope_->addItem(tr("Reel: all shots, one file"));
    scope_->setToolTip(
        tr("A reel joins all shots in the order of the list; nothing is made across its cuts"));
    format_->setObjectName(QStringLiteral("formatBox"));
    format_->setAccessibleName(tr("Output format"));
    undecodable_->setObjectName(QStringLiteral("undecodableBox"));
    undecodable_->setAccessibleName(tr("What becomes of frames that cannot be decoded"));
    undecodable_->addItem(tr("Undecodable frames: hold"), static_cast<int>(WhenUndecodable::hold));
    undecodable_->addItem(tr("Undecodable frames: stop"), static_cast<int>(WhenUndecodable::stop));
    undecodable_->setToolTip(
        tr("Some frames of the file cannot be decoded. The render can hold the frame before "
           "in their place and count them, or stop and write nothing."));
    for (QPushButton* button : {choose_, start_, cancel_, openFolder_})
        button->setFocusPolicy(Qt::TabFocus); // a click leaves the keys with the transport
    target_->setObjectName(QStringLiteral("targetField"));
    target_->setAccessibleName(tr("Output file"));
    start_->setObjectName(QStringLiteral("renderButton"));
    start_->setProperty("role", "main");
    cancel_->setObjectName(QStringLiteral("cancelButton"));
    openFolder_->setObjectName(QStringLiteral("openFolderButton"));
    replaces_->setObjectName(QStringLiteral("replacesLabel"));
    status_->setObjectName(QStringLiteral("renderStatus"));
    progress_->setTextVisible(false);
    progress_->setAccessibleName(tr("Render progress"));
    for (const OutputFormat f : formats)
        format_->addItem(text(name(f)), static_cast<int>(f));
}

void RenderStep::connectParts() {
    connect(scope_, &QComboBox::activated, this, [this] {
        suggestedFor_.clear();
        refresh();
    });
    connect(format_, &QComboBox::activated, this, [this] {
        const QFileInfo file(target_->text());
        if (!target_->text().isEmpty())
            target_->setText(file.path() + QLatin1Char('/') + file.completeBaseName() +
                             text(extension(format())));
        refresh();
    });
    connect(target_, &QLineEdit::textEdited, this, [this](const QString& typed) {
        targetTyped_ = true;
        for (const OutputFormat f : formats)
            if (typed.endsWith(text(extension(f)), Qt::CaseInsensitive))
                format_->setCurrentIndex(format_->findData(static_cast<int>(f)));
        refresh();
    });
    connect(target_, &QLineEdit::returnPressed, target_, &QWidget::clearFocus);
    connect(choose_, &QPushButton::clicked, this, &RenderStep::chooseTarget);
    connect(start_, &QPushButton::clicked, this, &RenderStep::start);
    connect(cancel_, &QPushButton::clicked, this, [this] { workspace_.render.cancel(); });
    connect(openFolder_, &QPushButton::clicked, this, [this] {
        QDesktopServices::openUrl(QUrl::fromLocalFile(QFileInfo(target_->text()).absolutePath()));
    });
    connect(&workspace_.render, &RenderController::changed, this, [this] { refresh(); });
    connect(&workspace_.render, &RenderController::finished, this, [this] {
        lookedAt_.clear(); // there is something new
        refresh();
    });
}

OutputFormat RenderStep::format() const {
    return static_cast<OutputFormat>(format_->currentData().toInt());
}

void RenderStep::suggestTarget() {
    const Shot* shot = workspace_.document.current();
    const QString key = shot ? QString::fromStdString(shot->media.string() + shot->name) +
                                   (wholeReel() ? QStringLiteral(" reel") : QString())
                             : QString();
    if (key == suggestedFor_) return;
    suggestedFor_ = key;
    targetTyped_ = false;
    if (!shot) return;
    const QFileInfo media(QString::fromStdString(shot->media.string()));
    const std::string& project = workspace_.document.project().name;
    const QString stem =
        !wholeReel() ? QString::fromStdString(shot->name)
        : project.empty()
            ? tr("reel")
            : QString::fromStdString(project).replace(QLatin1Char('/'), QLatin1Char('-')) + tr(" reel");
    target_->setText(media.absolutePath() + QLatin1Char('/') + stem + QStringLiteral("_yarngap") +
                     text(extension(format())));
}

void RenderStep::chooseTarget() {
    const QString chosen = QFileDialog::getSaveFileName(
        this, tr("Render to"), target_->text(), tr("Video or pictures (*.mkv *.mp4 *.mov *.png *.exr)"),
        nullptr, QFileDialog::DontConfirmOverwrite);
    if (chosen.isEmpty()) return;
    target_->setText(chosen);
    Q_EMIT target_->textEdited(chosen);
}

bool RenderStep::wholeReel() const {
    return scope_->currentIndex() == 1 && workspace_.document.project().shots.size() > 1;
}

std::vector<RenderRequest> RenderStep::reel() const {
    std::vector<RenderRequest> requests;
    Document& document = workspace_.document;
    const Rate rate = document.currentTiming()->outputRate;
    for (const Shot& shot : document.project().shots) {
        const auto& index = document.media().state(shot.media).index;
        const auto axis = document.axisOf(shot);
        if (!axis)
            throw Error(shot.name +
                        " is not ready yet, or its file is missing. Look at its card in the list.");
        validate(shot.interpretation, *index);
        const Timing timing = withOutputRate(shot.timing(axis->facts().rate, axis->frames()), rate);
        requests.push_back(
            {shot, timing, index, axis, document.gapFindingsOf(shot), document.media().known()});
    }
    return requests;
}

QString RenderStep::target() const {
    const QString typed = target_->text();
    return typed.isEmpty() || !QFileInfo(typed).suffix().isEmpty() ? typed
                                                                   : typed + text(extension(format()));
}

void RenderStep::lookAtTarget() {
    const QString now = target();
    if (now == lookedAt_) return;
    lookedAt_ = now;
    whatIsThere_.clear();
    if (now.isEmpty()) return;
    looking_.run([this, now](const std::stop_token&) {
        const std::filesystem::path path = now.toStdString();
        QString found;
        try {
            std::error_code ec;
            if (!isSequence(formatForTarget(path))) {
                if (std::filesystem::exists(path, ec)) found = tr("This file exists and will be replaced.");
            } else if (const auto there = picturesThere(path); !there.empty()) {
                found = tr("%n pictures of that name exist and will be replaced.", nullptr,
                           static_cast<int>(there.size()));
            }
        } catch (const Error&) {
            // Rendering tells what is wrong with the name.
        }
        postTo(this, [this, now, found] {
            if (now != target()) return;
            whatIsThere_ = found;
            showState();
        });
    });
}

bool RenderStep::hasUndecodable() const {
    Document& document = workspace_.document;
    const auto has = [&](const Shot& shot) {
        const MediaState& media = document.media().state(shot.media);
        if (media.findings && !media.findings->undecodable.empty()) return true;
        return media.index &&
               std::any_of(media.index->pictures.begin(), media.index->pictures.end(),
                           [](const std::filesystem::path& picture) { return picture.empty(); });
    };
    if (!wholeReel()) return document.current() && has(*document.current());
    const auto& shots = document.project().shots;
    return std::any_of(shots.begin(), shots.end(), has);
}

std::vector<std::filesystem::path> RenderStep::filesToKeep() const {
    const Document& document = workspace_.document;
    std::vector<std::filesystem::path> files{document.file().toStdString()};
    for (const Shot& shot : document.project().shots) {
        files.push_back(shot.media);
        files.push_back(shot.matte.pictures);
    }
    return files;
}

void RenderStep::start() {
    Document& document = workspace_.document;
    const auto timing = document.currentTiming();
    const auto media = document.currentMedia();
    const Shot* shot = document.current();
    if (!workspace_.plan() || !timing || !media || !shot) return;
    renderedTarget_ = target();
    const std::filesystem::path path = renderedTarget_.toStdString();
    try {
        RenderOptions options{path, formatForTarget(path), timing->outputRate};
        options.whenUndecodable = static_cast<WhenUndecodable>(undecodable_->currentData().toInt());
        options.replace = !whatIsThere_.isEmpty(); // the button said so
        if (wholeReel())
            workspace_.render.start(tr("reel"), reel(), vectors_, finished_, options, filesToKeep());
        else
            workspace_.render.start(QString::fromStdString(shot->name),
                                    {{*shot, *timing, media, document.currentAxis(),
                                      document.gapFindingsOf(*shot), document.media().known()}},
                                    vectors_, finished_, options, filesToKeep());
    } catch (const Error& error) {
        status_->setText(QString::fromStdString(error.what()));
        status_->setVisible(true);
    }
}

QString RenderStep::outcomeWords() const {
    const RenderController& render = workspace_.render;
    QString told = render.outcome();
    const auto& r = render.report();
    if (!r) return told;
    QStringList counts;
    const std::initializer_list<std::pair<std::int64_t, QString>> kinds{
        {r->originals, tr("original")}, {r->repeats, tr("repeat")}, {r->blends, tr("blend")},
        {r->flows, tr("flow")},         {r->held, tr("held")},      {r->standIns, tr("with a stand-in")}};
    for (const auto& [n, kind] : kinds)
        if (n > 0) counts << tr("%1 %2").arg(n).arg(kind);
    told += QLatin1Char(' ') + tr("%1, in %2.").arg(counts.join(QStringLiteral(", ")), duration(r->seconds));
    for (const std::string& note : r->notes)
        told += QLatin1Char('\n') + QString::fromStdString(note);
    return told;
}

void RenderStep::showState() {
    const RenderController& render = workspace_.render;
    const bool running = render.running();
    // What was just rendered is no surprise there.
    const bool again = render.report() && target() == renderedTarget_;
    replaces_->setVisible(!whatIsThere_.isEmpty() && !running && !again);
    replaces_->setText(whatIsThere_);
    start_->setVisible(!running);
    start_->setEnabled(workspace_.plan() != nullptr && !target_->text().isEmpty());
    start_->setText(again                    ? tr("Render again")
                    : whatIsThere_.isEmpty() ? tr("Render")
                                             : tr("Render and replace"));
    cancel_->setVisible(running);
    progress_->setVisible(running);
    openFolder_->setVisible(!running && render.report().has_value());
    const RenderProgress& p = render.progress();
    if (running) {
        progress_->setRange(0, 1000);
        progress_->setValue(p.total > 0 ? static_cast<int>(p.done * 1000 / p.total) : 0);
        status_->setText(tr("%1: frame %2 of %3").arg(render.shotName()).arg(p.done).arg(p.total) +
                         (p.secondsLeft >= 0 ? tr(", %1 left").arg(duration(p.secondsLeft)) : QString()));
    } else {
        status_->setText(outcomeWords());
    }
    status_->setVisible(!status_->text().isEmpty());
    status_->setStyleSheet(render.failed() || render.hasStandIns() ? QStringLiteral("color: #A63A2B;")
                                                                   : QString());
}

QString RenderStep::refresh() {
    scope_->setVisible(workspace_.document.project().shots.size() > 1);
    suggestTarget();
    undecodable_->setVisible(hasUndecodable());
    lookAtTarget();
    showState();
    const RenderController& render = workspace_.render;
    const RenderProgress& p = render.progress();
    const QString format = text(name(this->format())).section(QLatin1Char('/'), 0, 0).trimmed();
    if (render.running()) return tr("%1 %").arg(p.total > 0 ? p.done * 100 / p.total : 0);
    if (render.failed()) return tr("failed");
    if (render.hasStandIns()) return tr("%1, with stand-ins").arg(format);
    return render.report() ? tr("%1, done").arg(format) : tr("%1, not started").arg(format);
}

} // namespace yarngap::app
