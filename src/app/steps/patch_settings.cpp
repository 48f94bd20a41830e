#include "app/steps/patch_settings.h"

#include "app/steps/step_edits.h"
#include "app/steps/step_layout.h"
#include "core/error.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QLocale>
#include <QVBoxLayout>

#include <algorithm>

namespace yarngap::app {

namespace {

/// A take as changes to other settings.
MendChanges changesOf(const Take& take) {
    const InBetweens& made = take.inBetweens;
    return {.method = take.method,
            .sampleFrom = {},
            .quality = made.finalQuality,
            .stiffness = made.flow.stiffness,
            .analyseOn = made.flow.analyseOn,
            .inFront = made.synthesis.inFront,
            .sides = made.synthesis.sides,
            .trustLimit = made.synthesis.trustLimit,
            .standIn = made.synthesis.standIn,
            .bendPaths = made.synthesis.bendPaths};
}

} // namespace

PatchSettings::PatchSettings(QWidget* parent)
    : QWidget(parent)
    , shows_(new ChoiceBox)
    , feather_(new ValueField(tr("Feather of the patch")))
    , strength_(new ValueField(tr("Strength of the patch")))
    , blur_(new ValueField(tr("Blur of the patch")))
    , fade_(new ValueField(tr("Fade of the patch")))
    , blurRow_(captioned(tr("Blur"), blur_))
    , onOriginals_(new QCheckBox(tr("On source frames too")))
    , outline_(new QPushButton(tr("Outline")))
    , keys_(new QLabel) {
    layOut();
    connectField(feather_, &Patch::feather, Patch::mostFeather, "px", tr("feather of patch"),
                 editPatchFeather);
    connectField(strength_, &Patch::strength, 100, "%", tr("strength of patch"), editPatchStrength);
    connectField(blur_, &Patch::blur, Patch::mostBlur, "px", tr("blur of patch"), editPatchBlur);
    connectField(fade_, &Patch::fade, Patch::mostFade, "f", tr("fade of patch"), editPatchFade);
    connect(shows_, &QComboBox::activated, this, &PatchSettings::takeVersion);
    connect(onOriginals_, &QCheckBox::clicked, this, [this](bool on) {
        Mend mend = mend_;
        mend.patch->onOriginals = on;
        Q_EMIT changed(mend, on ? tr("patch on source frames too") : tr("patch on made frames only"), 0);
    });
    connect(outline_, &QPushButton::clicked, this, &PatchSettings::outlineAsked);
}

void PatchSettings::layOut() {
    shows_->setObjectName(QStringLiteral("patchShows"));
    shows_->setAccessibleName(tr("What the patch shows"));
    feather_->setObjectName(QStringLiteral("patchFeather"));
    feather_->setToolTip(tr("Pixels over which the patch goes soft on each side of its outline"));
    strength_->setObjectName(QStringLiteral("patchStrength"));
    blur_->setObjectName(QStringLiteral("patchBlur"));
    fade_->setObjectName(QStringLiteral("patchFade"));
    fade_->setToolTip(tr("Source frames over which the patch comes and goes at both ends of its gaps"));
    onOriginals_->setObjectName(QStringLiteral("patchOnOriginals"));
    onOriginals_->setToolTip(tr("Source frames among the result are patched as well as made ones"));
    outline_->setObjectName(QStringLiteral("patchOutline"));
    outline_->setCheckable(true);
    outline_->setToolTip(tr("Change the outline on the picture; it goes along with the motion from there"));
    outline_->setStyleSheet(QStringLiteral("QPushButton { padding: 4px 6px; }"));
    outline_->setProperty("role", "choice");
    keys_->setObjectName(QStringLiteral("patchKeys"));
    keys_->setWordWrap(true);
    keys_->setStyleSheet(QStringLiteral("font-size: 11px;"));
    keys_->setProperty("role", "faint");
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(6);
    layout->addWidget(captioned(tr("The patch shows"), shows_));
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(8);
    grid->setVerticalSpacing(4);
    grid->addWidget(captioned(tr("Feather"), feather_), 0, 0);
    grid->addWidget(captioned(tr("Strength"), strength_), 0, 1);
    grid->addWidget(captioned(tr("Fade"), fade_), 1, 0);
    grid->addWidget(blurRow_, 1, 1);
    layout->addLayout(grid);
    layout->addWidget(onOriginals_);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    row->addWidget(outline_);
    row->addWidget(keys_, 1);
    layout->addLayout(row);
}

void PatchSettings::connectField(ValueField* field, int Patch::*value, int most, const char* unit,
                                 const QString& what, int kind) {
    connect(field, &ValueField::typed, this, [this, field, value, most, unit, what](const QString& typed) {
        try {
            const std::int64_t number = wholeNumber(typed, {unit});
            if (number < 0 || number > most) throw Error("This goes from 0 to " + std::to_string(most) + '.');
            Mend mend = mend_;
            (*mend.patch).*value = static_cast<int>(number);
            Q_EMIT changed(mend, what, 0);
        } catch (const Error& error) {
            field->refuse(QString::fromStdString(error.what()));
        }
    });
    connect(field, &ValueField::refused, this, &PatchSettings::problem);
    connect(field, &ValueField::stepped, this, [this, value, most, what, kind](int steps, bool) {
        Mend mend = mend_;
        if (!mend.patch) return;
        int& number = (*mend.patch).*value;
        number = std::clamp(number + steps, 0, most);
        Q_EMIT changed(mend, what, kind);
    });
}

void PatchSettings::showVersions(const std::vector<Take>& takes) {
    versions_.clear();
    shows_->clear();
    const auto add = [this](const QString& text, PatchShows shows, const MendChanges& changes = {}) {
        shows_->addItem(text);
        versions_.emplace_back(shows, changes);
    };
    const auto otherwise = PatchShows::otherwise;
    add(tr("Softened"), PatchShows::softened);
    add(tr("Nearest source frame, moved along"), PatchShows::nearest);
    add(tr("What lies behind"), PatchShows::behind);
    add(tr("Blend"), otherwise, {.method = Method::blend});
    add(tr("Nearest source frame, standing"), otherwise,
        {.method = Method::sample, .sampleFrom = SampleFrom::nearest});
    add(tr("From before only"), otherwise, {.method = Method::flow, .sides = Sides::before});
    add(tr("From after only"), otherwise, {.method = Method::flow, .sides = Sides::after});
    add(tr("Thorough"), otherwise, {.method = Method::flow, .quality = FlowQuality::thorough});
    add(tr("Stiffer"), otherwise, {.method = Method::flow, .stiffness = 75});
    add(tr("Looser"), otherwise, {.method = Method::flow, .stiffness = 15});
    for (const Take& take : takes)
        add(QString::fromStdString(take.name), otherwise, changesOf(take));
    const std::pair now{mend_.patch->shows, mend_.patch->shows == otherwise ? mend_.changes : MendChanges()};
    auto at = std::ranges::find(versions_, now);
    if (at == versions_.end()) {
        add(tr("As given"), now.first, now.second);
        at = std::prev(versions_.end());
    }
    shows_->setCurrentIndex(static_cast<int>(at - versions_.begin()));
}

void PatchSettings::takeVersion() {
    const auto at = static_cast<std::size_t>(shows_->currentIndex());
    if (!mend_.patch || at >= versions_.size()) return;
    Mend mend = mend_;
    mend.patch->shows = versions_[at].first;
    mend.changes = versions_[at].second;
    Q_EMIT changed(mend, tr("patch shows %1").arg(shows_->currentText()), 0);
}

void PatchSettings::setMend(const Mend& mend, const std::vector<Take>& takes) {
    mend_ = mend;
    const Patch& patch = *mend.patch;
    showVersions(takes);
    feather_->setShown(tr("%1 px").arg(patch.feather));
    strength_->setShown(tr("%1 %").arg(patch.strength));
    blur_->setShown(tr("%1 px").arg(patch.blur));
    fade_->setShown(tr("%1 f").arg(patch.fade));
    blurRow_->setVisible(patch.shows == PatchShows::softened);
    onOriginals_->setChecked(patch.onOriginals);
    QStringList places;
    constexpr std::size_t most = 4;
    for (std::size_t i = 0; i < std::min(most, patch.keys.size()); ++i)
        places << QLocale().toString(patch.keys[i].at.toDouble(), 'g', 6);
    if (patch.keys.size() > most) places << QStringLiteral("…");
    keys_->setText(tr("drawn at sources %1", nullptr, static_cast<int>(patch.keys.size()))
                       .arg(places.join(QStringLiteral(", "))));
}

} // namespace yarngap::app
