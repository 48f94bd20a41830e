// Single picture files through the picture library, with all reading and writing done by core/files.
#pragma once

#include "core/files/local_file.h"
#include "core/files/new_file.h"
#include "core/media/picture_library.h"

#include <filesystem>
#include <functional>
#include <memory>
#include <stop_token>
#include <string>

namespace yarngap {

/// A picture file open for reading.
///
/// Its kind is that of its ending, and its content has to agree; the library is never left to choose. What
/// cannot be a flat picture of a sensible size (volumes, deep pixels, sides beyond what memory holds, more
/// than 1024 channels) is refused before memory is taken for it. Of several pictures in a file the first
/// counts.
class PictureFile {
  public:
    /// Throws Error in words for the editor, Cancelled when stopped.
    PictureFile(const std::filesystem::path& path, std::shared_ptr<ReadingThread> thread,
                const std::stop_token& stop = {});
    ~PictureFile();
    PictureFile(const PictureFile&) = delete;
    PictureFile& operator=(const PictureFile&) = delete;
    PictureFile(PictureFile&&) = delete;
    PictureFile& operator=(PictureFile&&) = delete;

    [[nodiscard]] const PictureHead& head() const { return in_->head(); }
    [[nodiscard]] const FileEdition& edition() const;
    /// Whether the file holds further pictures.
    [[nodiscard]] bool holdsSeveral();
    /// Whether somebody wrote to the file since it was opened.
    [[nodiscard]] bool hasChanged() const;

    /// Rows [top, bottom) as interleaved samples of channels [firstChannel, endChannel).
    struct Rows {
        int top = 0, bottom = 0;
        const void* samples = nullptr;
    };
    /// Reads all rows from top to bottom, some at a time, as samples of `kind`. Throws Error when the file is
    /// damaged, SourceLost when it cannot be read, Cancelled when stopped.
    void read(int firstChannel, int endChannel, PictureSample kind,
              const std::function<void(const Rows&)>& take);

  private:
    class Bytes;
    void open(const char* kind);
    void refuseUnfit() const;
    [[nodiscard]] Error damaged(const std::string& why) const;

    std::filesystem::path path_;
    std::unique_ptr<Bytes> bytes_; // outlives in_
    std::unique_ptr<OpenPicture> in_;
};

/// Writes a picture with the library's writer called `kind` ("png", "openexr"). `file` is left to be
/// finished. Throws Error.
void writePicture(NewFile& file, const char* kind, const PictureHead& head, const PictureRows& rows);

} // namespace yarngap
