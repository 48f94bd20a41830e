#include "app/steps/gap_mends.h"

#include "app/steps/step_layout.h"
#include "core/error.h"

#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMenu>
#include <QShortcut>
#include <QVBoxLayout>

#include <algorithm>
#include <utility>

namespace yarngap::app {

namespace {

constexpr int placeRole = Qt::UserRole;

QPushButton* button(const QString& text, const char* name, const QString& tip) {
    auto* out = new QPushButton(text);
    out->setObjectName(QString::fromLatin1(name));
    out->setToolTip(tip);
    out->setStyleSheet(QStringLiteral("QPushButton { padding: 4px 4px; min-width: 0; }"));
    out->setProperty("role", "choice");
    return out;
}

QString rangeWords(const GapRange& gaps) {
    return gaps.first == gaps.last ? GapMends::tr("Gap %1").arg(gaps.first)
                                   : GapMends::tr("Gaps %1 to %2").arg(gaps.first).arg(gaps.last);
}

bool overlap(const GapRange& a, const GapRange& b) {
    return a.first <= b.last && b.first <= a.last;
}

QString nameOf(const Mend& mend) {
    if (!mend.name.empty()) return QString::fromStdString(mend.name);
    return mend.patch           ? GapMends::tr("patch")
           : mend.changes.guide ? GapMends::tr("guide")
                                : GapMends::tr("made otherwise");
}

} // namespace

GapMends::GapMends(QWidget* parent)
    : QWidget(parent)
    , head_(new QLabel)
    , words_(new QLabel)
    , cures_(new QPushButton(tr("Try cures")))
    , through_(button(tr("Run through"), "stepRunThrough",
                      tr("Play these gaps at their own speed, eased in and out, so that nothing is made in "
                         "them")))
    , quickly_(button(tr("Pass quickly"), "stepPassQuickly",
                      tr("Play these gaps at twice their own speed, eased in and out")))
    , keepLength_(new QCheckBox(tr("Keep the length")))
    , guide_(button(tr("Guide"), "guideButton",
                    tr("Show on both source frames where something goes: two or three points are enough")))
    , patch_(button(tr("Patch"), "patchButton",
                    tr("Outline a place that shows another version of the frame, soft at its edge")))
    , accept_(button(tr("Accept"), "stepAccept", tr("The gap may stay as it is")))
    , listHead_(new QLabel(tr("On this gap")))
    , list_(new QListWidget)
    , ofSelected_(new QWidget)
    , first_(new ValueField(tr("First gap of the mend")))
    , last_(new ValueField(tr("Last gap of the mend")))
    , out_(button(tr("Take out"), "takeMendOut", tr("Take this mend out (Delete)")))
    , problem_(problemLabel())
    , patchSettings_(new PatchSettings) {
    layOut();
    connect(cures_, &QPushButton::clicked, this, &GapMends::curesAsked);
    for (QPushButton* one : {through_, quickly_})
        connect(one, &QPushButton::clicked, this, [this, one] {
            if (gap_) Q_EMIT timingMendAsked(gap_->gaps, one == quickly_, keepLength_->isChecked());
        });
    connect(guide_, &QPushButton::clicked, this, &GapMends::guideAsked);
    connect(patch_, &QPushButton::clicked, this, &GapMends::patchAsked);
    connect(accept_, &QPushButton::clicked, this, [this] {
        if (!gap_) return;
        Mending changed = mending_;
        for (std::int64_t gap = gap_->gaps.first; gap <= gap_->gaps.last; ++gap)
            changed = withAccepted(std::move(changed), gap, !gap_->accepted);
        Q_EMIT mendAsked(
            changed, (gap_->accepted ? tr("gap %1 open again") : tr("gap %1 accepted")).arg(gap_->gaps.first),
            0);
    });
    connect(list_, &QListWidget::itemChanged, this, &GapMends::changeItem);
    connect(list_, &QListWidget::currentRowChanged, this, [this] {
        showSelected();
        if (!filling_) Q_EMIT selectionChanged();
    });
    connect(out_, &QPushButton::clicked, this, &GapMends::takeOut);
    auto* remove = new QShortcut(QKeySequence::Delete, list_);
    remove->setContext(Qt::WidgetShortcut);
    connect(remove, &QShortcut::activated, this, &GapMends::takeOut);
    for (ValueField* field : {first_, last_}) {
        connect(field, &ValueField::typed, this,
                [this, field](const QString& typed) { changeRange(*field, field == last_, typed); });
        connect(field, &ValueField::refused, this,
                [this](const QString& sentence) { showProblem(problem_, sentence); });
        connect(field, &ValueField::stepped, this, [this, field](int steps, bool) {
            if (const auto at = selected()) {
                const GapRange& gaps = mending_.mends[*at].gaps;
                changeRange(*field, field == last_,
                            QString::number((field == last_ ? gaps.last : gaps.first) + steps));
            }
        });
    }
    connect(patchSettings_, &PatchSettings::problem, this,
            [this](const QString& sentence) { showProblem(problem_, sentence); });
    connect(patchSettings_, &PatchSettings::outlineAsked, this, &GapMends::outlineAsked);
    connect(patchSettings_, &PatchSettings::changed, this,
            [this](const Mend& mend, const QString& what, int kind) {
                const auto at = selected();
                if (!at) return;
                Mending changed = mending_;
                changed.mends[*at] = mend;
                Q_EMIT mendAsked(changed, what, kind);
            });
    setGap(std::nullopt, {}, {});
    fillList();
}

QPushButton* GapMends::menuButton(const QString& text, const char* name, const QString& tip,
                                  const std::vector<std::pair<QString, MendChanges>>& choices) {
    QPushButton* out = button(text, name, tip);
    auto* menu = new QMenu(out);
    for (const auto& [words, changes] : choices)
        connect(menu->addAction(words), &QAction::triggered, this,
                [this, words = words, changes = changes] { put(words.toLower(), changes); });
    out->setMenu(menu);
    menus_.push_back(out);
    return out;
}

void GapMends::layOut() {
    head_->setObjectName(QStringLiteral("gapHead"));
    head_->setStyleSheet(QStringLiteral("font-weight: 600;"));
    words_->setObjectName(QStringLiteral("gapWords"));
    words_->setWordWrap(true);
    words_->setProperty("role", "faint");
    cures_->setObjectName(QStringLiteral("stepTryCures"));
    cures_->setProperty("role", "main");
    cures_->setToolTip(tr("Mends of this gap side by side, each judged on the real frames beside it"));
    keepLength_->setObjectName(QStringLiteral("keepLengthOfMend"));
    keepLength_->setToolTip(
        tr("What runs through or passes quickly takes its time from the rest of the shot; "
           "otherwise later frames move"));
    const MendChanges flow{.method = Method::flow};
    const auto otherwise = [&flow](auto set) {
        MendChanges changes = flow;
        set(changes);
        return changes;
    };
    QPushButton* method = menuButton(
        tr("Other method"), "otherMethod", tr("Blend or repeat in these gaps"),
        {{tr("Blend"), {.method = Method::blend}},
         {tr("Repeat the nearer"), {.method = Method::sample, .sampleFrom = SampleFrom::nearest}},
         {tr("Repeat the one before"), {.method = Method::sample, .sampleFrom = SampleFrom::before}}});
    QPushButton* side =
        menuButton(tr("One side"), "oneSide", tr("Take pixels from one source frame only"),
                   {{tr("From before only"), otherwise([](MendChanges& c) { c.sides = Sides::before; })},
                    {tr("From after only"), otherwise([](MendChanges& c) { c.sides = Sides::after; })}});
    QPushButton* made = menuButton(
        tr("Made otherwise"), "madeOtherwise", tr("Other settings of optical flow in these gaps"),
        {{tr("Thorough"), otherwise([](MendChanges& c) { c.quality = FlowQuality::thorough; })},
         {tr("Stiffer"), otherwise([](MendChanges& c) { c.stiffness = 75; })},
         {tr("Looser"), otherwise([](MendChanges& c) { c.stiffness = 15; })},
         {tr("Found on outlines"), otherwise([](MendChanges& c) { c.analyseOn = AnalyseOn::edges; })},
         {tr("Found on contrast"), otherwise([](MendChanges& c) { c.analyseOn = AnalyseOn::contrast; })},
         {tr("Straight paths"), otherwise([](MendChanges& c) { c.bendPaths = false; })},
         {tr("Slower in front"), otherwise([](MendChanges& c) { c.inFront = InFront::slower; })},
         {tr("Faster in front"), otherwise([](MendChanges& c) { c.inFront = InFront::faster; })},
         {tr("Blend below trust 50 %"), otherwise([](MendChanges& c) {
              c.trustLimit = 50;
              c.standIn = StandIn::blend;
          })}});
    for (QPushButton* one : {guide_, patch_})
        one->setCheckable(true);
    list_->setObjectName(QStringLiteral("gapMends"));
    list_->setAccessibleName(tr("Mends on this gap"));
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    first_->setObjectName(QStringLiteral("mendFirst"));
    last_->setObjectName(QStringLiteral("mendLast"));
    listHead_->setProperty("role", "heading");

    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(6);
    layout->addWidget(head_);
    layout->addWidget(words_);
    layout->addWidget(cures_);
    auto* grid = new QGridLayout;
    grid->setSpacing(6);
    const std::array<QPushButton*, 8> all{through_, quickly_, method, side, made, guide_, patch_, accept_};
    for (std::size_t i = 0; i < all.size(); ++i)
        grid->addWidget(all[i], static_cast<int>(i / 2), static_cast<int>(i % 2));
    layout->addLayout(grid);
    layout->addWidget(keepLength_);
    layout->addWidget(listHead_);
    layout->addWidget(list_);
    auto* rows = new QVBoxLayout(ofSelected_);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->setSpacing(6);
    auto* range = new QHBoxLayout;
    range->setSpacing(8);
    range->addWidget(captioned(tr("From gap"), first_), 1);
    range->addWidget(captioned(tr("To gap"), last_), 1);
    range->addWidget(out_, 1, Qt::AlignBottom);
    rows->addLayout(range);
    rows->addWidget(patchSettings_);
    layout->addWidget(ofSelected_);
    layout->addWidget(problem_);
}

void GapMends::setGap(const std::optional<GapToMend>& gap, const Mending& mending,
                      const std::vector<Take>& takes) {
    const bool isSame = gap.has_value() == gap_.has_value() && (!gap || gap->gaps == gap_->gaps) &&
                        mending == mending_ && takes == takes_;
    gap_ = gap;
    mending_ = mending;
    takes_ = takes;
    head_->setText(gap ? rangeWords(gap->gaps) : tr("No gap at the playhead"));
    words_->setText(gap && !gap->isMade && gap->words.isEmpty() ? tr("nothing is made in it by optical flow")
                    : gap                                       ? gap->words
                                                                : QString());
    words_->setVisible(!words_->text().isEmpty());
    for (QWidget* one : std::initializer_list<QWidget*>{through_, quickly_, patch_, accept_})
        one->setEnabled(gap.has_value());
    for (QPushButton* one : menus_)
        one->setEnabled(gap.has_value());
    cures_->setEnabled(gap && gap->isMade);
    guide_->setEnabled(gap && gap->isMade);
    accept_->setText(gap && gap->accepted ? tr("Reopen") : tr("Accept"));
    if (!isSame) fillList(); // else a name may be typed in it, or a choice be open
}

void GapMends::setDrawing(bool patch, bool guide) {
    patch_->setChecked(patch && !selected());
    patchSettings_->setDrawing(patch);
    guide_->setChecked(guide);
}

std::optional<std::size_t> GapMends::selected() const {
    const QListWidgetItem* item = list_->currentItem();
    if (!item) return std::nullopt;
    const auto at = static_cast<std::size_t>(item->data(placeRole).toULongLong());
    return at < mending_.mends.size() ? std::optional(at) : std::nullopt;
}

void GapMends::select(std::size_t mend) {
    for (int i = 0; i < list_->count(); ++i)
        if (list_->item(i)->data(placeRole).toULongLong() == mend) list_->setCurrentRow(i);
}

void GapMends::fillList() {
    filling_ = true;
    const auto was = selected();
    list_->clear();
    if (gap_)
        for (std::size_t i = 0; i < mending_.mends.size(); ++i) {
            const Mend& mend = mending_.mends[i];
            if (!overlap(mend.gaps, gap_->gaps)) continue;
            auto* item = new QListWidgetItem(nameOf(mend));
            item->setData(placeRole, static_cast<qulonglong>(i));
            item->setFlags(item->flags() | Qt::ItemIsUserCheckable | Qt::ItemIsEditable);
            item->setCheckState(mend.isOn ? Qt::Checked : Qt::Unchecked);
            item->setToolTip(
                tr("%1. Double click to name it; the box turns it off and on").arg(rangeWords(mend.gaps)));
            list_->addItem(item);
        }
    constexpr int rowHeight = 24;
    constexpr int most = 3; // rows at once
    list_->setFixedHeight(rowHeight * std::clamp(list_->count(), 1, most) + 4);
    if (was) select(*was);
    if (!list_->currentItem() && list_->count() > 0) list_->setCurrentRow(list_->count() - 1);
    for (QWidget* one : std::initializer_list<QWidget*>{list_, listHead_})
        one->setVisible(list_->count() > 0);
    filling_ = false;
    showSelected();
}

void GapMends::showSelected() {
    const auto at = selected();
    ofSelected_->setVisible(at.has_value());
    if (!at) return;
    const Mend& mend = mending_.mends[*at];
    first_->setShown(QString::number(mend.gaps.first));
    last_->setShown(QString::number(mend.gaps.last));
    for (ValueField* field : {first_, last_})
        field->setEnabled(!mend.changes.guide); // it belongs to its gap
    patchSettings_->setVisible(mend.patch.has_value());
    if (mend.patch) patchSettings_->setMend(mend, takes_);
}

void GapMends::put(const QString& name, const MendChanges& changes) {
    if (!gap_) return;
    Q_EMIT mendAsked(withMend(mending_, {.gaps = gap_->gaps, .name = name.toStdString(), .changes = changes}),
                     tr("gap %1 mended: %2").arg(gap_->gaps.first).arg(name), 0);
}

void GapMends::changeItem(QListWidgetItem* item) {
    if (filling_) return;
    const auto at = static_cast<std::size_t>(item->data(placeRole).toULongLong());
    if (at >= mending_.mends.size()) return;
    Mending changed = mending_;
    Mend& mend = changed.mends[at];
    const bool isOn = item->checkState() == Qt::Checked;
    if (isOn != mend.isOn) {
        mend.isOn = isOn;
        Q_EMIT mendAsked(changed, isOn ? tr("mend on") : tr("mend off"), 0);
    } else if (item->text() != nameOf(mend)) {
        mend.name = item->text().trimmed().toStdString();
        Q_EMIT mendAsked(changed, tr("name of mend"), 0);
    }
}

void GapMends::takeOut() {
    const auto at = selected();
    if (!at) return;
    Mending changed = mending_;
    changed.mends.erase(changed.mends.begin() + static_cast<std::ptrdiff_t>(*at));
    Q_EMIT mendAsked(changed, tr("mend taken out"), 0);
}

void GapMends::changeRange(ValueField& field, bool isLast, const QString& typed) {
    const auto at = selected();
    if (!at) return;
    try {
        const std::int64_t gap = wholeNumber(typed, {});
        Mending changed = mending_;
        GapRange& gaps = changed.mends[*at].gaps;
        (isLast ? gaps.last : gaps.first) = gap;
        if (gaps.last < gaps.first) throw Error("A mend ends where it begins, or later.");
        Q_EMIT mendAsked(changed, tr("gaps of mend"), 0);
    } catch (const Error& error) {
        field.refuse(QString::fromStdString(error.what()));
    }
}

} // namespace yarngap::app
