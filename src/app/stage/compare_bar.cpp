#include "app/stage/compare_bar.h"

#include "app/stage/stage_tools.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>

#include <array>

namespace yarngap::app {

namespace {

constexpr std::array<Method, 3> methods{Method::sample, Method::blend, Method::flow};
constexpr std::array<int, 4> blinks{200, 400, 800, 1600};
constexpr std::array<int, 5> gains{1, 2, 4, 8, 16};

QString beforeMends() {
    return CompareBar::tr("Before mends");
}

} // namespace

CompareBar::CompareBar(QWidget* parent)
    : QWidget(parent)
    , other_(new ChoiceBox)
    , mode_(new ChoiceBox)
    , blink_(new ChoiceBox)
    , gain_(new ChoiceBox)
    , plots_(stageButton(tr("Plots"), QStringLiteral("plotsButton"),
                         tr("Show how sharp each version is from frame to frame, and how much it changes")))
    , keep_(stageButton(tr("Keep this one"), QStringLiteral("keepButton"),
                        tr("Make the shot's in-betweens with the settings it is compared with")))
    , save_(stageButton(tr("Save settings"), QStringLiteral("saveSettingsButton"),
                        tr("Save the present settings in the project, to compare others with them later")))
    , delete_(stageButton(tr("Delete"), QStringLiteral("deleteSettingsButton"),
                          tr("Delete these saved settings"))) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(16, 0, 16, 0);
    row->setSpacing(6);
    auto* with = new QLabel(tr("Now and"));
    with->setStyleSheet(QStringLiteral("color: white; font-size: 12px;"));
    row->addStretch();
    row->addWidget(with);
    const auto add = [&](ChoiceBox* box, const char* objectName, const QString& name, int width) {
        box->setObjectName(QLatin1String(objectName));
        box->setAccessibleName(name);
        box->setToolTip(name);
        box->setFixedWidth(width);
        row->addWidget(box);
    };
    add(other_, "compareWith", tr("What the frame is compared with"), 128);
    add(mode_, "compareMode", tr("How both are shown"), 112);
    add(blink_, "blinkTime", tr("How long each is shown"), 76);
    add(gain_, "differenceGain", tr("How much the difference is enlarged"), 76);
    row->addSpacing(8);
    plots_->setCheckable(true);
    connect(plots_, &QToolButton::toggled, this, &CompareBar::plotsAsked);
    for (QToolButton* button : {plots_, keep_, save_, delete_}) {
        button->setMinimumWidth(64);
        row->addWidget(button);
    }
    row->addStretch();
    mode_->addItems({tr("Side by side"), tr("Wipe"), tr("Blink"), tr("Difference"), tr("Four at once")});
    for (const int time : blinks)
        blink_->addItem(tr("%1 s").arg(time / 1000.0));
    blink_->setCurrentIndex(1);
    for (const int gain : gains)
        gain_->addItem(tr("× %1").arg(gain));
    gain_->setCurrentIndex(2);
    connect(other_, &QComboBox::activated, this, [this](int index) {
        if (index == entries()) {
            other_->setCurrentIndex(chosen_); // until there is a file
            Q_EMIT fileAsked();
            return;
        }
        refresh();
        Q_EMIT otherChanged();
    });
    for (ChoiceBox* box : {mode_, blink_, gain_})
        connect(box, &QComboBox::activated, this, [this] {
            refresh();
            const bool moreOrFewer = (mode() == CompareMode::fourAtOnce) != four_;
            four_ = mode() == CompareMode::fourAtOnce;
            moreOrFewer ? Q_EMIT otherChanged() : Q_EMIT viewChanged();
        });
    connect(keep_, &QToolButton::clicked, this, &CompareBar::keepAsked);
    connect(save_, &QToolButton::clicked, this, [this] {
        choosesNewest_ = true;
        Q_EMIT saveAsked();
        choosesNewest_ = false;
    });
    connect(delete_, &QToolButton::clicked, this, [this] { Q_EMIT deleteAsked(other_->currentText()); });
    setShot({}, {}, false);
}

void CompareBar::setShot(const Take& now, const std::vector<Take>& takes, bool mended) {
    const QString before = other_->currentText();
    const bool newest = choosesNewest_ && takes.size() > takes_.size();
    now_ = now;
    takes_ = takes;
    mended_ = mended;
    other_->clear();
    other_->addItems({tr("Frame sampling"), tr("Frame blending"), tr("Optical flow")});
    for (const Take& take : takes_)
        other_->addItem(QString::fromStdString(take.name));
    if (mended_) {
        other_->addItem(beforeMends());
        other_->setItemData(other_->count() - 1, tr("Without per-gap methods or the matte"), Qt::ToolTipRole);
    }
    if (!file_.isEmpty()) other_->addItem(QString::fromStdString(fileName()));
    other_->addItem(tr("Frames of a file…"));
    other_->setItemData(
        entries(), tr("The true frames, where the shot was filmed at a higher rate, or any other result"),
        Qt::ToolTipRole);
    int index = other_->findText(before);
    if (index < 0) index = now_.method == Method::blend ? 2 : 1;
    if (index == entries()) index = 1;
    other_->setCurrentIndex(newest ? static_cast<int>(methods.size() + takes_.size()) - 1 : index);
    refresh();
}

bool CompareBar::isBeforeMends(const Take& take) const {
    return mended_ && take.name == beforeMends().toStdString();
}

std::string CompareBar::fileName() const {
    return QFileInfo(file_).fileName().toStdString();
}

Take CompareBar::entry(int index) const {
    const auto at = static_cast<std::size_t>(std::max(0, index));
    if (at >= methods.size() + takes_.size()) {
        const bool file = !mended_ || at > methods.size() + takes_.size();
        return {file ? fileName() : beforeMends().toStdString(), now_.method, now_.inBetweens};
    }
    if (at >= methods.size()) return takes_.at(at - methods.size());
    Take take = now_;
    take.name = other_->itemText(index).toStdString();
    take.method = methods.at(at);
    return take;
}

Take CompareBar::other() const {
    return entry(other_->currentIndex());
}

std::vector<Take> CompareBar::others() const {
    std::vector<Take> out{other()};
    if (mode() != CompareMode::fourAtOnce) return out;
    // What comes after it in the list, going round, but for what would be the same picture again.
    for (int i = 1; i < entries() && out.size() < 3; ++i) {
        const Take take = entry((other_->currentIndex() + i) % entries());
        if (isFile(take) || isBeforeMends(take) || take.method != now_.method ||
            take.inBetweens != now_.inBetweens)
            out.push_back(take);
    }
    return out;
}

void CompareBar::setFile(const QString& file) {
    file_ = file;
    setShot(now_, takes_, mended_);
    other_->setCurrentIndex(entries() - 1);
    refresh();
    Q_EMIT otherChanged();
}

CompareMode CompareBar::mode() const {
    return static_cast<CompareMode>(std::max(0, mode_->currentIndex()));
}

int CompareBar::blinkMilliseconds() const {
    return blinks.at(static_cast<std::size_t>(blink_->currentIndex()));
}

int CompareBar::gain() const {
    return gains.at(static_cast<std::size_t>(gain_->currentIndex()));
}

void CompareBar::refresh() {
    blink_->setVisible(mode() == CompareMode::blink);
    gain_->setVisible(mode() == CompareMode::difference);
    chosen_ = other_->currentIndex();
    const Take chosen = other();
    delete_->setVisible(chosen_ >= static_cast<int>(methods.size()) && !isFile(chosen) &&
                        !isBeforeMends(chosen));
    keep_->setEnabled(!isFile(chosen) && (isBeforeMends(chosen) || chosen.method != now_.method ||
                                          chosen.inBetweens != now_.inBetweens));
}

} // namespace yarngap::app
