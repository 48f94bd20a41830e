#include "app/document/edit_return.h"

#include "core/error.h"
#include "core/files/new_file.h"
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
    tasks_.run([this, shots, options, list, known, kept, onFarm](const std::stop_token& stop) {
        try {
            HandedBack back = handBack(shots, options, *known, stop);
            for (RenderWork& work : back.works)
                work.spared = kept;
            postTo(this, [this, back = std::move(back), list, onFarm]() mutable {
                begin(std::move(back), list, onFarm);
            });
        } catch (const Cancelled&) {
            return;
        } catch (const std::exception& error) {
            postTo(this, [this, sentence = QString::fromStdString(sentenceOf(error))] {
                Q_EMIT told(sentence, true);
            });
        }
    });
}

void EditReturn::begin(HandedBack back, const QString& list, bool onFarm) {
    QStringList notes;
    for (const std::string& note : back.notes)
        notes << QString::fromStdString(note);
    Pending pending{.renders = {}, .back = std::move(back), .file = list};
    pending.file +=
        pending.back.original.extension() == ".otio" ? QStringLiteral(".otio") : QStringLiteral(".edl");
    for (RenderWork& work : pending.back.works)
        pending.renders.push_back(render_.add(std::move(work), onFarm));
    pending.back.works.clear();
    pending_ = std::move(pending);
    Q_EMIT told(notes.join(QLatin1Char('\n')), false);
}

void EditReturn::writeWhenDone() {
    if (!pending_) return;
    using State = QueuedRender::State;
    for (const std::int64_t number : pending_->renders) {
        const QueuedRender* job = render_.find(number);
        if (!job || job->state == State::cancelled) {
            pending_.reset();
            Q_EMIT told(
                tr("A shot was cancelled, so there is no list for the edit. Hand back once more for one."),
                true);
            return;
        }
        if (job->state != State::done) return; // one that failed can be tried again
    }
    tasks_.run([this, pending = *pending_](const std::stop_token&) {
        QString sentence = tr("All shots are rendered. The list that replaces them is %1.").arg(pending.file);
        bool isTrouble = false;
        try {
            writeWhole(pending.file.toStdString(), returnedList(pending.back, pending.file.toStdString()));
        } catch (const std::exception& error) {
            sentence = QString::fromStdString(sentenceOf(error));
            isTrouble = true;
        }
        postTo(this, [this, sentence, isTrouble] { Q_EMIT told(sentence, isTrouble); });
    });
    pending_.reset();
}

} // namespace yarngap::app
