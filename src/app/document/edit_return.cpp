#include "app/document/edit_return.h"

#include "core/error.h"
#include "core/files/file_once.h"
#include "core/files/write_failure.h"

#include <algorithm>

namespace yarngap::app {

EditReturn::EditReturn(RenderController& render, QObject* parent)
    : QObject(parent)
    , render_(render) {
    connect(&render_, &RenderController::finished, this, &EditReturn::writeWhenDone);
}

void EditReturn::start(const std::vector<Shot>& shots, const HandBackOptions& options, const QString& list,
                       const std::shared_ptr<const KnownMedia>& known,
                       const std::vector<std::filesystem::path>& kept, bool onFarm) {
    if (isPreparing_) return;
    isPreparing_ = true;
    tasks_.run([this, shots, options, list, known, kept, onFarm](const std::stop_token& stop) {
        try {
            HandedBack back = handBack(shots, options, *known, stop);
            for (RenderWork& work : back.works)
                work.spared = kept;
            postTo(this, [this, back = std::move(back), list, onFarm]() mutable {
                begin(std::move(back), list, onFarm);
            });
        } catch (const Cancelled&) {
            return; // the window closes
        } catch (const std::exception& error) {
            postTo(this, [this, sentence = QString::fromStdString(sentenceOf(error))] {
                isPreparing_ = false;
                Q_EMIT told(sentence, true);
            });
        }
    });
}

void EditReturn::begin(HandedBack back, const QString& list, bool onFarm) {
    isPreparing_ = false;
    QStringList notes;
    for (const std::string& note : back.notes)
        notes << QString::fromStdString(note);
    Pending pending{.renders = {}, .back = std::move(back), .file = list};
    for (RenderWork& work : pending.back.works)
        pending.renders.push_back(render_.add(std::move(work), onFarm));
    pending.back.works.clear();
    pending_.push_back(std::move(pending));
    Q_EMIT told(notes.join(QLatin1Char('\n')), false);
}

void EditReturn::writeWhenDone() {
    using State = QueuedRender::State;
    const auto ended = [this](std::int64_t number, bool asWanted) {
        const QueuedRender* job = render_.find(number);
        return asWanted ? job && job->state == State::done : !job || job->state == State::cancelled;
    };
    std::erase_if(pending_, [&](const Pending& pending) {
        const bool isGivenUp =
            std::ranges::any_of(pending.renders, [&](std::int64_t n) { return ended(n, false); });
        // One that failed can be tried again.
        const bool isDone =
            std::ranges::all_of(pending.renders, [&](std::int64_t n) { return ended(n, true); });
        if (isGivenUp)
            Q_EMIT told(
                tr("A shot was cancelled, so there is no list for the edit. Hand back once more for one."),
                true);
        else if (isDone)
            write(pending);
        return isGivenUp || isDone;
    });
}

void EditReturn::write(const Pending& pending) {
    tasks_.run([this, pending](const std::stop_token&) {
        QString sentence;
        bool isTrouble = false;
        try {
            const bool isTimeline = pending.back.original.extension() == ".otio";
            const QString ending = isTimeline ? QStringLiteral(".otio") : QStringLiteral(".edl");
            const std::string text = returnedList(pending.back, "list" + ending.toStdString());
            QString file = pending.file + ending;
            for (int n = 2; !writeOnce(file.toStdString(), text); ++n)
                file = pending.file + QLatin1Char(' ') + QString::number(n) + ending;
            sentence = tr("All shots are rendered. The list that replaces them is %1.").arg(file);
        } catch (const std::exception& error) {
            sentence = QString::fromStdString(sentenceOf(error));
            isTrouble = true;
        }
        postTo(this, [this, sentence, isTrouble] { Q_EMIT told(sentence, isTrouble); });
    });
}

} // namespace yarngap::app
