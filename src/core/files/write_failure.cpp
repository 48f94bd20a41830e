#include "core/files/write_failure.h"

#include "core/error.h"

#include <opencv2/core.hpp>

#include <cerrno>
#include <cstring>
#include <new>
#include <stdexcept>

namespace yarngap {

std::string writeFailure(const std::filesystem::path& target, int errnoValue) {
    const std::string name = target.string();
    switch (errnoValue) {
    case ENOSPC:
    case EDQUOT:
        return "The disk is full; " + name +
               " could not be completed. Free some space or choose another folder.";
    case EFBIG:
        return name +
               " grew larger than this disk or account allows. Choose another folder or a smaller format.";
    case ENOMEM:
        return "There is not enough memory to write " + name + ". Close other programs.";
    case EMFILE:
    case ENFILE:
        return name + " could not be written, because too many files are open. Close other programs.";
    case ENAMETOOLONG:
        return "The name " + name + " is too long for this disk. Choose a shorter one.";
    case EISDIR:
        return name + " is a folder. Choose a file name.";
    case ENOENT:
    case ENOTDIR:
        return "There is no folder " + target.parent_path().string() +
               " to write into. Create it or choose another.";
    case EACCES:
    case EPERM:
    case EROFS:
        return name + " could not be written (" + std::strerror(errnoValue) +
               "). Choose another folder, or change its permissions.";
    default:
        return name + " could not be written (" + std::strerror(errnoValue) +
               "). Check the disk, or choose another folder.";
    }
}

std::string sentenceOf(const std::exception& error) {
    if (dynamic_cast<const std::bad_alloc*>(&error) || dynamic_cast<const std::length_error*>(&error))
        return outOfMemory;
    if (const auto* pictures = dynamic_cast<const cv::Exception*>(&error);
        pictures && pictures->code == cv::Error::StsNoMem)
        return outOfMemory;
    if (dynamic_cast<const Error*>(&error)) return error.what();
    if (const auto* disk = dynamic_cast<const std::filesystem::filesystem_error*>(&error))
        return writeFailure(disk->path1(), disk->code().value());
    return std::string("Something went wrong inside Yarn Gap (") + error.what() +
           "). Your work is still open; save it, and try again.";
}

} // namespace yarngap
