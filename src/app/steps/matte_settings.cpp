#include "app/steps/matte_settings.h"

#include "app/steps/step_edits.h"
#include "app/steps/step_layout.h"
#include "core/error.h"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include <algorithm>

namespace yarngap::app {

MatteSettings::MatteSettings(Workspace& workspace, QWidget* parent)
    : QWidget(parent)
    , workspace_(workspace)
    , draw_(new QPushButton(tr("Draw")))
    , pictures_(new QPushButton(tr("Pictures…")))
    , remove_(new QPushButton(tr("Remove")))
    , state_(new QLabel)
    , feather_(new ValueField(tr("Feather")))
    , featherRow_(captioned(tr("Feather"), feather_))
    , onTop_(new QCheckBox(tr("Subject on top"))) {
    layOut();
    prepareParts();
    connectButtons();
    connectFeather();
}

void MatteSettings::layOut() {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(4);
    for (QPushButton* button : {draw_, pictures_, remove_}) {
        button->setStyleSheet(QStringLiteral("QPushButton { padding: 4px 6px; }"));
        button->setProperty("role", "choice");
        buttons->addWidget(button, 1);
    }
    auto* box = new QWidget;
    box->setLayout(buttons);
    buttons->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(captioned(tr("Matte"), box));
    state_->setWordWrap(true);
    state_->setStyleSheet(QStringLiteral("font-size: 11px;"));
    state_->setProperty("role", "faint");
    layout->addWidget(state_);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    row->addWidget(featherRow_, 1);
    row->addWidget(onTop_, 1, Qt::AlignBottom);
    layout->addLayout(row);
}

void MatteSettings::prepareParts() {
    draw_->setObjectName(QStringLiteral("drawMatte"));
    draw_->setAccessibleName(tr("Draw a matte on the picture"));
    draw_->setToolTip(tr("Draw an outline around the subject, so that it and what is behind it move apart"));
    draw_->setCheckable(true);
    pictures_->setObjectName(QStringLiteral("mattePictures"));
    pictures_->setAccessibleName(tr("Matte from pictures"));
    pictures_->setToolTip(tr("Take pictures or a video that are white where the subject is, frame by frame"));
    remove_->setObjectName(QStringLiteral("removeMatte"));
    remove_->setAccessibleName(tr("Remove the matte"));
    state_->setObjectName(QStringLiteral("matteState"));
    feather_->setObjectName(QStringLiteral("featherField"));
    onTop_->setObjectName(QStringLiteral("matteOnTop"));
    onTop_->setToolTip(tr("Turn off where the subject passes behind something"));
}

void MatteSettings::connectButtons() {
    connect(draw_, &QPushButton::clicked, this, &MatteSettings::drawAsked);
    connect(remove_, &QPushButton::clicked, this, [this] { change(tr("remove matte"), {}); });
    connect(pictures_, &QPushButton::clicked, this, [this] {
        const QString file = QFileDialog::getOpenFileName(this, tr("A picture of the matte, or a video"));
        if (!file.isEmpty()) usePictures(file);
    });
    connect(onTop_, &QCheckBox::clicked, this, [this](bool on) {
        if (!workspace_.document.current()) return;
        Matte matte = workspace_.document.current()->matte;
        matte.onTop = on;
        change(tr("order of the matte"), matte);
    });
}

void MatteSettings::putFeather(std::int64_t pixels, int kind) {
    if (!workspace_.document.current()) return;
    Matte matte = workspace_.document.current()->matte;
    matte.feather = static_cast<int>(pixels);
    change(tr("feather"), matte, kind);
}

void MatteSettings::connectFeather() {
    connect(feather_, &ValueField::typed, this, [this](const QString& typed) {
        try {
            const std::int64_t pixels = wholeNumber(typed, {"px"});
            if (pixels < 0 || pixels > Matte::softest)
                throw Error("Feather goes from 0 to " + std::to_string(Matte::softest) + " pixels.");
            putFeather(pixels, 0);
        } catch (const Error& error) {
            feather_->refuse(QString::fromStdString(error.what()));
        }
    });
    connect(feather_, &ValueField::refused, this, [this](const QString& sentence) {
        if (!sentence.isEmpty()) state_->setText(sentence);
    });
    connect(feather_, &ValueField::stepped, this, [this](int steps, bool) {
        if (!workspace_.document.current()) return;
        const int now = workspace_.document.current()->matte.feather;
        putFeather(std::clamp(now + steps, 0, Matte::softest), editFeather);
    });
}

void MatteSettings::usePictures(const QString& file) {
    if (!workspace_.document.current()) return;
    Matte matte;
    matte.pictures = file.toStdString();
    matte.onTop = workspace_.document.current()->matte.onTop;
    change(tr("matte from pictures"), matte);
}

void MatteSettings::change(const QString& what, const Matte& matte, int kind) {
    if (!workspace_.document.current()) return;
    Shot shot = *workspace_.document.current();
    shot.matte = matte;
    workspace_.document.edit(what, shot, kind);
}

void MatteSettings::setDrawing(bool on) {
    draw_->setChecked(on);
}

void MatteSettings::refresh(const Shot& shot) {
    const Matte& matte = shot.matte;
    const bool drawn = !matte.keys.empty();
    draw_->setText(drawn ? tr("Edit") : tr("Draw"));
    draw_->setEnabled(matte.pictures.empty());
    remove_->setEnabled(!matte.empty());
    featherRow_->setVisible(drawn);
    onTop_->setVisible(!matte.empty());
    onTop_->setChecked(matte.onTop);
    feather_->setShown(tr("%1 px").arg(matte.feather));
    if (!matte.pictures.empty()) {
        state_->setText(tr("From %1").arg(QString::fromStdString(matte.pictures.filename().string())));
    } else if (drawn) {
        QStringList frames;
        constexpr std::size_t shown = 6;
        for (std::size_t i = 0; i < std::min(shown, matte.keys.size()); ++i)
            frames << QString::number(matte.keys[i].frame);
        if (matte.keys.size() > shown) frames << QStringLiteral("…");
        state_->setText(
            tr("%1 points, keys at source frames %2", nullptr, static_cast<int>(matte.keys.size()))
                .arg(matte.keys.front().points.size())
                .arg(frames.join(QStringLiteral(", "))));
    } else {
        state_->setText(tr("Outline a subject whose edges tear: it and what is behind it then move apart."));
    }
}

} // namespace yarngap::app
