// Renders that wait, kept between sessions.
#pragma once

#include "core/render/render_work.h"

#include <cstdint>
#include <filesystem>
#include <string>
#include <vector>

namespace yarngap {

/// A render in the queue. A plain value.
struct QueuedRender {
    enum class State {
        waiting, ///< for its turn
        running, ///< or was, when the program ended too early
        paused,  ///< finished parts are kept, and it goes on when asked
        done,
        failed,
        cancelled
    };
    std::int64_t number = 0; ///< tells jobs apart; never used twice in a queue
    RenderWork work;
    State state = State::waiting;
    std::string outcome; ///< how it ended, a sentence
    bool onFarm = false; ///< made by a cluster, which goes on when the program ends

    [[nodiscard]] bool isOver() const {
        return state == State::done || state == State::failed || state == State::cancelled;
    }
    friend bool operator==(const QueuedRender&, const QueuedRender&) = default;
};

/// Reads a queue; empty where there is no file. Not trusted. Throws Error.
std::vector<QueuedRender> loadQueue(const std::filesystem::path& file);
/// Writes it as a whole or not at all. Throws Error.
void saveQueue(const std::vector<QueuedRender>& queue, const std::filesystem::path& file);

} // namespace yarngap
