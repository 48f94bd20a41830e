#include "app/steps/smear_row.h"

#include "app/steps/step_layout.h"

#include <QHBoxLayout>
#include <QLocale>

#include <algorithm>
#include <array>
#include <cmath>

namespace yarngap::app {

namespace {

constexpr std::array<SmearPeak, 3> peaks{SmearPeak::start, SmearPeak::middle, SmearPeak::end};
constexpr int usualFrames = 12;

} // namespace

SmearRow::SmearRow(Workspace& workspace, FinishWork& work)
    : FinishRow(workspace, tr("Smear"), "smearRow")
    , work_(work)
    , stretch_(button(tr("Stretch"), "smearStretch",
                      tr("Smear the stretch selected in the thread chart, most in its middle")))
    , start_(button(tr("Start"), "smearStart", tr("Smear the first frames of the shot, most at the cut")))
    , end_(button(tr("End"), "smearEnd", tr("Smear the last frames of the shot, most at the cut")))
    , cut_(button(
          tr("Into the next shot"), "smearCut",
          tr("Smear the end of this shot and the start of the next in one direction, so that they flow into "
             "each other")))
    , which_(choice("smears", tr("Smears of the shot"), {}))
    , remove_(button(tr("Remove"), "removeSmear", tr("Take this smear away")))
    , peak_(choice("smearPeak", tr("Where the smear is strongest"),
                   {tr("At its start"), tr("In its middle"), tr("At its end")}))
    , settings_(new QWidget) {
    const auto field = [this](const QString& caption, const QString& name, const char* object,
                              const NumberForm& form, const std::function<void(Smear&, double)>& put) {
        auto* out = new NumberField(caption, name, object, form);
        const int kind = kindOf(object);
        connect(out, &NumberField::changed, this,
                [this, put, kind, what = name.toLower()](double v, bool isStepped) {
                    change([&](Smear& s) { put(s, v); }, what, isStepped ? kind : 0);
                });
        connect(out, &NumberField::problem, this, &SmearRow::tell);
        return out;
    };
    frames_ = field(tr("Over"), tr("Source frames that are smeared"), "smearFrames",
                    {tr("f"), 0, 1, 1, 10'000}, [](Smear& s, double v) {
                        const Rational frames(static_cast<std::int64_t>(v));
                        if (s.peak == SmearPeak::start) {
                            s.to = s.from + frames;
                        } else if (s.peak == SmearPeak::end) {
                            s.from = s.to - frames;
                        } else {
                            const Rational middle = (s.from + s.to) / Rational(2);
                            s.from = middle - frames / Rational(2);
                            s.to = middle + frames / Rational(2);
                        }
                    });
    length_ =
        field(tr("Blur"), tr("Length of the blur"), "smearLength", {tr("%"), 1, 0.5, 0, 100 * Smear::longest},
              [](Smear& s, double v) { s.length = v / 100; });
    length_->setToolTip(tr("At its strongest, in percent of the frame's width"));
    turn_ = field(tr("Direction"), tr("Direction of the blur"), "smearDirection", {tr("°"), 0, 1, -360, 360},
                  [](Smear& s, double v) { s.turn = std::remainder(v - s.angle, 360); });
    turn_->setToolTip(tr("0 points right, 90 down. It starts as the camera's direction there"));
    bulge_ = field(tr("Bulge"), tr("Bulge of the lens"), "smearBulge", {tr("%"), 0, 1, 0, 100},
                   [](Smear& s, double v) { s.bulge = static_cast<int>(v); });
    layOut();
    connect(stretch_, &QPushButton::clicked, this, &SmearRow::smearStretch);
    connect(start_, &QPushButton::clicked, this, [this] {
        add({.from = firstFrame_,
             .to = std::min(endFrame_, firstFrame_ + Rational(usualFrames)),
             .peak = SmearPeak::start});
    });
    connect(end_, &QPushButton::clicked, this, [this] {
        add({.from = std::max(firstFrame_, endFrame_ - Rational(usualFrames)),
             .to = endFrame_,
             .peak = SmearPeak::end});
    });
    connect(cut_, &QPushButton::clicked, this, &SmearRow::smearCut);
    connect(which_, &QComboBox::activated, this, [this] {
        if (finish() && work_.subject().source) refresh(*finish(), work_.subject().source->facts());
    });
    connect(peak_, &QComboBox::activated, this, [this](int at) {
        change([at](Smear& s) { s.peak = peaks[static_cast<std::size_t>(at)]; }, tr("peak of smear"), 0);
    });
    connect(remove_, &QPushButton::clicked, this, [this] {
        const std::size_t at = chosen();
        edit(tr("remove smear"), [at](Finish& f) {
            if (at < f.smears.size()) f.smears.erase(f.smears.begin() + static_cast<std::ptrdiff_t>(at));
        });
    });
}

void SmearRow::layOut() {
    QHBoxLayout* line = addLine();
    for (QPushButton* one : {start_, end_, stretch_})
        line->addWidget(one, 1);
    body()->addWidget(cut_);
    auto* grid = new QGridLayout(settings_);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setHorizontalSpacing(8);
    grid->setVerticalSpacing(4);
    grid->setColumnStretch(0, 1);
    grid->setColumnStretch(1, 1);
    grid->addWidget(which_, 0, 0, 1, 2);
    grid->addWidget(frames_, 1, 0);
    grid->addWidget(captioned(tr("Strongest"), peak_), 1, 1);
    grid->addWidget(length_, 2, 0);
    grid->addWidget(turn_, 2, 1);
    grid->addWidget(bulge_, 3, 0);
    grid->addWidget(remove_, 3, 1, Qt::AlignBottom);
    body()->addWidget(settings_);
    words_ = addWords();
}

std::size_t SmearRow::chosen() const {
    return static_cast<std::size_t>(std::max(0, which_->currentIndex()));
}

/// A smear in the direction in which the camera goes there.
void SmearRow::add(const Smear& smear) {
    const auto& subject = work_.subject();
    if (!subject.source) return;
    const std::int64_t last = subject.source->frames() - 1;
    const std::int64_t first = std::clamp<std::int64_t>(smear.from.floor(), 0, last);
    const std::int64_t end = std::clamp<std::int64_t>(smear.to.floor(), first, last);
    work_.measureDirection(first, end, [this, smear](double angle) {
        Smear measured = smear;
        measured.angle = std::round(angle);
        edit(tr("smear"), [&](Finish& f) { f.smears.push_back(measured); });
        if (!finish()) return;
        which_->setCurrentIndex(static_cast<int>(finish()->smears.size()) - 1);
        refresh(*finish(), work_.subject().source->facts());
    });
}

void SmearRow::smearStretch() {
    const auto gaps = workspace_.selectedGaps();
    if (!gaps) return tell(tr("Select a stretch in the thread chart first (Shift and drag)."));
    add({.from = Rational(gaps->first), .to = Rational(gaps->second + 1)});
}

void SmearRow::smearCut() {
    const auto& shots = workspace_.document.project().shots;
    const int at = workspace_.document.currentIndex();
    if (at < 0 || static_cast<std::size_t>(at) + 1 >= shots.size())
        return tell(tr("There is no shot after this one."));
    const auto& next = shots[static_cast<std::size_t>(at) + 1];
    const auto axis = workspace_.document.axisOf(next);
    if (!axis) return tell(tr("The next shot is still being opened. Try again in a moment."));
    const Timing timing = next.timing(axis->facts().rate, axis->frames());
    const auto& subject = work_.subject();
    if (!subject.source) return;
    Smear out{.from = std::max(firstFrame_, endFrame_ - Rational(usualFrames)),
              .to = endFrame_,
              .peak = SmearPeak::end};
    Smear in{.from = Rational(timing.from),
             .to = std::min(Rational(timing.to + 1), Rational(timing.from + usualFrames)),
             .peak = SmearPeak::start};
    const std::int64_t last = subject.source->frames() - 1;
    work_.measureDirection(
        std::clamp<std::int64_t>(out.from.floor(), 0, last),
        std::clamp<std::int64_t>(out.to.floor(), 0, last), [this, out, in](double angle) mutable {
            out.angle = in.angle = std::round(angle);
            out.bulge = in.bulge = 30;
            workspace_.document.editTwo(tr("smear across the cut"), [&](Shot& here, Shot& after) {
                here.finish.smears.push_back(out);
                after.finish.smears.push_back(in);
            });
        });
}

void SmearRow::change(const std::function<void(Smear&)>& change, const QString& what, int kind) {
    const std::size_t at = chosen();
    edit(
        what,
        [&](Finish& f) {
            if (at < f.smears.size()) change(f.smears[at]);
        },
        kind);
}

QString SmearRow::show(const Finish& finish, const MediaFacts& facts) {
    if (const auto timing = workspace_.document.currentTiming()) {
        firstFrame_ = Rational(timing->from);
        endFrame_ = Rational(timing->to + 1);
    }
    const auto& shots = workspace_.document.project().shots;
    cut_->setEnabled(static_cast<std::size_t>(workspace_.document.currentIndex()) + 1 < shots.size());
    settings_->setVisible(!finish.smears.empty());
    const int before = which_->currentIndex();
    which_->clear();
    for (const Smear& one : finish.smears)
        which_->addItem(tr("Source %1 to %2")
                            .arg(QLocale().toString(one.from.toDouble(), 'g', 6),
                                 QLocale().toString(one.to.toDouble(), 'g', 6)));
    which_->setCurrentIndex(std::clamp(before, 0, std::max(0, static_cast<int>(finish.smears.size()) - 1)));
    words_->setVisible(finish.smears.empty());
    words_->setText(tr("Blurs along the camera's motion, swelling towards a cut and ebbing after it."));
    (void)facts;
    if (finish.smears.empty()) return {};
    const Smear& now = finish.smears[chosen()];
    frames_->setNumber((now.to - now.from).toDouble());
    length_->setNumber(100 * now.length);
    turn_->setNumber(std::remainder(now.angle + now.turn, 360));
    bulge_->setNumber(now.bulge);
    peak_->setCurrentIndex(static_cast<int>(std::ranges::find(peaks, now.peak) - peaks.begin()));
    return tr("at %n places", nullptr, static_cast<int>(finish.smears.size()));
}

} // namespace yarngap::app
