// Which of the digits in a file name count the frames.
#pragma once

#include "core/error.h"

#include <cstdint>
#include <filesystem>
#include <map>
#include <stop_token>
#include <string>
#include <string_view>
#include <vector>

namespace yarngap {

class ReadingThread;

/// A file name taken apart around one of its runs of digits.
struct NumberInName {
    std::string before, digits, after; ///< `after` with the ending

    [[nodiscard]] std::int64_t number() const;
    /// The name with a # for each digit: "shot_####_v2.png".
    [[nodiscard]] std::string pattern() const { return before + std::string(digits.size(), '#') + after; }
};

/// The runs of digits in the stem of a file name, in order. Runs of more than 12 digits are no numbers.
std::vector<NumberInName> numbersIn(std::string_view fileName);

/// Thrown when several numbers in a name may count the frames.
class UnclearNumber : public Error {
  public:
    UnclearNumber(const std::filesystem::path& picked, std::vector<std::filesystem::path> patterns);
    /// The patterns to choose from, each of which can be opened.
    [[nodiscard]] const std::vector<std::filesystem::path>& patterns() const { return patterns_; }

  private:
    std::vector<std::filesystem::path> patterns_;
};

/// Files of one folder that count the frames of a sequence.
struct NumberedFiles {
    std::map<std::int64_t, std::filesystem::path> files; ///< never empty
    std::vector<std::filesystem::path> leftOut;          ///< those with a number that another one has too
};

/// The files that `picked` belongs to: those of its folder that differ from it in one number only. A pattern
/// ("shot_####_v2.png"), where no file has that name, says which number; the count of # does not matter.
///
/// Otherwise it is the number that varies among the files there. Where several do, it is the one that has
/// twice as many values as any other, or else the only one that is written with leading zeros. A number
/// behind a lone v counts versions: it is never taken without a word. Throws UnclearNumber when none of this
/// decides, Error when the folder cannot be listed or holds no such file.
NumberedFiles filesOf(const std::filesystem::path& picked, ReadingThread& reading,
                      const std::stop_token& stop = {});

} // namespace yarngap
