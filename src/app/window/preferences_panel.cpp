#include "app/window/preferences_panel.h"

#include "app/steps/step_card.h"
#include "app/steps/step_layout.h"
#include "core/error.h"
#include "core/memory_shares.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

#include <algorithm>

namespace yarngap::app {

PreferencesPanel::PreferencesPanel(const Preferences& preferences, std::shared_ptr<FrameFolder> frames,
                                   std::shared_ptr<VectorFolder> vectors, QWidget* parent)
    : QFrame(parent, Qt::Popup)
    , preferences_(preferences)
    , frames_(std::move(frames))
    , vectors_(std::move(vectors))
    , problem_(problemLabel())
    , used_(faintLabel())
    , clear_(new QPushButton(tr("Clear the disk")))
    , sound_(new QCheckBox(tr("Play the shot's sound")))
    , look_(new ChoiceBox)
    , size_(new ChoiceBox)
    , sizeWords_(faintLabel(tr("The new size takes effect at the next start."))) {
    setObjectName(QStringLiteral("preferencesPanel"));
    setAttribute(Qt::WA_DeleteOnClose);
    setFrameShape(QFrame::StyledPanel);
    setAutoFillBackground(true);
    setFixedWidth(340);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(16, 12, 16, 16);
    layout->setSpacing(6);
    memory_ = addSize(*layout, tr("Memory"), "memoryField", &Preferences::memoryBytes,
                      tr("Used for pictures, motion and source frames, so going back is instant. "
                         "This machine has %1.")
                          .arg(displayBytes(machineMemory())));
    frameDisk_ =
        addSize(*layout, tr("Finished frames on disk"), "frameDiskField", &Preferences::frameDiskBytes,
                tr("Frames are made once: the render uses those you have looked at, and so does the next "
                   "start. 0 keeps none."));
    vectorDisk_ = addSize(*layout, tr("Motion on disk"), "vectorDiskField", &Preferences::vectorDiskBytes,
                          tr("Motion is estimated once, and read at the next start. 0 keeps none."));
    layout->addWidget(problem_);
    auto* row = new QHBoxLayout;
    used_->setObjectName(QStringLiteral("diskUsedLabel"));
    used_->setWordWrap(true);
    row->addWidget(used_, 1);
    clear_->setObjectName(QStringLiteral("clearDiskButton"));
    row->addWidget(clear_);
    layout->addLayout(row);
    layout->addSpacing(4);
    sound_->setObjectName(QStringLiteral("soundBox"));
    layout->addWidget(sound_);
    addLook(*layout);
    addSizeOfText(*layout);

    connect(clear_, &QPushButton::clicked, this, [this] {
        if (frames_) frames_->files().clear();
        if (vectors_) vectors_->files().clear();
        measure();
    });
    connect(sound_, &QCheckBox::toggled, this, [this](bool on) {
        preferences_.sound = on;
        Q_EMIT changed(preferences_);
    });
    refresh();
    measure();
}

void PreferencesPanel::addLook(QVBoxLayout& layout) {
    look_->setObjectName(QStringLiteral("lookBox"));
    look_->setAccessibleName(tr("Look"));
    look_->addItems({tr("As the desktop"), tr("Light"), tr("Dark")});
    look_->setToolTip(tr("Colours of the window; the grey around the picture is the same in both"));
    addRow(layout, tr("Look"), *look_);
    connect(look_, &QComboBox::activated, this, [this](int chosen) {
        preferences_.look = static_cast<Look>(chosen);
        Q_EMIT changed(preferences_);
    });
}

void PreferencesPanel::addSizeOfText(QVBoxLayout& layout) {
    size_->setObjectName(QStringLiteral("sizeBox"));
    size_->setAccessibleName(tr("Size of text"));
    size_->setToolTip(tr("Of text and controls, on top of the desktop's own setting"));
    for (const int percent : sizePercents)
        size_->addItem(tr("%1 %").arg(percent), percent);
    addRow(layout, tr("Size of text"), *size_);
    layout.addWidget(sizeWords_);
    sizeWords_->hide();
    connect(size_, &QComboBox::activated, this, [this] {
        preferences_.sizePercent = size_->currentData().toInt();
        sizeWords_->show();
        adjustSize();
        Q_EMIT changed(preferences_);
    });
}

void PreferencesPanel::addRow(QVBoxLayout& layout, const QString& caption, ChoiceBox& box) {
    auto* row = new QHBoxLayout;
    auto* label = new QLabel(caption);
    label->setBuddy(&box);
    row->addWidget(label, 1);
    row->addWidget(&box);
    layout.addLayout(row);
}

ValueField* PreferencesPanel::addSize(QVBoxLayout& layout, const QString& caption, const char* objectName,
                                      Member member, const QString& purpose) {
    auto* field = new ValueField(caption);
    field->setObjectName(QLatin1String(objectName));
    field->setFixedWidth(84);
    field->setToolTip(purpose);
    auto* row = new QHBoxLayout;
    auto* label = new QLabel(caption);
    label->setBuddy(field);
    row->addWidget(label, 1);
    row->addWidget(field);
    layout.addLayout(row);
    auto* why = faintLabel(purpose);
    why->setWordWrap(true);
    layout.addWidget(why);
    layout.addSpacing(6);
    connect(field, &ValueField::typed, this, [this, field, member](const QString& text) {
        set(*field, member, [&text] { return parseBytes(text); });
    });
    connect(field, &ValueField::stepped, this, [this, field, member](int steps, bool) {
        set(*field, member, [this, member, steps] {
            constexpr std::int64_t step = std::int64_t{1} << 29;
            const auto now = static_cast<std::int64_t>(preferences_.*member);
            return static_cast<std::uint64_t>(std::max<std::int64_t>(0, (now / step + steps) * step));
        });
    });
    return field;
}

void PreferencesPanel::set(ValueField& field, Member member, const std::function<std::uint64_t()>& value) {
    try {
        const std::uint64_t wanted = value();
        if (member == &Preferences::memoryBytes) {
            const std::uint64_t most = std::max(leastMemory, machineMemory() * 3 / 4);
            if (wanted < leastMemory || wanted > most)
                throw Error(tr("From %1 to %2, which is three quarters of this machine's memory.")
                                .arg(displayBytes(leastMemory), displayBytes(most))
                                .toStdString());
        }
        preferences_.*member = wanted;
    } catch (const Error& error) {
        const QString sentence = QString::fromStdString(error.what());
        field.refuse(sentence);
        showProblem(problem_, sentence);
        return;
    }
    refresh();
    Q_EMIT changed(preferences_);
}

void PreferencesPanel::refresh() {
    memory_->setShown(displayBytes(preferences_.memoryBytes));
    frameDisk_->setShown(displayBytes(preferences_.frameDiskBytes));
    vectorDisk_->setShown(displayBytes(preferences_.vectorDiskBytes));
    const QSignalBlocker quiet(sound_);
    sound_->setChecked(preferences_.sound);
    look_->setCurrentIndex(static_cast<int>(preferences_.look));
    size_->setCurrentIndex(size_->findData(preferences_.sizePercent));
    showProblem(problem_, {});
}

void PreferencesPanel::measure() {
    clear_->setEnabled(frames_ != nullptr || vectors_ != nullptr);
    if (!frames_ && !vectors_) {
        used_->setText(tr("There is no folder to keep files in."));
        return;
    }
    tasks_.run([this, frames = frames_, vectors = vectors_](const std::stop_token&) {
        if (frames) frames->flush();
        if (vectors) vectors->flush();
        const std::uint64_t ofFrames = frames ? frames->files().bytes() : 0;
        const std::uint64_t ofVectors = vectors ? vectors->bytes() : 0;
        const std::string trouble = frames ? frames->files().trouble() : std::string();
        postTo(this, [this, ofFrames, ofVectors, trouble] {
            used_->setText(
                tr("In use: frames %1, motion %2").arg(displayBytes(ofFrames), displayBytes(ofVectors)));
            showProblem(problem_, QString::fromStdString(trouble));
        });
    });
}

} // namespace yarngap::app
