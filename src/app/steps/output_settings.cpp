#include "app/steps/output_settings.h"

#include "app/look/core_names.h"
#include "app/look/value_field.h"
#include "app/steps/finish_row.h"
#include "app/steps/step_layout.h"
#include "core/media/encoders_there.h"
#include "core/time/timecode.h"

#include <QSignalBlocker>
#include <QStandardItemModel>
#include <QVBoxLayout>

#include <algorithm>
#include <array>

namespace yarngap::app {

namespace {

QString depthWords(int depth) {
    return depth == FormatChoice::half   ? OutputSettings::tr("16 bit half")
           : depth == FormatChoice::real ? OutputSettings::tr("32 bit float")
                                         : OutputSettings::tr("%1 bit").arg(depth);
}

constexpr std::array scans{OutputScan::progressive, OutputScan::topFirst, OutputScan::bottomFirst,
                           OutputScan::pulldown32, OutputScan::pulldown2332};
constexpr std::array uses{SoundUse::ownPitch, SoundUse::tape, SoundUse::atFullSpeed, SoundUse::none};

QString words(OutputScan scan) {
    switch (scan) {
    case OutputScan::topFirst:
        return OutputSettings::tr("top first");
    case OutputScan::bottomFirst:
        return OutputSettings::tr("bottom first");
    case OutputScan::pulldown32:
        return OutputSettings::tr("pulldown 3:2");
    case OutputScan::pulldown2332:
        return OutputSettings::tr("2:3:3:2");
    case OutputScan::progressive:
        break;
    }
    return OutputSettings::tr("progressive");
}

QString words(SoundUse use) {
    switch (use) {
    case SoundUse::tape:
        return OutputSettings::tr("like tape");
    case SoundUse::atFullSpeed:
        return OutputSettings::tr("at 100 % only");
    case SoundUse::none:
        return OutputSettings::tr("none");
    case SoundUse::ownPitch:
        break;
    }
    return OutputSettings::tr("its own pitch");
}

} // namespace

OutputSettings::OutputSettings(QWidget* parent)
    : QWidget(parent)
    , format_(box("formatBox", tr("Output format")))
    , quality_(new QSlider(Qt::Horizontal))
    , qualityWords_(faintLabel())
    , header_(new FoldHeader(tr("Depth, sound, timecode"), this))
    , more_(new QWidget)
    , depth_(box("depthBox", tr("Depth of samples")))
    , chroma_(box("chromaBox", tr("Chroma subsampling")))
    , compression_(box("compressionBox", tr("Compression")))
    , scan_(box("scanBox", tr("Scan")))
    , sound_(box("soundBox", tr("Sound")))
    , soundFormat_(box("soundFormatBox", tr("Sound format")))
    , timecode_(box("timecodeBox", tr("Start timecode")))
    , start_(new QLineEdit)
    , reel_(new QLineEdit)
    , also_(box("alsoBox", tr("A second format")))
    , cost_(faintLabel()) {
    layOut();
    fillFormats();
    connectParts();
    setSettings(settings_);
}

ChoiceBox* OutputSettings::box(const char* name, const QString& accessibleName) {
    auto* made = new ChoiceBox;
    made->setObjectName(QString::fromLatin1(name));
    made->setAccessibleName(accessibleName);
    made->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    made->setMinimumContentsLength(6);
    return made;
}

void OutputSettings::layOut() {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(6);
    column->addWidget(format_);
    quality_->setObjectName(QStringLiteral("qualitySlider"));
    quality_->setAccessibleName(tr("Quality"));
    quality_->setToolTip(tr("Left: smaller files. Right: better pictures"));
    quality_->setFocusPolicy(Qt::TabFocus);
    qualityWords_->setObjectName(QStringLiteral("qualityWords"));
    column->addWidget(quality_);
    column->addWidget(qualityWords_);
    header_->setObjectName(QStringLiteral("moreOutputHeader"));
    column->addWidget(header_);
    auto* grid = new QGridLayout(more_);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(8);
    grid->setVerticalSpacing(6);
    grid->addWidget(captioned(tr("Depth"), depth_), 0, 0);
    grid->addWidget(captioned(tr("Chroma"), chroma_), 0, 1);
    grid->addWidget(captioned(tr("Compression"), compression_), 1, 0);
    grid->addWidget(captioned(tr("Scan"), scan_), 2, 0);
    grid->addWidget(captioned(tr("Also write"), also_), 2, 1);
    grid->addWidget(captioned(tr("Sound"), sound_), 3, 0);
    grid->addWidget(captioned(tr("Sound format"), soundFormat_), 3, 1);
    grid->addWidget(captioned(tr("Timecode"), timecode_), 4, 0);
    start_->setObjectName(QStringLiteral("startTimecodeField"));
    start_->setAccessibleName(tr("Timecode of the first frame"));
    start_->setPlaceholderText(QStringLiteral("01:00:00:00"));
    grid->addWidget(captioned(tr("Starts at"), start_), 4, 1);
    reel_->setObjectName(QStringLiteral("reelField"));
    reel_->setAccessibleName(tr("Name of the reel"));
    grid->addWidget(captioned(tr("Reel"), reel_), 5, 0, 1, 2);
    grid->addWidget(cost_, 6, 0, 1, 2);
    grid->setColumnStretch(0, 1);
    grid->setColumnStretch(1, 1);
    cost_->setObjectName(QStringLiteral("outputCost"));
    more_->hide();
    column->addWidget(more_);
}

void OutputSettings::fillFormats() {
    auto* model = qobject_cast<QStandardItemModel*>(format_->model());
    also_->addItem(tr("nothing"), -1);
    for (const OutputFormat format : outputFormats()) {
        format_->addItem(named(name(format)), static_cast<int>(format));
        if (isEncoderThere(format)) {
            also_->addItem(named(name(format)), static_cast<int>(format));
        } else if (model) {
            model->item(format_->count() - 1)->setEnabled(false);
            format_->setItemData(
                format_->count() - 1,
                tr("Its encoder is missing on this machine. Install Debian's package libavcodec59."),
                Qt::ToolTipRole);
        }
    }
    for (const OutputScan scan : scans)
        scan_->addItem(words(scan), static_cast<int>(scan));
    scan_->setToolTip(
        tr("Interlaced: each field is made at its own moment. Pulldown: film frames in 29.97 fps."));
    for (const SoundUse use : uses)
        sound_->addItem(words(use), static_cast<int>(use));
    sound_->setToolTip(tr("Its own pitch: stretched along with the pictures. Like tape: slower is lower."));
    for (const ExrCompression c :
         {ExrCompression::none, ExrCompression::rle, ExrCompression::zips, ExrCompression::zip,
          ExrCompression::piz, ExrCompression::pxr24, ExrCompression::b44, ExrCompression::dwaa})
        compression_->addItem(text(name(c)), static_cast<int>(c));
    for (const TimecodeUse use : {TimecodeUse::ofSource, TimecodeUse::fromStart, TimecodeUse::none})
        timecode_->addItem(use == TimecodeUse::ofSource    ? tr("of the source")
                           : use == TimecodeUse::fromStart ? tr("new")
                                                           : tr("none"),
                           static_cast<int>(use));
    also_->setToolTip(tr("Frames are made once and written to both"));
}

void OutputSettings::connectParts() {
    const auto onChoice = [this](ChoiceBox* box, auto change) {
        connect(box, &QComboBox::activated, this, [this, box, change] {
            const int value = box->currentData().toInt();
            take([&](RenderSettings& s) { change(s, value); });
        });
    };
    onChoice(format_, [](RenderSettings& s, int v) { s.format = static_cast<OutputFormat>(v); });
    onChoice(depth_,
             [](RenderSettings& s, int v) { s.format.depth = v == 0 ? std::nullopt : std::optional(v); });
    onChoice(chroma_, [](RenderSettings& s, int v) {
        s.format.chroma = v < 0 ? std::nullopt : std::optional(static_cast<Chroma>(v));
    });
    onChoice(compression_,
             [](RenderSettings& s, int v) { s.format.compression = static_cast<ExrCompression>(v); });
    onChoice(scan_, [](RenderSettings& s, int v) { s.scan = static_cast<OutputScan>(v); });
    onChoice(sound_, [](RenderSettings& s, int v) { s.sound = static_cast<SoundUse>(v); });
    onChoice(soundFormat_,
             [](RenderSettings& s, int v) { s.format.soundCodec = static_cast<SoundCodec>(v); });
    onChoice(timecode_, [](RenderSettings& s, int v) { s.timecode = static_cast<TimecodeUse>(v); });
    connect(also_, &QComboBox::activated, this, &OutputSettings::changed);
    connect(quality_, &QSlider::valueChanged, this, [this](int place) {
        if (filling_) return;
        const auto scale = qualityScale(format());
        if (!scale) return;
        const int quality = scale->smallest < scale->best ? scale->smallest + place : scale->smallest - place;
        take([&](RenderSettings& s) { s.format.quality = quality; });
    });
    connect(start_, &QLineEdit::editingFinished, this, [this] {
        const std::string tidy = tidyTimecode(start_->text().toStdString());
        take([&](RenderSettings& s) {
            s.start = tidy;
            if (!tidy.empty()) s.timecode = TimecodeUse::fromStart;
        });
    });
    connect(reel_, &QLineEdit::editingFinished, this,
            [this] { take([&](RenderSettings& s) { s.reel = tidyReel(reel_->text().toStdString()); }); });
    connect(header_, &QAbstractButton::toggled, more_, &QWidget::setVisible);
}

void OutputSettings::take(const std::function<void(RenderSettings&)>& change) {
    if (filling_) return;
    const RenderSettings before = settings_;
    change(settings_);
    if (settings_ == before) return;
    setSettings(settings_);
    Q_EMIT changed();
}

RenderSettings OutputSettings::settings() const {
    RenderSettings settings = settings_;
    if (settings.timecode == TimecodeUse::fromStart && settings.start.empty())
        settings.timecode = TimecodeUse::ofSource;
    if (!canInterlace(settings.format.format)) settings.scan = OutputScan::progressive;
    return settings;
}

void OutputSettings::setFormat(OutputFormat format) {
    if (format == this->format()) return;
    settings_.format = format;
    setSettings(settings_);
}

std::optional<OutputFormat> OutputSettings::also() const {
    const int value = also_->currentData().toInt();
    if (value < 0 || value == static_cast<int>(format())) return std::nullopt;
    return static_cast<OutputFormat>(value);
}

void OutputSettings::setSettings(const RenderSettings& settings) {
    settings_ = settings;
    filling_ = true;
    showFormat();
    showRest();
    filling_ = false;
}

void OutputSettings::fill(ChoiceBox* box, const QString& first,
                          const std::vector<std::pair<QString, int>>& entries, int chosen) {
    box->clear();
    box->addItem(first, box == chroma_ ? -1 : 0);
    for (const auto& [words, value] : entries)
        box->addItem(words, value);
    box->setCurrentIndex(std::max(0, box->findData(chosen)));
    box->setEnabled(!entries.empty());
}

void OutputSettings::showFormat() {
    const FormatChoice& choice = settings_.format;
    format_->setCurrentIndex(format_->findData(static_cast<int>(choice.format)));
    const auto scale = qualityScale(choice.format);
    quality_->setVisible(scale.has_value());
    qualityWords_->setVisible(scale.has_value());
    if (scale) {
        const int quality = choice.quality.value_or(scale->usual);
        quality_->setRange(0, std::abs(scale->best - scale->smallest));
        quality_->setValue(std::abs(quality - scale->smallest));
        qualityWords_->setText(
            !choice.quality && !scale->steps.empty()
                ? tr("as the frames need it (%1)").arg(text(qualityWords(choice.format, quality)))
                : text(qualityWords(choice.format, quality)));
    }
    std::vector<std::pair<QString, int>> depths;
    for (const int depth : depthsOf(choice.format))
        depths.emplace_back(depthWords(depth), depth);
    fill(depth_, tr("as the source"), depths, choice.depth.value_or(0));
    std::vector<std::pair<QString, int>> chromas;
    for (const Chroma chroma : chromasOf(choice.format))
        chromas.emplace_back(text(name(chroma)), static_cast<int>(chroma));
    fill(chroma_, tr("as the source"), chromas, choice.chroma ? static_cast<int>(*choice.chroma) : -1);
    compression_->parentWidget()->setVisible(choice.format == OutputFormat::exrSequence);
    compression_->setCurrentIndex(compression_->findData(static_cast<int>(choice.compression)));
    soundFormat_->clear();
    soundFormat_->addItem(tr("the usual"), static_cast<int>(SoundCodec::usual));
    const auto offer = [this](SoundCodec codec, const QString& words) {
        soundFormat_->addItem(words, static_cast<int>(codec));
    };
    if (!isSequence(choice.format) && choice.format != OutputFormat::webm) {
        const std::string_view ending = extension(choice.format);
        if (ending != ".mp4") offer(SoundCodec::pcm, tr("PCM 24 bit"));
        if (ending != ".mov") offer(SoundCodec::flac, tr("FLAC"));
        if (ending != ".mkv") offer(SoundCodec::aac, tr("AAC"));
    }
    soundFormat_->setCurrentIndex(std::max(0, soundFormat_->findData(static_cast<int>(choice.soundCodec))));
    soundFormat_->setEnabled(soundFormat_->count() > 1);
}

void OutputSettings::showRest() {
    const bool fields = canInterlace(settings_.format.format);
    scan_->setEnabled(fields);
    scan_->setCurrentIndex(fields ? scan_->findData(static_cast<int>(settings_.scan)) : 0);
    sound_->setCurrentIndex(sound_->findData(static_cast<int>(settings_.sound)));
    timecode_->setCurrentIndex(timecode_->findData(static_cast<int>(settings_.timecode)));
    start_->setEnabled(settings_.timecode == TimecodeUse::fromStart);
    start_->setText(QString::fromStdString(settings_.start));
    if (!reel_->hasFocus()) reel_->setText(QString::fromStdString(settings_.reel));
    QStringList told;
    if (settings_.format.depth && *settings_.format.depth == 8)
        told << tr("8 bit shows bands in smooth gradients.");
    if (settings_.format.chroma == Chroma::c420) told << tr("4:2:0 softens coloured edges.");
    if (fields && framesOfPattern(settings_.scan) == 2)
        told << tr("Fields take twice as many frames to make.");
    cost_->setText(told.join(QLatin1Char(' ')));
    cost_->setVisible(!told.isEmpty());
    QStringList outcome;
    if (fields && settings_.scan != OutputScan::progressive) outcome << words(settings_.scan);
    if (settings_.sound != SoundUse::ownPitch) outcome << tr("sound %1").arg(words(settings_.sound));
    header_->setOutcome(outcome.join(QStringLiteral(", ")));
}

void OutputSettings::showSource(bool hasSound, const QString& timecode, const QString& reel) {
    sound_->setEnabled(hasSound);
    soundFormat_->setEnabled(hasSound && soundFormat_->count() > 1);
    timecode_->setToolTip(timecode.isEmpty() ? tr("The source has no timecode")
                                             : tr("The source begins at %1").arg(timecode));
    reel_->setPlaceholderText(reel.isEmpty() ? tr("none") : reel);
    if (!settings_.start.empty()) return;
    start_->setPlaceholderText(timecode.isEmpty() ? QStringLiteral("01:00:00:00") : timecode);
}

} // namespace yarngap::app
