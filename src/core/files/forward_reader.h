// A file read from its start to its end.
#pragma once

#include "core/error.h"
#include "core/files/local_file.h"

#include <array>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <span>
#include <string>

namespace yarngap {

/// Reads what comes next. Throws Error where the file ends too early, or as LocalFile does.
class ForwardReader {
  public:
    explicit ForwardReader(const std::filesystem::path& path)
        : file_(path, std::make_shared<ReadingThread>()) {}

    void take(std::span<std::byte> to) {
        if (static_cast<std::int64_t>(to.size()) > bytesLeft() || file_.read(place_, to) != to.size())
            throw Error("it is cut off");
        place_ += static_cast<std::int64_t>(to.size());
    }
    std::string text(std::size_t length) {
        if (static_cast<std::int64_t>(length) > bytesLeft()) throw Error("it is cut off");
        std::string text(length, '\0');
        take(std::as_writable_bytes(std::span(text)));
        return text;
    }
    /// A number of up to 8 bytes, the lowest first.
    std::uint64_t number(std::size_t bytes) {
        std::array<std::byte, 8> raw{};
        take(std::span(raw).first(bytes));
        std::uint64_t number = 0;
        for (std::size_t i = 0; i < bytes; ++i)
            number |= std::to_integer<std::uint64_t>(raw[i]) << (8 * i);
        return number;
    }
    [[nodiscard]] std::int64_t bytesLeft() const { return file_.bytes() - place_; }

  private:
    LocalFile file_;
    std::int64_t place_ = 0;
};

} // namespace yarngap
