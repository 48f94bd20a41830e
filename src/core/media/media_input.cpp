#include "core/media/media_input.h"

#include "core/files/write_failure.h"
#include "core/progress.h"

#include <utility>

namespace yarngap {

MediaInput::MediaInput(const std::filesystem::path& path, const std::stop_token& stop)
    : file_(path, std::make_shared<ReadingThread>(), stop)
    , stop_(stop) {
    constexpr int bufferBytes = 128 * 1024;
    auto* buffer = static_cast<unsigned char*>(av_malloc(bufferBytes));
    if (buffer) io_ = avio_alloc_context(buffer, bufferBytes, 0, this, &read, nullptr, &seek);
    if (io_) return;
    av_free(buffer);
    throw Error(outOfMemory);
}

MediaInput::~MediaInput() {
    av_freep(&io_->buffer);
    avio_context_free(&io_);
}

void MediaInput::rethrow() {
    if (failure_) std::rethrow_exception(std::exchange(failure_, nullptr));
    throwIfStopped(stop_); // the library may have given up by itself, and made what it likes of that
}

AVIOInterruptCB MediaInput::interruptCallback() {
    return {[](void* self) {
                const auto& own = *static_cast<const MediaInput*>(self);
                return own.failure_ || own.stop_.stop_requested() ? 1 : 0;
            },
            this};
}

int MediaInput::read(void* self, std::uint8_t* to, int count) {
    auto& own = *static_cast<MediaInput*>(self);
    if (own.failure_) return AVERROR(EIO);
    try {
        const std::size_t got = own.file_.read(
            own.place_, std::as_writable_bytes(std::span(to, static_cast<std::size_t>(count))), own.stop_);
        own.place_ += static_cast<std::int64_t>(got);
        return got > 0 ? static_cast<int>(got) : AVERROR_EOF;
    } catch (...) {
        own.failure_ = std::current_exception();
        return AVERROR(EIO);
    }
}

std::int64_t MediaInput::seek(void* self, std::int64_t offset, int whence) {
    auto& own = *static_cast<MediaInput*>(self);
    const std::int64_t size = own.file_.bytes();
    if ((whence & AVSEEK_SIZE) != 0) return size;
    const int from = whence & ~AVSEEK_FORCE;
    const std::int64_t place = offset + (from == SEEK_CUR ? own.place_ : from == SEEK_END ? size : 0);
    if (place < 0) return AVERROR(EINVAL);
    own.place_ = place;
    return place;
}

} // namespace yarngap
