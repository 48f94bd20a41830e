#include "app/steps/hold_row.h"

#include "app/steps/step_layout.h"

#include <QHBoxLayout>
#include <QLocale>

#include <algorithm>
#include <array>

namespace yarngap::app {

namespace {

constexpr std::array<HoldAt, 3> places{HoldAt::own, HoldAt::middle, HoldAt::chosen};
constexpr double doubtfulQuality = 0.9; // below it a frame is worth a look

FollowedPath& pathOf(Hold& hold, HoldRow::Choosing which) {
    return which == HoldRow::Choosing::second ? hold.second : hold.path;
}

/// Points of `found` in place of those of `path` from `first` to `last`.
FollowedPath withFound(FollowedPath path, const FollowedPath& found, std::int64_t first, std::int64_t last) {
    std::erase_if(path, [&](const FollowedPoint& p) { return p.frame >= first && p.frame <= last; });
    path.insert(path.end(), found.begin(), found.end());
    std::ranges::sort(path, {}, &FollowedPoint::frame);
    return path;
}

} // namespace

HoldRow::HoldRow(Workspace& workspace, FinishWork& work)
    : FinishRow(workspace, tr("Hold still"), "holdRow")
    , work_(work)
    , choose_(button(tr("Choose a point"), "chooseHold",
                     tr("Click a point on the picture, or drag a box around it; it is followed from there"),
                     true))
    , second_(button(tr("Second point"), "chooseSecond",
                     tr("A second point shows how the object turns and grows"), true))
    , remove_(button(tr("Remove"), "removeHold", tr("Hold nothing")))
    , bridge_(button(
          tr("Bridge"), "bridgeHold",
          tr("Leave out the frames where the point was found badly; the path goes straight across them")))
    , on_(new QCheckBox(tr("Hold")))
    , turns_(new QCheckBox(tr("Turn and size too")))
    , at_(choice("holdAt", tr("Where it is held"),
                 {tr("Where it was chosen"), tr("In the middle"), tr("At a place")}))
    , settings_(new QWidget) {
    layOut();
    connect(choose_, &QPushButton::clicked, this,
            [this](bool on) { Q_EMIT chooseAsked(on ? Choosing::point : Choosing::nothing); });
    connect(second_, &QPushButton::clicked, this,
            [this](bool on) { Q_EMIT chooseAsked(on ? Choosing::second : Choosing::nothing); });
    connect(remove_, &QPushButton::clicked, this, [this] {
        work_.cancel();
        edit(tr("hold nothing"), [](Finish& f) { f.hold = {}; });
    });
    connect(bridge_, &QPushButton::clicked, this, [this] {
        edit(tr("bridge the path"), [](Finish& f) {
            f.hold.path = bridged(f.hold.path, doubtfulQuality);
            f.hold.second = bridged(f.hold.second, doubtfulQuality);
        });
    });
    connect(on_, &QCheckBox::clicked, this, [this](bool on) {
        edit(on ? tr("hold still") : tr("stop holding still"), [on](Finish& f) { f.hold.isOn = on; });
    });
    connect(turns_, &QCheckBox::clicked, this,
            [this](bool on) { edit(tr("hold turn and size"), [on](Finish& f) { f.hold.turns = on; }); });
    connect(at_, &QComboBox::activated, this, [this](int at) {
        edit(tr("place to hold at"), [at](Finish& f) { f.hold.at = places[static_cast<std::size_t>(at)]; });
    });
}

void HoldRow::layOut() {
    body()->addWidget(choose_);
    QHBoxLayout* line = addLine();
    line->addWidget(second_, 1);
    line->addWidget(remove_, 1);
    words_ = addWords();
    on_->setObjectName(QStringLiteral("holdOn"));
    turns_->setObjectName(QStringLiteral("holdTurns"));
    share_ = number(tr("How much"), tr("Share of its motion that is held"), "holdShare",
                    {tr("%"), 0, 1, 0, 100}, [](Finish& f, double v) { f.hold.share = static_cast<int>(v); });
    share_->setToolTip(tr("100 % holds it fully; less lets it move a little, for a soft hold"));
    x_ = number(tr("Across"), tr("Place to hold at, across"), "holdX", {tr("px"), 1, 1, -99'999, 99'999},
                [this](Finish& f, double v) { f.hold.chosen.x = v / result_.width; });
    y_ = number(tr("Down"), tr("Place to hold at, down"), "holdY", {tr("px"), 1, 1, -99'999, 99'999},
                [this](Finish& f, double v) { f.hold.chosen.y = v / result_.height; });
    auto* grid = new QGridLayout(settings_);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(8);
    grid->setVerticalSpacing(4);
    grid->setColumnStretch(0, 1);
    grid->setColumnStretch(1, 1);
    grid->addWidget(captioned(tr("Hold it"), at_), 0, 0, 1, 2);
    grid->addWidget(x_, 1, 0);
    grid->addWidget(y_, 1, 1);
    grid->addWidget(share_, 2, 0);
    grid->addWidget(bridge_, 2, 1, Qt::AlignBottom);
    grid->addWidget(on_, 3, 0);
    grid->addWidget(turns_, 4, 0, 1, 2);
    body()->addWidget(settings_);
}

void HoldRow::setChoosing(Choosing what) {
    choose_->setChecked(what == Choosing::point);
    second_->setChecked(what == Choosing::second);
}

void HoldRow::choose(Choosing which, std::int64_t frame, const PicturePoint& at, double reach) {
    const auto& subject = work_.subject();
    if (!subject.source || which == Choosing::nothing) return;
    const FollowOptions options{.frame = frame,
                                .at = at,
                                .reach = std::clamp(reach, Hold::least, Hold::most),
                                .first = std::min(subject.first, frame),
                                .last = std::max(subject.last, frame)};
    tell({});
    work_.follow(options,
                 [this, which, options](const FollowReport& report) { take(which, report, options, true); });
}

void HoldRow::put(Choosing which, std::int64_t frame, const PicturePoint& at) {
    if (!finish() || which == Choosing::nothing) return;
    Hold hold = finish()->hold;
    const FollowedPath path = withPoint(pathOf(hold, which), frame, at);
    edit(tr("move point of the path"), [&](Finish& f) { pathOf(f.hold, which) = path; });
    // Anew as far as the next points that were put.
    const auto& subject = work_.subject();
    FollowOptions options{.frame = frame,
                          .at = at,
                          .reach = hold.reach,
                          .first = std::min(subject.first, frame),
                          .last = std::max(subject.last, frame)};
    for (const FollowedPoint& p : path) {
        if (!p.isPut) continue;
        if (p.frame < frame) options.first = p.frame + 1;
        if (p.frame > frame) {
            options.last = p.frame - 1;
            break;
        }
    }
    work_.follow(options,
                 [this, which, options](const FollowReport& report) { take(which, report, options, false); });
}

void HoldRow::take(Choosing which, const FollowReport& report, const FollowOptions& options, bool isNew) {
    QStringList lost;
    const auto add = [&](const std::optional<std::int64_t>& frame, const std::string& why) {
        if (frame) lost << tr("Lost at source %1: %2.").arg(*frame).arg(QString::fromStdString(why));
    };
    add(report.lostBefore, report.whyBefore);
    add(report.lostAfter, report.whyAfter);
    if (!lost.isEmpty()) lost << tr("Go there and drag the point to where it is, or leave it.");
    lost_ = lost.join(QLatin1Char(' '));
    FollowedPath path = report.path;
    if (!isNew && finish()) {
        Hold hold = finish()->hold;
        path = withFound(pathOf(hold, which), path, options.first, options.last);
    }
    lostOf_ = path;
    edit(which == Choosing::second ? tr("second point to hold") : tr("point to hold"), [&](Finish& f) {
        pathOf(f.hold, which) = path;
        f.hold.isOn = true;
        if (which == Choosing::second || !isNew) return;
        f.hold.frame = options.frame;
        f.hold.reach = options.reach;
        f.hold.second.clear(); // it went with another point
    });
    if (finish()) (void)show(*finish(), work_.subject().source->facts());
}

QString HoldRow::show(const Finish& finish, const MediaFacts& facts) {
    const Hold& hold = finish.hold;
    result_ = resultFrame(finish.frame, facts).size;
    const bool has = !hold.path.empty();
    settings_->setVisible(has);
    second_->setEnabled(has);
    remove_->setEnabled(has);
    at_->setCurrentIndex(static_cast<int>(std::ranges::find(places, hold.at) - places.begin()));
    x_->setVisible(hold.at == HoldAt::chosen);
    y_->setVisible(hold.at == HoldAt::chosen);
    x_->setNumber(hold.chosen.x * result_.width);
    y_->setNumber(hold.chosen.y * result_.height);
    share_->setNumber(hold.share);
    on_->setChecked(hold.isOn);
    turns_->setVisible(!hold.second.empty());
    turns_->setChecked(hold.turns);
    const auto doubtful = [](const FollowedPath& path) {
        return std::ranges::count_if(
            path, [](const FollowedPoint& p) { return !p.isPut && p.quality < doubtfulQuality; });
    };
    const auto bad = doubtful(hold.path) + doubtful(hold.second);
    bridge_->setVisible(bad > 0);
    if (!has) {
        words_->setText(
            tr("Choose an eye, a corner or a spot: it is followed through the shot and held where you "
               "want it."));
        return {};
    }
    QStringList words;
    words << tr("Followed from source %1 to %2.").arg(hold.path.front().frame).arg(hold.path.back().frame);
    if (bad > 0) words << tr("%n frames are doubtful.", nullptr, static_cast<int>(bad));
    if (!lost_.isEmpty() && (hold.path == lostOf_ || hold.second == lostOf_)) words << lost_;
    words_->setText(words.join(QLatin1Char(' ')));
    if (!hold.isOn) return tr("off");
    QString out = hold.second.empty() ? tr("at one point") : tr("at two points");
    if (hold.share < 100) out += tr(", %1 %").arg(hold.share);
    return out;
}

} // namespace yarngap::app
