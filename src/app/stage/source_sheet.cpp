#include "app/stage/source_sheet.h"

#include "app/stage/damaged_places.h"

#include <QMouseEvent>
#include <QWheelEvent>

#include <algorithm>
#include <cmath>

namespace yarngap::app {

namespace {

constexpr double sheetCaption = 42; // height under a picture

const Cleanup noCleanup;

} // namespace

SourceSheet::SourceSheet(QWidget* parent)
    : QWidget(parent) {
    setObjectName(QStringLiteral("sourceSheet"));
    setAccessibleName(tr("Source sheet: consecutive source frames"));
    setMinimumSize(240, 160);
    setFocusPolicy(Qt::StrongFocus);
    connect(&pictures_, &SheetPictures::ready, this, qOverload<>(&QWidget::update));
}

void SourceSheet::setFootage(const Footage& footage) {
    const bool same =
        footage_.frames && footage.frames && footage.frames->facts().path == footage_.frames->facts().path;
    if (footage.frames == footage_.frames) return;
    footage_ = footage;
    pictures_.setFootage(footage);
    if (!same) {
        found_.clear();
        showLarge(false);
    }
    goTo(same ? at_ : 0, same && anchor_ != at_); // which tells what is decided, too
}

void SourceSheet::setFound(std::vector<CleanupDecision> found, double certainty) {
    found_ = std::move(found);
    certainty_ = certainty;
    update();
}

const Cleanup& SourceSheet::cleanup() const {
    return footage_.axis ? footage_.axis->cleanup() : noCleanup;
}

std::int64_t SourceSheet::frames() const {
    return footage_.axis ? footage_.axis->interpretedFrames() : 0;
}

// ---- Moving about

PageGrid SourceSheet::grid() const {
    return {size(), pictures_.aspect(), sheetCaption};
}

std::pair<std::int64_t, std::int64_t> SourceSheet::page() const {
    return {first_, std::min(frames() - 1, first_ + grid().count() - 1)};
}

QRectF SourceSheet::placeOf(std::int64_t frame) const {
    const auto [first, last] = page();
    if (frame < first || frame > last) return {};
    return grid().placeOf(frame - first_);
}

std::optional<std::int64_t> SourceSheet::frameAt(QPointF at) const {
    const auto [first, last] = page();
    for (std::int64_t n = first; n <= last; ++n)
        if (placeOf(n).adjusted(0, 0, PageGrid::between, sheetCaption).contains(at)) return n;
    return std::nullopt;
}

void SourceSheet::turnTo(std::int64_t first) {
    const PageGrid g = grid();
    const std::int64_t count = g.count();
    first_ = std::clamp<std::int64_t>(first, 0, std::max<std::int64_t>(0, frames() - count));
    // Rows begin where they begin when leafing, but for the last page.
    if (first_ < frames() - count) first_ -= first_ % g.columns;
    wantPictures();
    update();
}

void SourceSheet::goTo(std::int64_t frame, bool select) {
    at_ = std::clamp<std::int64_t>(frame, 0, std::max<std::int64_t>(0, frames() - 1));
    if (!select) anchor_ = at_;
    anchor_ = std::clamp<std::int64_t>(anchor_, 0, std::max<std::int64_t>(0, frames() - 1));
    const auto [first, last] = page();
    const PageGrid g = grid();
    if (at_ < first || at_ > last) turnTo(at_ - std::int64_t{g.columns} * (g.rows / 2));
    wantPictures();
    update();
    tellCurrentPart(*this);
    Q_EMIT moved(at_);
}

// ---- For screen readers

int SourceSheet::partCount() const {
    const auto [first, last] = page();
    return static_cast<int>(std::max<std::int64_t>(0, last - first + 1));
}

DrawnPart SourceSheet::part(int index) const {
    const std::int64_t frame = first_ + index;
    const auto [from, to] = selection();
    const QString decision = decisionOn(frame);
    const QString caption = captionOf(frame);
    return {.name = decision.isEmpty() ? tr("Source frame %1").arg(caption)
                                       : tr("Source frame %1, %2").arg(caption, decision),
            .place = large_ ? (frame == at_ ? largePlace() : QRectF()) : placeOf(frame),
            .isSelected = frame >= from && frame <= to,
            .value = DrawnPart::Value{static_cast<double>(frame), 0, static_cast<double>(frames() - 1), 1}};
}

int SourceSheet::currentPart() const {
    return partCount() > 0 ? static_cast<int>(at_ - first_) : -1;
}

std::pair<std::int64_t, std::int64_t> SourceSheet::selection() const {
    return std::minmax(at_, anchor_);
}

void SourceSheet::goToFound(int direction) {
    const auto isOpen = [this](std::int64_t n, bool behind) {
        const CleanupDecision* found = foundOn(n, behind);
        return found && found->certainty >= certainty_ &&
               !(behind ? cleanup().behind(n) : cleanup().about(n));
    };
    for (std::int64_t n = at_ + direction; n >= 0 && n < frames(); n += direction)
        if (isOpen(n, false) || isOpen(n, true)) return goTo(n);
}

void SourceSheet::showLarge(bool on) {
    large_ = on && frames() > 0;
    zoom_ = 1;
    centre_ = {0.5, 0.5};
    flick_ = Flick::none;
    drawnFrom_.reset();
    wantPictures();
    update();
}

void SourceSheet::wantPictures() {
    if (!isVisible() || frames() == 0) return;
    std::vector<SheetPicture> wanted;
    if (large_)
        for (const std::int64_t n : {at_, at_ - 1, at_ + 1})
            wanted.push_back({n, false, true});
    const auto [first, last] = page();
    for (std::int64_t n = first; n <= last; ++n)
        wanted.push_back({n, false, false});
    const auto isMade = [this](std::int64_t n) {
        const auto frame = footage_.axis->frameOf(n);
        return frame && footage_.axis->origin(*frame).isMade();
    };
    if (isMade(at_)) wanted.push_back({at_, true, large_});
    for (std::int64_t n = first; n <= last; ++n)
        if (isMade(n)) wanted.push_back({n, true, false});
    pictures_.want(std::move(wanted));
}

// ---- Deciding

const CleanupDecision* SourceSheet::foundOn(std::int64_t frame, bool behind) const {
    for (auto at = std::lower_bound(found_.begin(), found_.end(), frame,
                                    [](const CleanupDecision&d, std::int64_t n) { return d.frame < n; });
         at != found_.end() && at->frame == frame; ++at)
        if ((at->kind == CleanupKind::putIn) == behind) return &*at;
    return nullptr;
}

bool SourceSheet::hasPlaces(std::int64_t frame) const {
    const CleanupDecision* about = cleanup().about(frame);
    const CleanupDecision* found = foundOn(frame, false);
    return (about && !about->places.empty()) || (found && !found->places.empty());
}

QString SourceSheet::decisionWords(std::int64_t first, std::int64_t last, CleanupKind kind) const {
    return first == last ? tr("source frame %1 %2").arg(first).arg(wordFor(kind))
                         : tr("source frames %1 to %2 %3").arg(first).arg(last).arg(wordFor(kind));
}

void SourceSheet::decide(CleanupKind kind) {
    if (frames() == 0) return;
    const auto [first, last] = selection();
    std::vector<CleanupDecision> decisions;
    if (kind == CleanupKind::putIn) { // behind the last one
        const CleanupDecision* there = cleanup().behind(last);
        const CleanupDecision* found = foundOn(last, true);
        int count = found ? found->count : 1;
        if (there) count = std::min(there->count + 1, CleanupDecision::mostPutIn);
        decisions.push_back({.frame = last, .kind = kind, .count = count});
    } else {
        for (std::int64_t n = first; n <= last; ++n) {
            if (kind == CleanupKind::restore && !hasPlaces(n)) continue; // they are to be drawn first
            CleanupDecision decision{.frame = n, .kind = kind};
            const CleanupDecision* found = foundOn(n, false);
            const CleanupDecision* there = cleanup().about(n);
            if (kind == CleanupKind::restore)
                decision.places = there && !there->places.empty() ? there->places : found->places;
            if (kind == CleanupKind::passOver && found && found->kind == kind) decision.part = found->part;
            decisions.push_back(std::move(decision));
        }
    }
    if (decisions.empty()) return showLarge(true);
    Q_EMIT decided(withDecisions(cleanup(), std::move(decisions)), decisionWords(first, last, kind));
}

const CleanupDecision* SourceSheet::timed() const {
    const CleanupDecision* about = cleanup().about(at_);
    return about && about->kind == CleanupKind::rebuild ? about : cleanup().behind(at_);
}

void SourceSheet::setPhases(const std::vector<Rational>& phases) {
    const CleanupDecision* there = timed();
    if (!there || there->phases == phases) return;
    CleanupDecision decision = *there;
    decision.phases = phases;
    Q_EMIT decided(withDecision(cleanup(), std::move(decision)), tr("place in time"));
}

void SourceSheet::undecide() {
    const auto [first, last] = selection();
    Q_EMIT decided(withoutDecisions(cleanup(), first, last), tr("decision taken back"));
}

void SourceSheet::addPlace(const QRectF& drawn, bool erase) {
    const QRectF whole = largePlace();
    const MediaFacts& facts = footage_.frames->facts();
    const QRect place = pixelsOf(drawn, whole, {facts.width, facts.height});
    if (place.isEmpty()) return;
    CleanupDecision decision{.frame = at_, .kind = CleanupKind::restore};
    const CleanupDecision* there = cleanup().about(at_);
    if (there && there->kind == CleanupKind::restore)
        decision.places = there->places;
    else if (const CleanupDecision* found = foundOn(at_, false))
        decision.places = found->places;
    decision.places =
        erase ? withoutPlace(decision.places, place) : withPlace(std::move(decision.places), place);
    Q_EMIT decided(withDecision(cleanup(), std::move(decision)),
                   erase ? tr("damaged place taken away") : tr("damaged place"));
}

// ---- Keys and mouse

bool SourceSheet::handleKey(int key, Qt::KeyboardModifiers modifiers) {
    const bool shift = modifiers.testFlag(Qt::ShiftModifier);
    if (modifiers != Qt::NoModifier && modifiers != Qt::KeypadModifier && !shift) return false;
    const PageGrid g = grid();
    const auto move = [&](std::int64_t by) { goTo(at_ + by, shift); };
    const std::int64_t row = large_ ? 1 : g.columns;
    switch (key) {
    case Qt::Key_Left:
        return move(-1), true;
    case Qt::Key_Right:
        return move(1), true;
    case Qt::Key_Up:
        return move(-row), true;
    case Qt::Key_Down:
        return move(row), true;
    case Qt::Key_PageUp:
        return move(-row * g.rows), true;
    case Qt::Key_PageDown:
        return move(row * g.rows), true;
    case Qt::Key_Home:
        return move(-at_), true;
    case Qt::Key_End:
        return move(frames()), true;
    case Qt::Key_Backspace:
    case Qt::Key_Delete:
        return undecide(), true;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        return showLarge(!large_), true;
    case Qt::Key_Escape:
        if (large_)
            showLarge(false);
        else
            Q_EMIT left();
        return true;
    default:
        return false;
    }
}

void SourceSheet::flick(Flick what) {
    flick_ = what;
    update();
}

void SourceSheet::endFlick() {
    if (flick_ != Flick::none) flick(Flick::none);
}

SheetPicture SourceSheet::shownFor(std::int64_t frame) const {
    SheetPicture which{frame, false, large_};
    if (frame != at_) return which;
    const std::int64_t end = frames() - 1;
    if (flick_ == Flick::before) which.frame = std::max<std::int64_t>(0, frame - 1);
    if (flick_ == Flick::after) which.frame = std::min(end, frame + 1);
    which.after = flick_ == Flick::made;
    return which;
}

QImage SourceSheet::shownPicture() {
    return pictures_.picture(shownFor(at_));
}

QRectF SourceSheet::largePlace() const {
    const QSizeF room(width() - 2 * PageGrid::margin, height() - sheetCaption - 8);
    const double wide = std::min(room.width(), room.height() * pictures_.aspect()) * zoom_;
    const QSizeF size(wide, wide / pictures_.aspect());
    const QPointF middle(width() / 2.0, 4 + room.height() / 2);
    return {middle - QPointF(centre_.x() * size.width(), centre_.y() * size.height()), size};
}

void SourceSheet::zoomAt(QPointF at, double factor) {
    const QRectF before = largePlace();
    const QPointF there((at.x() - before.left()) / before.width(), (at.y() - before.top()) / before.height());
    zoom_ = std::clamp(zoom_ * factor, 1.0, 32.0);
    const QRectF after = largePlace();
    const QPointF moved((at.x() - after.left()) / after.width(), (at.y() - after.top()) / after.height());
    centre_ += there - moved;
    centre_ = {std::clamp(centre_.x(), 0.0, 1.0), std::clamp(centre_.y(), 0.0, 1.0)};
    if (zoom_ == 1) centre_ = {0.5, 0.5};
    update();
}

void SourceSheet::mousePressEvent(QMouseEvent* press) {
    if (large_) {
        drawnFrom_ = drawnTo_ = press->position();
        erases_ = press->button() == Qt::RightButton;
        return;
    }
    if (const auto frame = frameAt(press->position()))
        goTo(*frame, press->modifiers().testFlag(Qt::ShiftModifier));
}

void SourceSheet::mouseMoveEvent(QMouseEvent* move) {
    if (large_ && drawnFrom_) {
        drawnTo_ = move->position();
        update();
    } else if (!large_ && move->buttons().testFlag(Qt::LeftButton)) {
        if (const auto frame = frameAt(move->position())) goTo(*frame, true);
    }
}

void SourceSheet::mouseReleaseEvent(QMouseEvent*) {
    if (!drawnFrom_) return;
    const QRectF drawn = QRectF(*drawnFrom_, drawnTo_).normalized();
    drawnFrom_.reset();
    constexpr double least = 3; // pixels of the screen; less is a click
    if (std::max(drawn.width(), drawn.height()) >= least) addPlace(drawn, erases_);
    update();
}

void SourceSheet::mouseDoubleClickEvent(QMouseEvent* press) {
    if (large_ || frameAt(press->position())) showLarge(!large_);
}

void SourceSheet::wheelEvent(QWheelEvent* wheel) {
    const int turns = wheel->angleDelta().y();
    if (turns == 0) return;
    if (large_) return zoomAt(wheel->position(), turns > 0 ? 1.25 : 0.8);
    const PageGrid g = grid();
    turnTo(first_ + (turns < 0 ? g.columns : -g.columns));
}

void SourceSheet::resizeEvent(QResizeEvent* resize) {
    QWidget::resizeEvent(resize);
    const PageGrid g = grid();
    turnTo(at_ - std::int64_t{g.columns} * (g.rows / 2));
}

void SourceSheet::showEvent(QShowEvent* shown) {
    QWidget::showEvent(shown);
    const PageGrid g = grid();
    turnTo(at_ - std::int64_t{g.columns} * (g.rows / 2));
}

} // namespace yarngap::app
