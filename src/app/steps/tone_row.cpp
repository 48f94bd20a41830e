#include "app/steps/tone_row.h"

#include "app/steps/step_edits.h"
#include "app/steps/step_layout.h"

#include <QHBoxLayout>
#include <QLocale>

#include <algorithm>

namespace yarngap::app {

ToneRow::ToneRow(Workspace& workspace)
    : FinishRow(workspace, tr("Tone"), "toneRow")
    , curve_(new CurveField)
    , key_(button(tr("Key"), "toneKey",
                  tr("Keep this tone at this frame; between keys it goes from one to the other")))
    , reset_(button(tr("Reset"), "resetTone", tr("Back to the original tone")))
    , clipped_(faintLabel()) {
    const auto field = [this](const QString& caption, const QString& name, const char* object,
                              const NumberForm& form, double ToneKey::*value) {
        auto* out = new NumberField(caption, name, object, form);
        const int kind = kindOf(object);
        connect(out, &NumberField::changed, this,
                [this, value, kind, what = name.toLower()](double v, bool isStepped) {
                    change([&](ToneKey& key) { key.*value = v; }, what, isStepped ? kind : 0);
                });
        connect(out, &NumberField::problem, this, &ToneRow::tell);
        return out;
    };
    black_ =
        field(tr("Black"), tr("What becomes black"), "toneBlack", {{}, 3, 0.005, -0.5, 0.9}, &ToneKey::black);
    white_ =
        field(tr("White"), tr("What becomes white"), "toneWhite", {{}, 3, 0.005, 0.1, 2}, &ToneKey::white);
    gamma_ = field(tr("Gamma"), tr("Gamma"), "toneGamma", {{}, 2, 0.01, 0.1, 10}, &ToneKey::gamma);
    saturation_ = field(tr("Saturation"), tr("Saturation"), "toneSaturation", {{}, 2, 0.01, 0, 4},
                        &ToneKey::saturation);
    body()->addWidget(curve_);
    clipped_->setObjectName(QStringLiteral("toneClipped"));
    body()->addWidget(clipped_);
    QGridLayout* grid = addGrid();
    grid->addWidget(black_, 0, 0);
    grid->addWidget(white_, 0, 1);
    grid->addWidget(gamma_, 1, 0);
    grid->addWidget(saturation_, 1, 1);
    QHBoxLayout* line = addLine();
    line->addWidget(key_);
    line->addWidget(reset_);
    line->addStretch();
    words_ = addWords();
    connect(
        curve_, &CurveField::changed, this, [this](const std::vector<CurvePoint>& points, bool isDragged) {
            change([&](ToneKey& key) { key.curve = points; }, tr("tone curve"), isDragged ? editCurve : 0);
        });
    connect(key_, &QPushButton::clicked, this, [this] {
        const ToneKey now = toneNow();
        edit(tr("key of tone"), [&](Finish& f) {
            const auto at = std::ranges::find_if(f.tones, [&](const ToneKey& k) { return !(k.at < now.at); });
            if (at != f.tones.end() && at->at == now.at)
                *at = now;
            else
                f.tones.insert(at, now);
        });
    });
    connect(reset_, &QPushButton::clicked, this,
            [this] { edit(tr("reset tone"), [](Finish& f) { f.tones.clear(); }); });
}

Rational ToneRow::here() const {
    return Rational(workspace_.sourceFrameAtPlayhead());
}

ToneKey ToneRow::toneNow() const {
    ToneKey now;
    if (finish() && !finish()->tones.empty()) {
        const auto& tones = finish()->tones;
        const auto after = std::ranges::find_if(tones, [&](const ToneKey& k) { return here() < k.at; });
        now = after == tones.begin() ? *after : *std::prev(after);
        // Between two keys the numbers lie between; of two curves the one before is taken up.
        if (after != tones.begin() && after != tones.end()) {
            const double u = ((here() - now.at) / (after->at - now.at)).toDouble();
            for (double ToneKey::*value :
                 {&ToneKey::black, &ToneKey::white, &ToneKey::gamma, &ToneKey::saturation})
                now.*value += u * (*after.*value - now.*value);
        }
    }
    now.at = here();
    return now;
}

void ToneRow::change(const std::function<void(ToneKey&)>& change, const QString& what, int kind) {
    if (!finish()) return;
    ToneKey now = toneNow();
    change(now);
    edit(
        what,
        [&](Finish& f) {
            if (f.tones.size() <= 1) { // one goes for all frames
                if (!f.tones.empty()) now.at = f.tones.front().at;
                f.tones = {now};
                return;
            }
            const auto at = std::ranges::find_if(f.tones, [&](const ToneKey& k) { return !(k.at < now.at); });
            if (at != f.tones.end() && at->at == now.at)
                *at = now;
            else
                f.tones.insert(at, now);
        },
        kind);
}

void ToneRow::setHistogram(const std::optional<Histogram>& histogram) {
    curve_->setHistogram(histogram);
    if (!histogram) return clipped_->setText({});
    const auto percent = [](double share) {
        return QLocale().toString(100 * share, 'f', share < 0.0995 ? 1 : 0);
    };
    clipped_->setText(
        tr("Clipped: black %1 %, white %2 %").arg(percent(histogram->black), percent(histogram->white)));
}

QString ToneRow::show(const Finish& finish, const MediaFacts& /*facts*/) {
    const ToneKey now = toneNow();
    curve_->setCurve(now.curve);
    black_->setNumber(now.black);
    white_->setNumber(now.white);
    gamma_->setNumber(now.gamma);
    saturation_->setNumber(now.saturation);
    reset_->setEnabled(!finish.tones.empty());
    QString words;
    if (finish.tones.size() > 1) {
        QStringList frames;
        for (const ToneKey& key : finish.tones)
            frames << QLocale().toString(key.at.toDouble(), 'g', 6);
        words = tr("Keys at source frames %1.").arg(frames.join(QStringLiteral(", ")));
    }
    words_->setText(words);
    words_->setVisible(!words.isEmpty());
    if (std::ranges::all_of(finish.tones, &ToneKey::isNothing)) return {};
    return finish.tones.size() > 1 ? tr("%n keys", nullptr, static_cast<int>(finish.tones.size()))
                                   : tr("set");
}

} // namespace yarngap::app
