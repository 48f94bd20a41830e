// Shots of an edit on their way back.
#pragma once

#include "app/document/background_tasks.h"
#include "app/document/render_controller.h"

#ifndef Q_MOC_RUN // moc of Qt 6.4 stumbles over the standard library's concepts
#include "core/edit/hand_back.h"
#endif

#include <QObject>
#include <QString>

#include <cstdint>
#include <filesystem>
#include <memory>
#include <vector>

namespace yarngap::app {

/// Puts the renders of an edit's shots into the queue, and writes the list that replaces them once all are
/// done. One that failed can be tried again; when one is cancelled there is no list.
class EditReturn : public QObject {
    Q_OBJECT
  public:
    explicit EditReturn(RenderController& render, QObject* parent = nullptr);

    /// `list`: the file without its ending; it gets that of the list which the shots came from, and a number
    /// where such a file is there already. What the renders must not write on is `kept`. While another one is
    /// being prepared nothing happens.
    void start(const std::vector<Shot>& shots, const HandBackOptions& options, const QString& list,
               const std::shared_ptr<const KnownMedia>& known, const std::vector<std::filesystem::path>& kept,
               bool onFarm);

  Q_SIGNALS:
    void told(const QString& sentence, bool isTrouble);

  private:
    struct Pending {
        std::vector<std::int64_t> renders;
        HandedBack back;
        QString file; ///< without its ending
    };

    void begin(HandedBack back, const QString& list, bool onFarm);
    void writeWhenDone();
    void write(const Pending& pending);

    RenderController& render_;
    std::vector<Pending> pending_;
    bool isPreparing_ = false;
    BackgroundTasks tasks_; ///< last: ends before what it tells
};

} // namespace yarngap::app
