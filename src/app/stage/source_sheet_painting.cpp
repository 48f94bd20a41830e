// How the source sheet looks.

#include "app/look/theme.h"
#include "app/stage/damaged_places.h"
#include "app/stage/source_sheet.h"

#include <QPainter>

#include <cmath>

namespace yarngap::app {

namespace {

constexpr double lineHeight = 18;
const QColor emptyPlace(0x5E, 0x5E, 0x5E);
const QColor quiet(0xE4, 0xE2, 0xDD);

QString foundWord(const CleanupDecision& found) {
    switch (found.kind) {
    case CleanupKind::passOver:
        return SourceSheet::tr("repeat");
    case CleanupKind::rebuild:
        return SourceSheet::tr("bad frame");
    case CleanupKind::restore:
        return SourceSheet::tr("damage");
    case CleanupKind::putIn:
        return SourceSheet::tr("%1 lost after").arg(found.count);
    case CleanupKind::keep:
    case CleanupKind::takeOut:
        break;
    }
    return {};
}

QString withCertainty(const CleanupDecision& found) {
    return SourceSheet::tr("%1 %2 %").arg(foundWord(found)).arg(std::floor(found.certainty * 100));
}

/// A label on the picture's lower edge, dark so that any picture carries it.
void paintBadge(QPainter& p, const QRectF& place, const QString& words) {
    if (words.isEmpty()) return;
    p.setFont(textFont(12, QFont::DemiBold));
    const double wide = std::min(place.width(), p.fontMetrics().horizontalAdvance(words) + 12.0);
    const QRectF badge(place.left(), place.bottom() - lineHeight - 1, wide, lineHeight);
    p.fillRect(badge, colour::ink);
    p.setPen(Qt::white);
    p.drawText(badge.adjusted(6, 0, 0, 0), Qt::AlignVCenter | Qt::AlignLeft, words);
}

} // namespace

QString wordFor(CleanupKind kind) {
    switch (kind) {
    case CleanupKind::keep:
        return SourceSheet::tr("kept");
    case CleanupKind::passOver:
        return SourceSheet::tr("passed over");
    case CleanupKind::takeOut:
        return SourceSheet::tr("taken out");
    case CleanupKind::rebuild:
        return SourceSheet::tr("rebuilt");
    case CleanupKind::restore:
        return SourceSheet::tr("restored");
    case CleanupKind::putIn:
        return SourceSheet::tr("put in");
    }
    return {};
}

QString SourceSheet::decisionOn(std::int64_t frame) const {
    QStringList words;
    if (const CleanupDecision* about = cleanup().about(frame))
        words << (about->part == CleanupPart::subject      ? tr("subject %1").arg(wordFor(about->kind))
                  : about->part == CleanupPart::background ? tr("background %1").arg(wordFor(about->kind))
                                                           : wordFor(about->kind));
    if (const CleanupDecision* behind = cleanup().behind(frame)) words << tr("+%1 after").arg(behind->count);
    return words.join(QStringLiteral(", "));
}

QString SourceSheet::captionOf(std::int64_t frame) const {
    QString words = QString::number(frame);
    for (const bool behind : {false, true})
        if (const CleanupDecision* found = foundOn(frame, behind))
            words += QStringLiteral(" · ") + withCertainty(*found);
    return words;
}

void SourceSheet::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), colour::stage);
    if (frames() == 0) return;
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    if (large_)
        paintLarge(p);
    else
        paintPage(p);
}

void SourceSheet::paintPage(QPainter& p) {
    const auto [first, last] = page();
    for (std::int64_t n = first; n <= last; ++n)
        paintCell(p, n);
}

void SourceSheet::paintPlaces(QPainter& p, std::int64_t frame, const QRectF& place) const {
    const CleanupDecision* about = cleanup().about(frame);
    const bool isRestored = about && about->kind == CleanupKind::restore;
    const CleanupDecision* found = foundOn(frame, false);
    if (!isRestored && (about || !found || found->certainty < certainty_)) return;
    const MediaFacts& facts = footage_.frames->facts();
    p.setBrush(Qt::NoBrush);
    p.setRenderHint(QPainter::Antialiasing, false);
    for (const DamagedPlace& damaged : isRestored ? about->places : found->places) {
        const QRectF at = shownAt(damaged, place, {facts.width, facts.height}).adjusted(-2, -2, 2, 2);
        p.setPen(QPen(Qt::white, 3));
        p.drawRect(at);
        p.setPen(QPen(colour::madder, 1.5, isRestored ? Qt::SolidLine : Qt::DashLine));
        p.drawRect(at);
    }
}

void SourceSheet::paintCell(QPainter& p, std::int64_t frame) {
    const QRectF place = placeOf(frame);
    const CleanupDecision* about = cleanup().about(frame);
    const bool isOut = about && about->kind == CleanupKind::takeOut;
    SheetPicture which = shownFor(frame);
    QImage picture = pictures_.picture(which);
    if (picture.isNull() && which.after) picture = pictures_.picture({frame, false, false});
    if (isOut) p.setOpacity(0.35);
    if (picture.isNull())
        p.fillRect(place, emptyPlace);
    else
        p.drawImage(place, picture);
    p.setOpacity(1);
    if (isOut) {
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(QPen(Qt::white, 1.5));
        p.drawLine(place.topLeft(), place.bottomRight());
        p.drawLine(place.topRight(), place.bottomLeft());
    }
    if (flick_ == Flick::none || frame != at_) paintPlaces(p, frame, place);
    paintBadge(p, place, decisionOn(frame));
    const auto [first, last] = selection();
    p.setRenderHint(QPainter::Antialiasing, false);
    p.setBrush(Qt::NoBrush);
    if (frame >= first && frame <= last) {
        p.setPen(QPen(frame == at_ ? QColor(Qt::white) : quiet, 1));
        p.drawRect(place);
        p.setPen(QPen(colour::indigo, frame == at_ ? 4 : 2));
        p.drawRect(place.adjusted(-3, -3, 3, 3));
    }
    const QString trouble = pictures_.troubleOf(which);
    const CleanupDecision* found = foundOn(frame, false);
    const CleanupDecision* lost = foundOn(frame, true);
    const bool isTold = (found && found->certainty >= certainty_) || (lost && lost->certainty >= certainty_);
    const QRectF words(place.left(), place.bottom() + 4, place.width(), lineHeight);
    p.setFont(textFont(12, frame == at_ || isTold ? QFont::DemiBold : QFont::Normal));
    if (isTold) {
        const double wide =
            std::min(words.width(), p.fontMetrics().horizontalAdvance(captionOf(frame)) + 8.0);
        p.setPen(Qt::NoPen);
        p.setBrush(colour::madder);
        p.drawRoundedRect(QRectF(words.left() - 1, words.top(), wide, words.height()), 3, 3);
    }
    p.setPen(isTold ? QColor(Qt::white) : quiet);
    p.drawText(words.adjusted(3, 0, 0, 0), Qt::AlignVCenter | Qt::AlignLeft,
               p.fontMetrics().elidedText(trouble.isEmpty() ? captionOf(frame) : trouble, Qt::ElideRight,
                                          static_cast<int>(words.width()) - 3));
}

void SourceSheet::paintLarge(QPainter& p) {
    const QRectF place = largePlace();
    p.save();
    p.setClipRect(QRectF(0, 0, width(), height() - 30));
    const SheetPicture which = shownFor(at_);
    QImage picture = pictures_.picture(which);
    const bool isMissing = picture.isNull();
    SheetPicture small = which;
    small.large = false;
    if (isMissing) picture = pictures_.picture(small);
    if (picture.isNull())
        p.fillRect(place, emptyPlace);
    else
        p.drawImage(place, picture);
    if (flick_ == Flick::none) paintPlaces(p, at_, place);
    if (drawnFrom_) {
        p.setPen(QPen(erases_ ? colour::ink : colour::madder, 1.5, Qt::DashLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(*drawnFrom_, drawnTo_).normalized());
    }
    p.restore();
    QString words = tr("Source frame %1").arg(captionOf(at_));
    if (const QString decision = decisionOn(at_); !decision.isEmpty())
        words += QStringLiteral(" · ") + decision;
    else if (!hasPlaces(at_))
        words += tr(" · draw damaged places with the mouse; the right button erases them");
    if (flick_ == Flick::before) words = tr("Source frame %1, the one before").arg(which.frame);
    if (flick_ == Flick::after) words = tr("Source frame %1, the one after").arg(which.frame);
    if (flick_ == Flick::made)
        words = decisionOn(at_).isEmpty() ? tr("Nothing is decided about source frame %1").arg(at_)
                                          : tr("Source frame %1 as it is made").arg(at_);
    if (isMissing) words += tr(" · being made…");
    if (const QString trouble = pictures_.troubleOf(which); !trouble.isEmpty()) words = trouble;
    p.setFont(textFont(13));
    p.setPen(Qt::white);
    p.drawText(QRectF(16, height() - 28, width() - 32, 24), Qt::AlignCenter, words);
}

} // namespace yarngap::app
