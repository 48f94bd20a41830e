#include "cli/text_target.h"

#include "core/error.h"
#include "core/files/new_file.h"

#include <fstream>

namespace yarngap::cli {

void writeText(const std::filesystem::path& target, const std::string& content) {
    std::error_code ec;
    const auto status = std::filesystem::status(target, ec);
    if (!std::filesystem::exists(status) || std::filesystem::is_regular_file(status) ||
        std::filesystem::is_directory(status)) {
        writeWhole(target, content);
        return;
    }
    std::ofstream out(target, std::ios::binary);
    out << content;
    if (!out.flush()) throw Error(target.string() + " could not be written. Choose another name.");
}

} // namespace yarngap::cli
