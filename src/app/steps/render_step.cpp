#include "app/steps/render_step.h"
#include "app/steps/step_layout.h"

#include "core/edit/hand_back.h"
#include "core/error.h"
#include "core/files/new_file.h"
#include "core/project/work_file.h"
#include "core/render/file_names.h"

#include <QDesktopServices>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QMenu>
#include <QSettings>
#include <QUrl>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {

const QString settingsKey = QStringLiteral("render/settings");

QString presetFiles() {
    return RenderStep::tr("Output settings (*.json)");
}

QString duration(double seconds) {
    const auto s = static_cast<int>(std::lround(seconds));
    return s < 60 ? RenderStep::tr("%1 s").arg(s) : RenderStep::tr("%1 min %2 s").arg(s / 60).arg(s % 60);
}

} // namespace

RenderStep::RenderStep(Workspace& workspace)
    : StepBody(workspace)
    , scope_(new ChoiceBox)
    , output_(new OutputSettings)
    , undecodable_(new ChoiceBox)
    , handles_(new ChoiceBox)
    , target_(new QLineEdit)
    , choose_(new QPushButton(QStringLiteral("…")))
    , presets_(new QPushButton(tr("Presets")))
    , forecast_(faintLabel())
    , replaces_(new QLabel)
    , start_(new QPushButton(tr("Render")))
    , cancel_(new QPushButton(tr("Cancel")))
    , openFolder_(new QPushButton(tr("Open folder")))
    , progress_(new QProgressBar)
    , status_(faintLabel())
    , queue_(new RenderQueueList(workspace.render)) {
    layOut();
    fillChoices();
    preparePresets();
    loadSettings();
    connectParts();
}

void RenderStep::layOut() {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(10, 2, 10, 10);
    layout->setSpacing(8);
    layout->addWidget(scope_);
    auto* name = new QHBoxLayout;
    name->setSpacing(6);
    name->addWidget(target_, 1);
    name->addWidget(choose_);
    layout->addLayout(name);
    layout->addWidget(output_);
    layout->addWidget(undecodable_);
    layout->addWidget(handles_);
    forecast_->setWordWrap(true);
    layout->addWidget(forecast_);
    replaces_->setWordWrap(true);
    layout->addWidget(replaces_);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    row->addWidget(presets_);
    row->addWidget(start_, 1);
    row->addWidget(cancel_);
    layout->addLayout(row);
    layout->addWidget(progress_);
    layout->addWidget(status_);
    layout->addWidget(openFolder_);
    layout->addWidget(queue_);
}

void RenderStep::fillChoices() {
    scope_->setObjectName(QStringLiteral("scopeBox"));
    scope_->setAccessibleName(tr("What to render"));
    scope_->addItem(tr("This shot"));
    scope_->addItem(tr("Reel: all shots, one file"));
    scope_->addItem(tr("All shots, a file each"));
    scope_->addItem(tr("The loop alone"));
    scope_->addItem(tr("Back to the edit"));
    handles_->setObjectName(QStringLiteral("handlesBox"));
    handles_->setAccessibleName(tr("Handles"));
    handles_->setToolTip(tr("Frames before and after each shot, where its media has them"));
    for (const int frames : {0, 8, 12, 24, 48})
        handles_->addItem(frames == 0 ? tr("No handles") : tr("Handles of %1 frames").arg(frames), frames);
    handles_->setCurrentIndex(2);
    scope_->setToolTip(
        tr("A reel joins all shots in the order of the list; nothing is made across its cuts"));
    forecast_->setObjectName(QStringLiteral("forecastLabel"));
    undecodable_->setObjectName(QStringLiteral("undecodableBox"));
    undecodable_->setAccessibleName(tr("What becomes of frames that cannot be decoded"));
    undecodable_->addItem(tr("Undecodable frames: hold"), static_cast<int>(WhenUndecodable::hold));
    undecodable_->addItem(tr("Undecodable frames: stop"), static_cast<int>(WhenUndecodable::stop));
    undecodable_->setToolTip(
        tr("Some frames of the file cannot be decoded. The render can hold the frame before "
           "in their place and count them, or stop and write nothing."));
    choose_->setAccessibleName(tr("Choose file"));
    choose_->setToolTip(tr("Choose folder and name"));
    choose_->setFixedWidth(32);
    target_->setToolTip(tr("{shot}, {method}, {speed}, {rate}, {date}, {version} and {frame} are filled in"));
    presets_->setObjectName(QStringLiteral("outputPresetsButton"));
    for (QPushButton* button : {choose_, presets_, start_, cancel_, openFolder_})
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
}

void RenderStep::connectParts() {
    connect(scope_, &QComboBox::activated, this, [this] {
        suggestedFor_.clear();
        refresh();
    });
    connect(&workspace_.player, &Player::loopChanged, this, [this] { refresh(); });
    connect(output_, &OutputSettings::changed, this, [this] {
        const QFileInfo file(target_->text());
        const auto endings = extensions(format());
        const std::string ending = '.' + file.suffix().toLower().toStdString();
        if (!target_->text().isEmpty() && std::ranges::count(endings, ending) == 0)
            target_->setText(file.path() + QLatin1Char('/') + file.completeBaseName() +
                             text(extension(format())));
        keepSettings();
        refresh();
    });
    connect(target_, &QLineEdit::textEdited, this, [this](const QString& typed) {
        targetTyped_ = true;
        try {
            const OutputFormat typedFormat = formatForTarget(typed.toStdString());
            const std::string ending = '.' + QFileInfo(typed).suffix().toLower().toStdString();
            if (std::ranges::count(extensions(format()), ending) == 0) output_->setFormat(typedFormat);
        } catch (const Error&) {
            // Not typed to its end, or without an ending.
        }
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
        writeListWhenDone();
        refresh();
    });
}

void RenderStep::loadSettings() {
    const QString kept = QSettings().value(settingsKey).toString();
    if (kept.isEmpty()) return;
    try {
        output_->setSettings(parseRenderSettings(kept.toStdString(), "settings"));
    } catch (const Error&) {
        // Of another version; the usual ones are as good.
    }
}

void RenderStep::keepSettings() {
    RenderSettings settings = output_->settings();
    settings.start.clear(); // those are of one shot
    settings.reel.clear();
    if (settings.timecode == TimecodeUse::fromStart) settings.timecode = TimecodeUse::ofSource;
    QSettings().setValue(settingsKey, QString::fromStdString(renderSettingsText(settings)));
}

void RenderStep::preparePresets() {
    auto* menu = new QMenu(presets_);
    menu->addAction(tr("Save these settings…"), this, [this] {
        const QString file =
            QFileDialog::getSaveFileName(this, tr("Save output settings"), {}, presetFiles());
        if (file.isEmpty()) return;
        const std::string content = renderSettingsText(output_->settings());
        looking_.run([this, file, content](const std::stop_token&) {
            QString trouble;
            try {
                writeWhole(file.toStdString(), content);
            } catch (const Error& error) {
                trouble = QString::fromStdString(error.what());
            }
            postTo(this, [this, trouble, file] {
                told_ = trouble.isEmpty() ? tr("Saved as %1.").arg(QFileInfo(file).fileName()) : trouble;
                showState();
            });
        });
    });
    menu->addAction(tr("Take settings from a file…"), this, [this] {
        const QString file =
            QFileDialog::getOpenFileName(this, tr("Take output settings"), {}, presetFiles());
        if (file.isEmpty()) return;
        looking_.run([this, file](const std::stop_token&) {
            try {
                const RenderSettings settings = loadRenderSettings(file.toStdString());
                postTo(this, [this, settings] {
                    output_->setSettings(settings);
                    Q_EMIT output_->changed();
                });
            } catch (const Error& error) {
                postTo(this, [this, sentence = QString::fromStdString(error.what())] {
                    told_ = sentence;
                    showState();
                });
            }
        });
    });
    presets_->setMenu(menu);
}

void RenderStep::suggestTarget() {
    const Shot* shot = workspace_.document.current();
    const QString key = shot ? QString::fromStdString(shot->media.string() + shot->name) +
                                   (scope() == Scope::reel   ? QStringLiteral(" reel")
                                    : scope() == Scope::each ? QStringLiteral(" each")
                                    : scope() == Scope::edit ? QStringLiteral(" edit")
                                                             : QString())
                             : QString();
    if (key == suggestedFor_) return;
    suggestedFor_ = key;
    targetTyped_ = false;
    if (!shot) return;
    const QFileInfo media(QString::fromStdString(shot->media.string()));
    const std::string& project = workspace_.document.project().name;
    const QString stem =
        scope() == Scope::edit   ? QStringLiteral("{shot}_v{version}")
        : scope() == Scope::each ? QStringLiteral("{shot}")
        : scope() != Scope::reel ? QString::fromStdString(shot->name)
        : project.empty()
            ? tr("reel")
            : QString::fromStdString(project).replace(QLatin1Char('/'), QLatin1Char('-')) + tr(" reel");
    target_->setText(media.absolutePath() + QLatin1Char('/') + stem + QStringLiteral("_yarngap") +
                     text(extension(format())));
}

void RenderStep::chooseTarget() {
    const QString chosen = QFileDialog::getSaveFileName(
        this, tr("Render to"), target_->text(),
        tr("Video or pictures (*.mkv *.mp4 *.mov *.mxf *.webm *.png *.tif *.dpx *.jpg *.exr)"), nullptr,
        QFileDialog::DontConfirmOverwrite);
    if (chosen.isEmpty()) return;
    target_->setText(chosen);
    Q_EMIT target_->textEdited(chosen);
}

RenderStep::Scope RenderStep::scope() const {
    const auto chosen = static_cast<Scope>(scope_->currentIndex());
    const bool several = workspace_.document.project().shots.size() > 1;
    if ((chosen == Scope::reel || chosen == Scope::each) && !several) return Scope::shot;
    if (chosen == Scope::edit && !hasEdit()) return Scope::shot;
    if (chosen == Scope::loop && !workspace_.player.loop()) return Scope::shot;
    return chosen;
}

WorkShot RenderStep::workOf(const Shot& shot, const std::optional<Rate>& rate) const {
    Document& document = workspace_.document;
    const auto& index = document.media().state(shot.media).index;
    const auto axis = document.axisOf(shot);
    if (!index || !axis)
        throw Error(shot.name + " is not ready yet, or its file is missing. Look at its card in the list.");
    validate(shot.interpretation, *index);
    WorkShot work{.shot = shot, .timing = shot.timing(axis->facts().rate, axis->frames())};
    if (rate) work.timing = withOutputRate(work.timing, *rate);
    work.found = document.gapFindingsOf(shot);
    return work;
}

std::vector<RenderWork> RenderStep::works() {
    Document& document = workspace_.document;
    const Shot* current = document.current();
    const std::string pattern = target().toStdString();
    const auto described = [&](std::vector<WorkShot> shots, const QString& name) {
        RenderWork work;
        work.name = name.toStdString();
        work.shots = std::move(shots);
        work.settings = output_->settings();
        work.settings.whenUndecodable = static_cast<WhenUndecodable>(undecodable_->currentData().toInt());
        const WorkShot& first = work.shots.front();
        const std::filesystem::path file = fileNamed(pattern, first.shot, first.timing);
        refuseEnding(file, work.settings.format.format);
        const bool replace = !whatIsThere_.isEmpty(); // the button said so
        work.targets.push_back({file, work.settings.format, replace});
        if (const auto second = output_->also()) {
            std::filesystem::path other = file;
            other.replace_extension(extension(*second));
            if (other == file)
                other.replace_filename(file.stem().string() + "_2" + std::string(extension(*second)));
            work.targets.push_back({other, *second, replace});
        }
        work.spared = filesToKeep();
        return work;
    };
    std::vector<RenderWork> works;
    switch (scope()) {
    case Scope::each:
        for (const Shot& shot : document.project().shots)
            works.push_back(described({workOf(shot, {})}, QString::fromStdString(shot.name)));
        if (works.size() > 1 && !namesShots(pattern))
            throw Error("All shots would get one name. Put {shot} or {version} into it.");
        break;
    case Scope::reel: {
        const Rate rate = document.currentTiming()->outputRate;
        std::vector<WorkShot> shots;
        for (const Shot& shot : document.project().shots)
            shots.push_back(workOf(shot, rate));
        works.push_back(described(std::move(shots), tr("reel")));
        break;
    }
    case Scope::edit: // see handBack()
    case Scope::loop:
    case Scope::shot: {
        WorkShot work = workOf(*current, {});
        work.timing = *document.currentTiming();
        if (const auto loop = workspace_.player.loop(); loop && scope() == Scope::loop) {
            work.first = loop->first;
            work.last = loop->second;
        }
        works.push_back(described({work}, QString::fromStdString(current->name)));
        break;
    }
    }
    return works;
}

QString RenderStep::forecast() const {
    const auto plan = workspace_.plan();
    Document& document = workspace_.document;
    const auto axis = document.currentAxis();
    const auto timing = document.currentTiming();
    if (!plan || !axis || !timing || scope() == Scope::each || scope() == Scope::reel ||
        scope() == Scope::edit)
        return {};
    std::int64_t first = 0;
    std::int64_t end = static_cast<std::int64_t>(plan->rows.size());
    if (const auto loop = workspace_.player.loop(); loop && scope() == Scope::loop) {
        first = loop->first;
        end = loop->second + 1;
    }
    std::int64_t originals = 0;
    std::int64_t toMake = 0;
    for (std::int64_t n = first; n < end; ++n) {
        const FrameKind kind = plan->rows[static_cast<std::size_t>(n)].kind;
        originals += kind == FrameKind::original ? 1 : 0;
        toMake += kind == FrameKind::flow || kind == FrameKind::blend ? 1 : 0;
    }
    const std::int64_t frames = end - first;
    QStringList parts;
    if (originals > 0) parts << tr("%1 original").arg(originals);
    if (const std::int64_t others = frames - originals - toMake; others > 0)
        parts << tr("%1 copied").arg(others);
    const std::int64_t ready = workspace_.readyFrames ? workspace_.readyFrames(first, end) : 0;
    if (toMake > 0)
        parts << (ready > 0 ? tr("%1 to make, of which %2 are ready").arg(toMake).arg(ready)
                            : tr("%1 to make").arg(toMake));
    const MediaFacts& facts = axis->facts();
    const RenderSettings settings = output_->settings();
    const double bytes = bytesPerFrame(settings.format, facts.width, facts.height, facts.layout) *
                         static_cast<double>(framesWritten(settings.scan, frames));
    constexpr double megabyte = 1e6;
    const double mb = bytes / megabyte;
    const QString size =
        mb >= 1000 ? tr("%1 GB").arg(mb / 1000, 0, 'f', 1) : tr("%1 MB").arg(std::max(1.0, std::round(mb)));
    return tr("%n frames: %1. About %2.", nullptr, static_cast<int>(frames))
        .arg(parts.join(QStringLiteral(", ")), size);
}

QString RenderStep::target() const {
    QString typed = target_->text();
    if (typed.isEmpty()) return typed;
    const std::string ending = '.' + QFileInfo(typed).suffix().toLower().toStdString();
    for (const OutputFormat known : outputFormats())
        if (std::ranges::count(extensions(known), ending) > 0) return typed;
    return typed + text(extension(format()));
}

void RenderStep::lookAtTarget() {
    QString now = target();
    if (const Shot* shot = workspace_.document.current(); shot && workspace_.document.currentTiming()) {
        try {
            now = QString::fromStdString(
                fileNamed(now.toStdString(), *shot, *workspace_.document.currentTiming()).string());
        } catch (const Error&) {
            // Rendering tells what is wrong with the name.
        }
    }
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
            if (now != lookedAt_) return;
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
    if (scope() == Scope::shot || scope() == Scope::loop)
        return document.current() && has(*document.current());
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
    if (!workspace_.plan() || !workspace_.document.current()) return;
    told_.clear();
    if (scope() == Scope::edit) {
        handBack();
        return;
    }
    try {
        for (RenderWork& work : works()) {
            renderedTarget_ = lookedAt_;
            workspace_.render.add(std::move(work));
        }
    } catch (const Error& error) {
        told_ = QString::fromStdString(error.what());
        showState();
    }
}

bool RenderStep::hasEdit() const {
    const auto& shots = workspace_.document.project().shots;
    return std::any_of(shots.begin(), shots.end(), [](const Shot& shot) { return shot.edit.has_value(); });
}

void RenderStep::handBack() {
    const QString pattern = target();
    HandBackOptions options{.pattern = pattern.toStdString(),
                            .handles = handles_->currentData().toInt(),
                            .settings = output_->settings(),
                            .replace = !whatIsThere_.isEmpty()};
    const QString list = QFileInfo(pattern).absolutePath() + QLatin1Char('/') +
                         QString::fromStdString(workspace_.document.project().name)
                             .replace(QLatin1Char('/'), QLatin1Char('-')) +
                         tr(" back.edl");
    looking_.run([this, options, list, shots = workspace_.document.project().shots,
                  known = workspace_.document.media().known(),
                  kept = filesToKeep()](const std::stop_token& stop) {
        try {
            HandedBack back = yarngap::handBack(shots, options, *known, stop);
            for (RenderWork& work : back.works)
                work.spared = kept;
            postTo(this, [this, back = std::move(back), list]() mutable {
                return_ = Return{{}, list, edlText(back.list)};
                for (RenderWork& work : back.works)
                    return_->renders.push_back(workspace_.render.add(std::move(work)));
                QStringList notes;
                for (const std::string& note : back.notes)
                    notes << QString::fromStdString(note);
                told_ = notes.join(QLatin1Char('\n'));
                showState();
            });
        } catch (const Cancelled&) {
            return;
        } catch (const Error& error) {
            postTo(this, [this, sentence = QString::fromStdString(error.what())] {
                told_ = sentence;
                showState();
            });
        }
    });
}

void RenderStep::writeListWhenDone() {
    if (!return_) return;
    for (const std::int64_t number : return_->renders) {
        const QueuedRender* job = workspace_.render.find(number);
        if (!job || job->state != QueuedRender::State::done) return; // one that failed can be tried again
    }
    looking_.run([this, file = return_->file, list = return_->list](const std::stop_token&) {
        QString told = tr("All shots are rendered. The list that replaces them is %1.").arg(file);
        try {
            writeWhole(file.toStdString(), list);
        } catch (const Error& error) {
            told = QString::fromStdString(error.what());
        }
        postTo(this, [this, told] {
            told_ = told;
            showState();
        });
    });
    return_.reset();
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
    const bool again = render.report() && lookedAt_ == renderedTarget_;
    replaces_->setVisible(!whatIsThere_.isEmpty() && !again);
    replaces_->setText(whatIsThere_);
    QString ahead = forecast();
    if (target_->text().contains(QLatin1Char('{')) && scope() != Scope::each)
        ahead = tr("Writes %1.").arg(QFileInfo(lookedAt_).fileName()) + QLatin1Char(' ') + ahead;
    forecast_->setText(ahead);
    forecast_->setVisible(!ahead.isEmpty());
    start_->setEnabled(workspace_.plan() != nullptr && !target_->text().isEmpty());
    start_->setText(running                  ? tr("Queue")
                    : again                  ? tr("Render again")
                    : whatIsThere_.isEmpty() ? tr("Render")
                                             : tr("Render and replace"));
    cancel_->setVisible(running);
    progress_->setVisible(running);
    openFolder_->setVisible(!running && render.report().has_value());
    const RenderProgress& p = render.progress();
    if (running) {
        progress_->setRange(0, 1000);
        progress_->setValue(p.total > 0 ? static_cast<int>(p.done * 1000 / p.total) : 0);
        QString told = (p.joining ? tr("%1: joining, frame %2 of %3") : tr("%1: frame %2 of %3"))
                           .arg(render.shotName())
                           .arg(p.done)
                           .arg(p.total);
        if (render.framesPerSecond() > 0) told += tr(", %1 fps").arg(render.framesPerSecond(), 0, 'f', 1);
        if (p.secondsLeft >= 0) told += tr(", %1 left").arg(duration(p.secondsLeft));
        constexpr double megabyte = 1e6;
        if (p.bytes > megabyte)
            told += tr(", %1 MB so far").arg(std::lround(static_cast<double>(p.bytes) / megabyte));
        status_->setText(told);
    } else {
        status_->setText(told_.isEmpty() ? outcomeWords() : told_);
    }
    status_->setVisible(!status_->text().isEmpty());
    status_->setStyleSheet(render.failed() || !told_.isEmpty() || render.hasStandIns()
                               ? QStringLiteral("color: #A63A2B;")
                               : QString());
}

QString RenderStep::refresh() {
    handles_->setVisible(scope() == Scope::edit);
    scope_->setVisible(workspace_.document.project().shots.size() > 1 || hasEdit() ||
                       workspace_.player.loop().has_value());
    if (const auto media = workspace_.document.currentMedia()) {
        const MediaFacts& facts = media->facts;
        output_->showSource(facts.hasSound, QString::fromStdString(facts.timecode),
                            QString::fromStdString(facts.reel));
    }
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
