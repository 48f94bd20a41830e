#include "app/stage/stage_tools.h"

#include <QHBoxLayout>
#include <QStyleOptionToolButton>

#include <algorithm>

namespace yarngap::app {

namespace {

constexpr std::array<Overlay, 4> all{Overlay::vectors, Overlay::trust, Overlay::difference,
                                     Overlay::madeFrom};

/// As wide as its neighbours where there is room, and no narrower than its text.
class StageButton final : public QToolButton {
  public:
    [[nodiscard]] QSize sizeHint() const override {
        constexpr int usual = 88;
        return {std::max(usual, textWidth() + 2 * roomy), QToolButton::sizeHint().height()};
    }
    [[nodiscard]] QSize minimumSizeHint() const override {
        return {std::min(textWidth(), narrow) + 2 * tight, QToolButton::sizeHint().height()};
    }

  protected:
    /// With … at the end where there is no room; its name and tip say all.
    void initStyleOption(QStyleOptionToolButton* option) const override {
        QToolButton::initStyleOption(option);
        option->text = fontMetrics().elidedText(text(), Qt::ElideRight, width() - 2 * tight);
    }

  private:
    static constexpr int roomy = 11; // pixels beside the text, border included
    static constexpr int tight = 4;
    static constexpr int narrow = 68; // of a text that may have to be cut
    [[nodiscard]] int textWidth() const { return fontMetrics().horizontalAdvance(text()); }
};

} // namespace

QToolButton* stageButton(const QString& text, const QString& objectName, const QString& tip) {
    auto* button = new StageButton;
    button->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
    button->setText(text);
    button->setProperty("elides", true);
    button->setToolTip(tip);
    button->setAccessibleName(text);
    button->setAccessibleDescription(tip);
    button->setObjectName(objectName);
    button->setFocusPolicy(Qt::TabFocus); // a click leaves the keys with the transport
    button->setStyleSheet(QStringLiteral(
        "QToolButton { background: #5E5E5E; color: white; border: 1px solid #7E7E7E; border-radius: 4px; "
        "padding: 1px 2px; }"
        "QToolButton:hover { background: #757575; } QToolButton:checked { background: #3A3A3A; }"
        "QToolButton:disabled { color: #A5A5A5; } QToolButton:focus { border-color: white; }"));
    return button;
}

StageTools::StageTools(QWidget* parent)
    : QWidget(parent)
    , overlays_{stageButton(tr("Vectors"), QStringLiteral("vectorsButton"),
                            tr("Arrows along the motion that this frame was made by (V)")),
                stageButton(tr("Trust"), QStringLiteral("trustButton"),
                            tr("Where that motion is doubtful (T)")),
                stageButton(tr("Difference"), QStringLiteral("differenceButton"),
                            tr("What neither source frame beside it shows (D)")),
                stageButton(tr("Made from"), QStringLiteral("madeFromButton"),
                            tr("Which source frame each pixel comes from (M)"))}
    , strip_(stageButton(tr("Filmstrip"), QStringLiteral("filmStripButton"),
                         tr("A page of frames in a row, to see repeats and tears at a glance (F)")))
    , compare_(stageButton(tr("Compare"), QStringLiteral("compareButton"),
                           tr("See this frame beside another version of it (C)")))
    , whole_(stageButton(tr("Full screen"), QStringLiteral("fullScreenButton"),
                         tr("Nothing but the picture and its controls (F11); Escape comes back"))) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(8, 0, 8, 0);
    row->setSpacing(6);
    row->addStretch();
    for (std::size_t i = 0; i < all.size(); ++i) {
        overlays_.at(i)->setCheckable(true);
        row->addWidget(overlays_.at(i));
        connect(overlays_.at(i), &QToolButton::clicked, this, [this, i] { toggle(all.at(i)); });
    }
    compare_->setCheckable(true);
    row->addSpacing(16);
    strip_->setCheckable(true);
    row->addWidget(strip_);
    row->addWidget(compare_);
    whole_->setCheckable(true);
    row->addWidget(whole_);
    row->addStretch();
    connect(compare_, &QToolButton::clicked, this, &StageTools::compareAsked);
    connect(whole_, &QToolButton::clicked, this, &StageTools::fullScreenAsked);
    connect(strip_, &QToolButton::clicked, this, &StageTools::filmStripAsked);
}

void StageTools::toggle(Overlay overlay) {
    overlay_ = overlay_ == overlay ? Overlay::none : overlay;
    for (std::size_t i = 0; i < all.size(); ++i)
        overlays_.at(i)->setChecked(all.at(i) == overlay_);
    Q_EMIT overlayChanged();
}

void StageTools::setComparing(bool on) {
    compare_->setChecked(on);
    comparing_ = on;
    enable();
}

void StageTools::setFilmStrip(bool on) {
    strip_->setChecked(on);
    strips_ = on;
    enable();
}

void StageTools::enable() {
    for (QToolButton* button : overlays_) // they tell of one version of one frame
        button->setEnabled(!comparing_ && !strips_);
}

} // namespace yarngap::app
