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

RenderStep::RenderStep(Workspace& workspace)
    : StepBody(workspace)
    , scope_(new ChoiceBox)
    , output_(new OutputSettings)
    , undecodable_(new ChoiceBox)
    , handles_(new ChoiceBox)
    , where_(new ChoiceBox)
    , target_(new QLineEdit)
    , choose_(new QPushButton(QStringLiteral("…")))
    , presets_(new OutputPresets(*output_))
    , forecastLabel_(faintLabel())
    , replaces_(new QLabel)
    , start_(new QPushButton(tr("Render")))
    , cancel_(new QPushButton(tr("Cancel")))
    , openFolder_(new QPushButton(tr("Open folder")))
    , progress_(new QProgressBar)
    , status_(faintLabel())
    , queue_(new RenderQueueList(workspace.render))
    , return_(new EditReturn(workspace.render, this)) {
    layOut();
    fillChoices();
    presets_->recall();
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
    layout->addWidget(where_);
    forecastLabel_->setWordWrap(true);
    layout->addWidget(forecastLabel_);
    replaces_->setWordWrap(true);
    layout->addWidget(replaces_);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    row->addWidget(presets_);
    row->addWidget(start_, 1);
    layout->addLayout(row);
    auto* going = new QHBoxLayout;
    going->setSpacing(8);
    going->addWidget(progress_, 1);
    going->addWidget(cancel_);
    layout->addLayout(going);
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
        handles_->addItem(frames == 0 ? tr("No handles") : tr("Handles of %n frames", nullptr, frames),
                          frames);
    handles_->setCurrentIndex(2);
    where_->setObjectName(QStringLiteral("whereBox"));
    where_->setAccessibleName(tr("Where to render"));
    where_->addItem(tr("On this machine"), false);
    where_->addItem(tr("On the farm, by Slurm"), true);
    where_->setToolTip(tr("A farm makes parts on several machines, which must see the media and the result "
                          "under the same paths"));
    where_->setVisible(FarmWatch::isThere());
    scope_->setToolTip(
        tr("A reel joins all shots in the order of the list; nothing is made across its cuts"));
    forecastLabel_->setObjectName(QStringLiteral("forecastLabel"));
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
    for (QPushButton* button :
         std::initializer_list<QPushButton*>{choose_, presets_, start_, cancel_, openFolder_})
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
    // Counting the frames of all shots can wait until the hand rests.
    constexpr int rest = 300; // ms
    paused_.setSingleShot(true);
    paused_.setInterval(rest);
    connect(&paused_, &QTimer::timeout, this, [this] {
        ++edits_;
        if (scope() == RenderScope::reel || scope() == RenderScope::each) lookAtTarget();
    });
    const auto edited = [this] { paused_.start(); };
    connect(&workspace_.document, &Document::shotEdited, this, edited);
    connect(&workspace_.document, &Document::shotsChanged, this, edited);
    connect(where_, &QComboBox::activated, this, [this] { refresh(); });
    connect(&workspace_.player, &Player::loopChanged, this, [this] { refresh(); });
    connect(output_, &OutputSettings::changed, this, [this] {
        const QFileInfo file(target_->text());
        const auto endings = extensions(format());
        const std::string ending = '.' + file.suffix().toLower().toStdString();
        if (!target_->text().isEmpty() && std::ranges::count(endings, ending) == 0)
            target_->setText(file.path() + QLatin1Char('/') + file.completeBaseName() +
                             text(extension(format())));
        presets_->remember();
        refresh();
    });
    connect(target_, &QLineEdit::textEdited, this, [this](const QString& typed) {
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
        refresh();
    });
    connect(return_, &EditReturn::told, this, &RenderStep::tell);
    connect(presets_, &OutputPresets::told, this, &RenderStep::tell);
}

void RenderStep::tell(const QString& sentence, bool isTrouble) {
    told_ = sentence;
    isTrouble_ = isTrouble;
    showState();
}

void RenderStep::suggestTarget() {
    const Shot* shot = workspace_.document.current();
    const QString key = shot ? QString::fromStdString(shot->media.string() + shot->name) +
                                   (scope() == RenderScope::reel   ? QStringLiteral(" reel")
                                    : scope() == RenderScope::each ? QStringLiteral(" each")
                                    : scope() == RenderScope::edit ? QStringLiteral(" edit")
                                                                   : QString())
                             : QString();
    if (key == suggestedFor_) return;
    suggestedFor_ = key;
    if (!shot) return;
    const QFileInfo media(QString::fromStdString(shot->media.string()));
    const std::string& project = workspace_.document.project().name;
    const QString stem =
        scope() == RenderScope::edit   ? QStringLiteral("{shot}_v{version}")
        : scope() == RenderScope::each ? QStringLiteral("{shot}")
        : scope() != RenderScope::reel ? QString::fromStdString(shot->name)
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

RenderScope RenderStep::scope() const {
    const auto chosen = static_cast<RenderScope>(scope_->currentIndex());
    const bool several = workspace_.document.project().shots.size() > 1;
    if ((chosen == RenderScope::reel || chosen == RenderScope::each) && !several) return RenderScope::shot;
    if (chosen == RenderScope::edit && !hasEdit()) return RenderScope::shot;
    if (chosen == RenderScope::loop && !workspace_.player.loop()) return RenderScope::shot;
    return chosen;
}

RenderWish RenderStep::wish() const {
    RenderWish wish{.scope = scope(),
                    .pattern = target().toStdString(),
                    .settings = output_->settings(),
                    .also = output_->also(),
                    .loop = workspace_.player.loop(),
                    .replace = !whatIsThere_.isEmpty()}; // the button said so
    wish.settings.whenUndecodable = static_cast<WhenUndecodable>(undecodable_->currentData().toInt());
    return wish;
}

QString RenderStep::target() const {
    QString typed = target_->text();
    if (typed.isEmpty()) return typed;
    const std::string ending = '.' + QFileInfo(typed).suffix().toLower().toStdString();
    for (const OutputFormat known : outputFormats())
        if (std::ranges::count(extensions(known), ending) > 0) return typed;
    return typed + text(extension(format()));
}

QString RenderStep::lookKey() const {
    QString key = target() + QString::number(scope_->currentIndex()) +
                  QString::number(output_->also() ? static_cast<int>(*output_->also()) : -1);
    for (const Shot& shot : workspace_.document.project().shots)
        key += QLatin1Char('\n') + QString::fromStdString(shot.name + ' ' + std::string(keyOf(shot.method)) +
                                                          ' ' + shot.speed.toString());
    if (scope() == RenderScope::reel || scope() == RenderScope::each) // whose frames are counted, too
        key += QString::number(edits_) + QLatin1Char(' ');
    return key + QString::number(workspace_.document.currentIndex());
}

void RenderStep::lookAtTarget() {
    const QString key = lookKey();
    if (key == lookedAt_ || !workspace_.plan()) return;
    lookedAt_ = key;
    whatIsThere_.clear();
    fileName_.clear();
    severalWords_.clear();
    std::vector<RenderWork> works;
    const RenderWish asked = wish();
    try {
        if (asked.scope != RenderScope::edit && !asked.pattern.empty())
            works = worksFor(asked, workspace_.document);
    } catch (const Error&) {
        return; // Rendering tells what is wrong.
    }
    looking_.run([this, key, asked, works, taken = workspace_.render.filesToCome(),
                  known = workspace_.document.media().known()](const std::stop_token& stop) mutable {
        QString found;
        QString name;
        QString several;
        try {
            giveNames(works, asked, {});
            found = app::whatIsThere(works);
            if (works.size() == 1) {
                if (countsVersions(asked)) giveNames(works, asked, taken);
                name = QString::fromStdString(works.front().targets.front().file.filename().string());
            }
        } catch (const Error&) {
            // Rendering tells what is wrong with the name.
        }
        try {
            if (asked.scope == RenderScope::reel || asked.scope == RenderScope::each)
                several = RenderForecast::ofSeveral(works, *known, stop);
        } catch (const std::exception&) {
            // Likewise of a shot.
        }
        postTo(this, [this, key, found, name, several] {
            if (key != lookedAt_) return;
            severalWords_ = several;
            whatIsThere_ = found;
            fileName_ = name;
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
    if (scope() == RenderScope::shot || scope() == RenderScope::loop)
        return document.current() && has(*document.current());
    const auto& shots = document.project().shots;
    return std::any_of(shots.begin(), shots.end(), has);
}

void RenderStep::start() {
    if (!workspace_.plan() || !workspace_.document.current()) return;
    tell({}, false);
    const RenderWish asked = wish();
    if (asked.scope == RenderScope::edit) {
        handBack(asked);
        return;
    }
    try {
        std::vector<RenderWork> works = worksFor(asked, workspace_.document);
        const auto taken = workspace_.render.filesToCome();
        if (!countsVersions(asked)) {
            giveNames(works, asked, taken);
            add(std::move(works));
            return;
        }
        looking_.run([this, works = std::move(works), asked, taken](const std::stop_token&) mutable {
            try {
                giveNames(works, asked, taken);
                postTo(this, [this, works = std::move(works)]() mutable { add(std::move(works)); });
            } catch (const Error& error) {
                postTo(this,
                       [this, sentence = QString::fromStdString(error.what())] { tell(sentence, true); });
            }
        });
    } catch (const Error& error) {
        tell(QString::fromStdString(error.what()), true);
    }
}

void RenderStep::add(std::vector<RenderWork> works) {
    renderedTarget_ = lookedAt_;
    for (RenderWork& work : works)
        workspace_.render.add(std::move(work), where_->currentData().toBool());
    lookedAt_.clear(); // their names are taken now
    refresh();
    renderedTarget_ = lookedAt_;
}

bool RenderStep::hasEdit() const {
    const auto& shots = workspace_.document.project().shots;
    return std::any_of(shots.begin(), shots.end(), [](const Shot& shot) { return shot.edit.has_value(); });
}

QString RenderStep::listName() const {
    // A project that has no name of its own yet has that of the edit.
    const Project& project = workspace_.document.project();
    const auto ofEdit =
        std::ranges::find_if(project.shots, [](const Shot& shot) { return shot.edit.has_value(); });
    QString name = QString::fromStdString(project.name);
    if (workspace_.document.file().isEmpty() && ofEdit != project.shots.end())
        name = QFileInfo(QString::fromStdString(ofEdit->edit->list.string())).completeBaseName();
    name.replace(QLatin1Char('/'), QLatin1Char('-'));
    return QFileInfo(target()).absolutePath() + QLatin1Char('/') + tr("%1 back").arg(name);
}

void RenderStep::handBack(const RenderWish& asked) {
    Document& document = workspace_.document;
    return_->start(document.project().shots,
                   {.pattern = asked.pattern,
                    .handles = handles_->currentData().toInt(),
                    .settings = asked.settings,
                    .replace = asked.replace,
                    .taken = workspace_.render.filesToCome()},
                   listName(), document.media().known(), filesToKeep(document),
                   where_->currentData().toBool());
}

QString RenderStep::refresh() {
    handles_->setVisible(scope() == RenderScope::edit);
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
