#include "app/steps/texture_row.h"

#include "app/steps/step_layout.h"

#include <QLocale>

#include <algorithm>
#include <array>

namespace yarngap::app {

namespace {
constexpr std::array<GrainKind, 3> grains{GrainKind::none, GrainKind::added, GrainKind::matched};
} // namespace

TextureRow::TextureRow(Workspace& workspace, FinishWork& work)
    : FinishRow(workspace, tr("Soften, sharpen, grain"), "textureRow")
    , work_(work)
    , grain_(choice("grainKind", tr("Grain"),
                    {tr("As it is"), tr("Added to all frames"), tr("Made frames match the shot")})) {
    const NumberForm radius{tr("px"), 1, 0.1, Texture::leastRadius, Texture::mostRadius};
    soften_ = number(tr("Soften"), tr("Strength of softening"), "soften", {tr("%"), 0, 1, 0, 100},
                     [](Finish& f, double v) { f.texture.soften = static_cast<int>(v); });
    softenRadius_ = number(tr("Radius"), tr("Radius of softening"), "softenRadius", radius,
                           [](Finish& f, double v) { f.texture.softenRadius = v; });
    sharpen_ = number(tr("Sharpen"), tr("Strength of sharpening"), "sharpen",
                      {tr("%"), 0, 1, 0, Texture::mostSharpen},
                      [](Finish& f, double v) { f.texture.sharpen = static_cast<int>(v); });
    sharpenRadius_ = number(tr("Radius"), tr("Radius of sharpening"), "sharpenRadius", radius,
                            [](Finish& f, double v) { f.texture.sharpenRadius = v; });
    grainStrength_ = number(tr("Strength"), tr("Strength of grain"), "grainStrength",
                            {tr("%"), 1, 0.1, 0, Texture::mostGrain},
                            [](Finish& f, double v) { f.texture.grainStrength = v; });
    grainSize_ =
        number(tr("Size"), tr("Size of grain"), "grainSize", {tr("px"), 1, 0.1, 0, Texture::mostGrainSize},
               [](Finish& f, double v) { f.texture.grainSize = v; });
    QGridLayout* grid = addGrid();
    grid->addWidget(soften_, 0, 0);
    grid->addWidget(softenRadius_, 0, 1);
    grid->addWidget(sharpen_, 1, 0);
    grid->addWidget(sharpenRadius_, 1, 1);
    grid->addWidget(captioned(tr("Grain"), grain_), 2, 0, 1, 2);
    grid->addWidget(grainStrength_, 3, 0);
    grid->addWidget(grainSize_, 3, 1);
    words_ = addWords();
    connect(grain_, &QComboBox::activated, this, &TextureRow::chooseGrain);
}

void TextureRow::chooseGrain(int at) {
    const GrainKind kind = grains[static_cast<std::size_t>(at)];
    edit(tr("grain"), [kind](Finish& f) { f.texture.grain = kind; });
    if (kind != GrainKind::matched || !finish() || !finish()->texture.own.isNothing()) return;
    work_.measureGrain([this](const GrainLook& look) {
        edit(tr("grain of the shot"), [&](Finish& f) { f.texture.own = look; });
    });
}

QString TextureRow::show(const Finish& finish, const MediaFacts& /*facts*/) {
    const Texture& t = finish.texture;
    soften_->setNumber(t.soften);
    softenRadius_->setNumber(t.softenRadius);
    sharpen_->setNumber(t.sharpen);
    sharpenRadius_->setNumber(t.sharpenRadius);
    grain_->setCurrentIndex(static_cast<int>(std::ranges::find(grains, t.grain) - grains.begin()));
    grainStrength_->setNumber(t.grainStrength);
    grainSize_->setNumber(t.grainSize);
    grainStrength_->setVisible(t.grain == GrainKind::added);
    grainSize_->setVisible(t.grain == GrainKind::added);
    QString words;
    if (t.grain == GrainKind::matched) {
        const auto [least, most] = std::ranges::minmax(t.own.luma);
        words = t.own.isNothing() ? tr("The grain is not measured yet.")
                                  : tr("The shot's own: %1 to %2 % of white. Quick looks are shown without.")
                                        .arg(QLocale().toString(100 * least, 'f', 2),
                                             QLocale().toString(100 * most, 'f', 2));
    }
    words_->setText(words);
    words_->setVisible(!words.isEmpty());
    QStringList out;
    if (t.softens()) out << tr("softened");
    if (t.sharpens()) out << tr("sharpened");
    if (t.grain != GrainKind::none) out << tr("grain");
    return out.join(QStringLiteral(", "));
}

} // namespace yarngap::app
