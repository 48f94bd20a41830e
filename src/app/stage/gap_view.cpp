#include "app/stage/gap_view.h"

#include "app/look/numbers.h"
#include "app/look/theme.h"
#include "app/stage/frame_sentence.h"
#include "core/image/screen_colour.h"

#include <QApplication>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

GapView::GapView(Player& player, Preview& preview, QWidget* parent)
    : QWidget(parent)
    , player_(player)
    , preview_(preview)
    , stage_(new PictureStage(player, preview, this))
    , sentence_(new SteadyLabel(SteadyLabel::Room::twoLines, QStringLiteral("sentence"),
                                QStringLiteral("color: white; font-size: 13px; padding: 0 16px;")))
    , tools_(new StageTools)
    , bar_(new CompareBar)
    , others_(player, nullptr)
    , strip_(new FilmStrip(player, preview))
    , sheet_(new SourceSheet)
    , sheetBar_(new SourceSheetBar)
    , plot_(new PulsePlot(player))
    , probe_(new SteadyLabel(SteadyLabel::Room::given, QStringLiteral("probe"),
                             QStringLiteral("color: #E4E2DD; font-size: 12px;")))
    , transport_(new TransportBar(player, preview)) {
    setObjectName(QStringLiteral("gapView"));
    setAccessibleName(tr("Gap view"));
    setAutoFillBackground(true);
    QPalette grey = palette();
    grey.setColor(QPalette::Window, colour::stage);
    setPalette(grey);
    layOut();
    connectPlaying();
    connectParts();
    setStandIn({}, {});
}

void GapView::layOut() {
    bar_->setObjectName(QStringLiteral("compareBar"));
    for (SteadyLabel* told : {sentence_, probe_})
        told->label().setAlignment(Qt::AlignCenter);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 10, 0, 6);
    layout->setSpacing(4);
    layout->addWidget(stage_, 1);
    layout->addWidget(strip_, 1);
    layout->addWidget(sheet_, 1);
    layout->addWidget(sheetBar_);
    for (QWidget* hidden : std::initializer_list<QWidget*>{strip_, sheet_, sheetBar_})
        hidden->hide();
    for (QWidget* below : std::initializer_list<QWidget*>{sentence_, tools_, bar_, plot_, probe_, transport_})
        layout->addWidget(below);
}

void GapView::connectPlaying() {
    connect(&player_, &Player::moved, this, [this] {
        closeTries(); // they are of another frame
        setMatte(matte_);
        if (instead_) instead_->want(player_.clockFrame(), 1);
        preview_.want(player_.clockFrame(), player_.speed() < 0 ? -1 : 1);
        stage_->takePicture();
        refreshGuide();
        refreshTransport();
    });
    connect(&player_, &Player::stateChanged, this, [this] {
        if (player_.speed() != 0) preview_.want(player_.clockFrame(), player_.speed());
        refreshTransport();
    });
    connect(&transport_->loops(), &LoopControls::changed, this, &GapView::refreshTransport);
    const auto take = [this](qint64 output) {
        if (output == player_.playhead()) stage_->takePicture();
    };
    connect(&preview_, &Preview::pictureReady, this, take);
    connect(&preview_, &Preview::draftReady, this, take);
    connect(&preview_, &Preview::readyReset, this, [this] { stage_->takePicture(); });
    for (const auto signal :
         {&Preview::pictureReady, &Preview::draftReady, &Preview::sourceReady, &Preview::insightReady})
        connect(&preview_, signal, this, &GapView::refreshGuide);
    connect(&preview_, &Preview::readyReset, this, &GapView::refreshGuide);
    connect(&others_, &OtherVersions::pictureChanged, this, [this] { stage_->takePicture(); });
}

void GapView::connectParts() {
    connect(transport_, &TransportBar::originalAsked, this, &GapView::goToOriginal);
    connect(transport_, &TransportBar::zoomAsked, this, &GapView::toggleZoom);
    connect(stage_, &PictureStage::shown, this, &GapView::refreshSentence);
    connect(strip_, &FilmStrip::left, this, [this] { showFilmStrip(false); });
    connect(sheet_, &SourceSheet::left, this, [this] { showSourceSheet(false); });
    connect(sheetBar_, &SourceSheetBar::leaveAsked, sheet_, &SourceSheet::left);
    connect(sheetBar_, &SourceSheetBar::decisionAsked, sheet_, &SourceSheet::decide);
    connect(sheetBar_, &SourceSheetBar::undecideAsked, sheet_, &SourceSheet::undecide);
    connect(sheetBar_, &SourceSheetBar::foundAsked, sheet_, &SourceSheet::goToFound);
    connect(sheetBar_, &SourceSheetBar::phasesSet, sheet_, &SourceSheet::setPhases);
    connect(sheetBar_, &SourceSheetBar::phasesLeft, sheet_, qOverload<>(&QWidget::setFocus));
    connect(sheet_, &SourceSheet::moved, sheetBar_, [this] { sheetBar_->setTimed(sheet_->timed()); });
    connect(tools_, &StageTools::filmStripAsked, this, &GapView::showFilmStrip);
    connect(bar_, &CompareBar::viewChanged, this, &GapView::showComparison);
    connect(bar_, &CompareBar::plotsAsked, this, &GapView::refreshTransport);
    connect(stage_, &PictureStage::probed, this, &GapView::refreshProbe);
    connect(tools_, &StageTools::overlayChanged, this, [this] {
        stage_->setOverlay(tools_->overlay());
        refreshProbe();
    });
    connect(stage_, &PictureStage::shown, this, [this] {
        for (QWidget* overlay :
             std::initializer_list<QWidget*>{matteOverlay_, patchOverlay_, placeOverlay_, holdOverlay_})
            if (overlay) overlay->update(); // the picture may lie elsewhere now
    });
}

void GapView::toggleZoom() {
    if (std::abs(stage_->zoomPercent() - 100) < 0.5)
        stage_->setFit();
    else
        stage_->setZoom(1, QRectF(stage_->rect()).center());
    refreshTransport();
}

GapView::~GapView() {
    delete tries_; // which stops its work, so that the tasks need not be waited for to their end
}

void GapView::setShot(std::shared_ptr<const FramePlan> plan, const Timing& timing, const MediaFacts& shown,
                      const MediaFacts& source, SourceTimecode timecode) {
    closeTries();
    if (source.path != facts_.path) {
        sentence_->settle();
        leaveGuide();
        leaveOverlays();
    }
    facts_ = source;
    plan_ = std::move(plan);
    timing_ = timing;
    sourceTimecode_ = std::move(timecode);
    stage_->setShot(plan_, shown);
    if (guide_) requestGuidePictures(); // the stage has asked for its own
    strip_->setShot(plan_, shown.width * shown.pixelAspect.toDouble() / std::max(1, shown.height));
    plot_->setPlan(plan_);
    preview_.want(player_.playhead(), 1);
    stage_->takePicture();
    refreshTransport();
    refreshSentence();
}

void GapView::setStandIn(const QImage& picture, const QString& words) {
    closeTries();
    leaveGuide();
    leaveOverlays();
    compareWith({});
    showFilmStrip(false);
    showSourceSheet(false);
    sheet_->setFootage({});
    plan_.reset();
    stage_->setStandIn(picture, words);
    refreshTransport();
    refreshSentence();
}

void GapView::tryFour(const std::array<Try, 4>& tries, std::int64_t output) {
    closeTries();
    leaveGuide();
    showFilmStrip(false);
    showSourceSheet(false);
    tries_ = new TrySheet(tries, output, tryTasks_, this);
    connect(tries_, &TrySheet::chosen, this, [this](int, const InBetweens& settings) {
        closeTries();
        Q_EMIT settingsChosen(settings);
    });
    connect(tries_, &TrySheet::leftAsItWas, this, &GapView::closeTries);
    static_cast<QVBoxLayout*>(layout())->insertWidget(0, tries_, 1);
    stage_->hide();
    refreshSentence();
    refreshTransport();
    tries_->setFocus();
}

void GapView::closeTries() {
    if (!tries_) return;
    // The keys go back to the transport, not to the next button.
    const QWidget* focused = QApplication::focusWidget();
    if (focused == tries_ || tries_->isAncestorOf(focused)) window()->setFocus();
    // Not deleted at once: this may be its own signal.
    tries_->hide();
    tries_->deleteLater();
    tries_ = nullptr;
    stage_->setVisible(!strip_->isVisibleTo(this) && !guide_ && !showsSourceSheet());
    refreshTransport();
    stage_->takePicture(); // which brings the sentence back
}

std::int64_t GapView::nearestSourceFrame() const {
    if (!plan_ || plan_->rows.empty()) return 0;
    const auto at = std::clamp<qint64>(player_.playhead(), 0, static_cast<qint64>(plan_->rows.size()) - 1);
    const Position& position = plan_->rows[static_cast<std::size_t>(at)].position;
    const std::int64_t nearest = position.frame + (position.phase > Rational(1, 2) ? 1 : 0);
    return std::clamp<std::int64_t>(nearest, 0, std::max<std::int64_t>(0, facts_.frames - 1));
}

void GapView::goToOriginal(int direction) {
    if (!plan_) return;
    const auto total = static_cast<qint64>(plan_->rows.size());
    for (qint64 i = player_.playhead() + direction; i >= 0 && i < total; i += direction)
        if (plan_->rows[static_cast<std::size_t>(i)].kind == FrameKind::original) {
            player_.goTo(i);
            return;
        }
}

void GapView::compareWith(const std::vector<OtherVersion>& versions) {
    others_.show(versions);
    if (isComparing()) {
        closeTries();
        leaveGuide();
        showFilmStrip(false);
        showSourceSheet(false);
    }
    showComparison();
    stage_->takePicture();
    tools_->setComparing(isComparing());
    refreshTransport();
}

void GapView::showComparison() {
    if (!isComparing()) {
        stage_->setComparison(std::nullopt);
        plot_->setVersions({});
        return;
    }
    Comparison comparison{.others = {},
                          .mode = bar_->mode(),
                          .now = tr("Now"),
                          .blinkMilliseconds = bar_->blinkMilliseconds(),
                          .gain = bar_->gain()};
    std::vector<PulsePlot::Version> plotted{{&preview_, tr("Now")}};
    for (qsizetype i = 0; i < others_.count(); ++i) {
        comparison.others.push_back({others_.preview(i), others_.name(i)});
        plotted.push_back({others_.preview(i), others_.name(i)});
    }
    stage_->setComparison(std::move(comparison));
    plot_->setVersions(std::move(plotted));
}

void GapView::showFilmStrip(bool on) {
    on = on && plan_;
    if (on) {
        if (isComparing()) compareWith({});
        closeTries();
        leaveGuide();
        leaveOverlays();
        showSourceSheet(false);
    }
    // The keys go back to the transport, not to the next button.
    if (!on && strip_->hasFocus()) window()->setFocus();
    strip_->setVisible(on);
    stage_->setVisible(!on && !tries_ && !guide_ && !showsSourceSheet());
    tools_->setFilmStrip(on);
    if (on) strip_->setFocus();
    stage_->takePicture();
    refreshTransport();
}

void GapView::showSourceSheet(bool on) {
    on = on && plan_;
    if (on == showsSourceSheet()) return;
    if (on) {
        if (isComparing()) compareWith({});
        closeTries();
        leaveOverlays();
        leaveGuide();
        showFilmStrip(false);
        player_.pause();
    }
    // The keys go back to the transport, not to the next button.
    if (!on && sheet_->hasFocus()) window()->setFocus();
    sheet_->setVisible(on);
    sheetBar_->setVisible(on);
    stage_->setVisible(!on);
    if (on)
        sheet_->setFocus();
    else
        stage_->takePicture();
    refreshSentence();
    refreshTransport();
    Q_EMIT sourceSheetShown(on);
}

void GapView::goToGap(int direction) {
    if (!plan_ || plan_->rows.empty()) return;
    const auto& rows = plan_->rows;
    const auto total = static_cast<qint64>(rows.size());
    const auto gapOf = [&](qint64 i) { return rows[static_cast<std::size_t>(i)].position.frame; };
    qint64 i = std::clamp<qint64>(player_.playhead(), 0, total - 1);
    if (direction > 0) {
        const auto here = gapOf(i);
        while (i < total - 1 && gapOf(i) == here)
            ++i;
    } else {
        if (i > 0) --i;
        while (i > 0 && gapOf(i - 1) == gapOf(i))
            --i;
    }
    player_.goTo(i);
}

void GapView::refreshProbe() {
    // Only while somebody looks at it is it worked out.
    const auto pixel = stage_->pointedAt();
    preview_.wantInsight(plan_ && player_.speed() == 0 &&
                         (pixel || guide_ || tools_->overlay() != Overlay::none));
    const PreviewInsightPtr insight = stage_->insight();
    QString text;
    if (plan_ && pixel)
        text = insight ? probeText(insight->frame, pixel->x(), pixel->y())
                       : tr("x %1, y %2").arg(pixel->x()).arg(pixel->y());
    else if (plan_ && tools_->overlay() != Overlay::none)
        text = insight ? legendOf(tools_->overlay(), *insight) : tr("being worked out…");
    probe_->tell(text);
}

void GapView::refreshSentence() {
    sentence_->setVisible(plan_ != nullptr && !tries_ && !guide_ &&
                          !showsSourceSheet()); // those say what they show
    if (!plan_ || player_.playhead() >= static_cast<qint64>(plan_->rows.size())) return;
    const PlanRow& row = plan_->rows[static_cast<std::size_t>(player_.playhead())];
    // What is known of the whole gap says more than the frame alone, and why.
    const QString known = doubtWords_ && row.kind == FrameKind::flow ? doubtWords_(row) : QString();
    const bool tellsDoubt = known.isEmpty() && !stage_->isStale();
    QString text = frameSentence(*plan_, row, tellsDoubt ? stage_->doubt() : std::nullopt);
    if (!known.isEmpty()) text += QStringLiteral(" · ") + known;
    constexpr double visible = 1.002; // a pixel of a thousand
    if (!stage_->isStale() && stage_->edgeScale() > visible)
        text += tr(" · scaling in by %1 % would hide bare edges")
                    .arg(shownNumber(100 * (stage_->edgeScale() - 1), 1));
    if (!stage_->remark().isEmpty()) text += QStringLiteral(" — ") + stage_->remark();
    if (!stage_->trouble().isEmpty())
        text += QStringLiteral(" — ") + stage_->trouble();
    else if (stage_->isStale())
        text += tr(" · being made…");
    else if (stage_->isDraft())
        text += tr(" · draft, a better one is being made…");
    if (isToneMapped(facts_.colour)) text += tr(" · tone-mapped for this screen");
    // Below the picture, since a subject may be anywhere in it.
    for (const QString& hint : overlayHints())
        text = hint + QLatin1Char('\n') + text;
    sentence_->tell(text);
    stage_->setSentence(text);
    const QString percent = tr("%1 %").arg(std::lround(stage_->zoomPercent()));
    transport_->zoomButton().setText(stage_->isFitted() ? tr("fit %1").arg(percent) : percent);
}

void GapView::refreshTransport() {
    const bool shown = plan_ && !tries_ && !guide_ && !showsSourceSheet();
    transport_->setVisible(plan_ != nullptr && !showsSourceSheet());
    tools_->setVisible(shown);
    bar_->setVisible(shown && isComparing());
    plot_->setVisible(shown && isComparing() && bar_->showsPlots());
    probe_->setVisible(shown);
    transport_->zoomButton().setVisible(plan_ && stage_->isVisibleTo(this));
    if (!plan_) return;
    const auto at = static_cast<std::size_t>(player_.playhead());
    const bool isTold = sourceTimecode_ && at < plan_->rows.size();
    transport_->refresh(timing_.outputRate, isTold ? sourceTimecode_(plan_->rows[at].first) : QString());
}

} // namespace yarngap::app
