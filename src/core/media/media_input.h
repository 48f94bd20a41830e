// A local media file as FFmpeg reads it. Internal to media/.
#pragma once

#include "core/files/local_file.h"

extern "C" {
#include <libavformat/avformat.h>
}

#include <exception>
#include <memory>
#include <stop_token>

namespace yarngap {

/// FFmpeg's view of a LocalFile: reads end when stopped, also those that hang.
///
/// What goes wrong waits in rethrow(), since nothing may be thrown through C; FFmpeg itself takes some
/// failures for the end of the file.
class MediaInput {
  public:
    /// Throws as LocalFile does.
    MediaInput(const std::filesystem::path& path, const std::stop_token& stop);
    ~MediaInput();
    MediaInput(const MediaInput&) = delete;
    MediaInput& operator=(const MediaInput&) = delete;
    MediaInput(MediaInput&&) = delete;
    MediaInput& operator=(MediaInput&&) = delete;

    [[nodiscard]] AVIOContext* io() const { return io_; }
    [[nodiscard]] const LocalFile& file() const { return file_; }
    /// What ends reads from now on.
    void setStop(const std::stop_token& stop) { stop_ = stop; }
    /// Throws what went wrong in a read, once: Cancelled or SourceLost; and Cancelled whenever stopped, since
    /// FFmpeg ends its own loops then, and tells of it as it likes. To be asked after every call of FFmpeg.
    void rethrow();
    /// Asked by FFmpeg in loops of its own.
    [[nodiscard]] AVIOInterruptCB interruptCallback();

  private:
    static int read(void* self, std::uint8_t* to, int count);
    static std::int64_t seek(void* self, std::int64_t offset, int whence);

    LocalFile file_;
    std::stop_token stop_;
    std::int64_t place_ = 0;
    std::exception_ptr failure_;
    AVIOContext* io_ = nullptr;
};

} // namespace yarngap
