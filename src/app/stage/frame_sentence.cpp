#include "app/stage/frame_sentence.h"

#include "app/look/language.h"
#include "app/look/numbers.h"

namespace yarngap::app {

namespace {

QString tr(const char* text) {
    return translated(text);
}

QString share(const Rational& phase) {
    if (phase == Rational(1, 2)) return tr("half way");
    if (phase == Rational(1, 4)) return tr("a quarter");
    if (phase == Rational(3, 4)) return tr("three quarters");
    if (phase == Rational(1, 3)) return tr("a third");
    if (phase == Rational(2, 3)) return tr("two thirds");
    return shownNumber(phase.toDouble(), 2);
}

/// Where a flow frame lies. With even texture or an open shutter that may be on a source frame.
QString flowWords(const PlanRow& row) {
    if (row.position.phase == Rational(0) && !row.bridged)
        return tr("source frame %1 through synthesis").arg(row.position.frame);
    if (row.bridged)
        return tr("%1 from %2 to %3, past what repeats %2")
            .arg(share(phaseOf(row)))
            .arg(row.first)
            .arg(row.last);
    return tr("%1 from %2 to %3")
        .arg(share(row.position.phase))
        .arg(row.position.frame)
        .arg(row.position.frame + 1);
}

QString madeWord(SourceMark::Made made) {
    switch (made) {
    case SourceMark::Made::no:
        break;
    case SourceMark::Made::passedOver:
        return tr("passed over");
    case SourceMark::Made::rebuilt:
        return tr("rebuilt");
    case SourceMark::Made::restored:
        return tr("restored in places");
    case SourceMark::Made::putIn:
        return tr("put in");
    }
    return {};
}

/// What was done to a source frame, and to those that are gone before it.
QStringList markWords(const SourceMark& mark, bool withBefore) {
    QStringList parts;
    if (mark.made != SourceMark::Made::no)
        parts << tr("source frame %1 is %2").arg(mark.frame).arg(madeWord(mark.made));
    if (mark.repeated) parts << tr("source frame %1 is repeated to keep time").arg(mark.frame);
    if (withBefore && mark.leftOut > 0) parts << tr("%1 left out of the file between").arg(mark.leftOut);
    if (withBefore && mark.takenOut > 0) parts << tr("%1 taken out between").arg(mark.takenOut);
    return parts;
}

} // namespace

QString frameSentence(const FramePlan& plan, const PlanRow& row, std::optional<double> doubt) {
    QStringList parts;
    parts << tr("Output %1").arg(row.output)
          << tr("position %1").arg(shownNumber(row.position.toDouble(), 2));
    switch (row.kind) {
    case FrameKind::original:
        parts << tr("original source frame %1").arg(row.first);
        break;
    case FrameKind::repeat:
        parts << tr("source frame %1 shown again").arg(row.first);
        if (row.atCut) parts << tr("nothing is made across the cut");
        break;
    case FrameKind::held:
        parts << tr("past the end, source frame %1 held").arg(row.first);
        break;
    case FrameKind::blend:
        if (row.last - row.first > 1)
            parts << tr("mean of source frames %1 to %2").arg(row.first).arg(row.last);
        else
            parts << tr("%1 from %2 to %3").arg(share(row.position.phase)).arg(row.first).arg(row.last);
        parts << tr("frame blending");
        break;
    case FrameKind::flow:
        parts << flowWords(row);
        if (row.subject)
            parts << tr("subject %1 from %2 to %3")
                         .arg(share(subjectPhaseOf(row)))
                         .arg(row.subject->first)
                         .arg(row.subject->second);
        parts << tr("optical flow");
        if (row.open > Rational(0))
            parts << tr("shutter open for %1 source frames").arg(shownNumber(row.open.toDouble(), 2));
        break;
    }
    for (std::int64_t n = row.first; n <= row.last; ++n)
        if (const SourceMark* mark = plan.markOf(n)) parts << markWords(*mark, n > row.first);
    if (row.mend) parts << tr("mended");
    if (doubt) parts << tr("doubt %1").arg(shownNumber(*doubt, 2));
    return parts.join(QStringLiteral(" · "));
}

} // namespace yarngap::app
