// How much of the processors' time a virtual machine's host kept for others, without which no time can be
// judged.
#pragma once

#include <cstdint>
#include <fstream>
#include <string>

namespace yarngap {

/// Since it was made, from /proc/stat (Linux, proc(5)): all counts of its first line, the eighth of them
/// stolen.
class StolenTime {
  public:
    StolenTime()
        : before_(read()) {}
    /// 0 to 1; 0 where it cannot be read.
    [[nodiscard]] double share() const {
        const Counts now = read();
        const auto all = static_cast<double>(now.all - before_.all);
        return all > 0 ? static_cast<double>(now.stolen - before_.stolen) / all : 0;
    }

  private:
    struct Counts {
        std::uint64_t all = 0;
        std::uint64_t stolen = 0;
    };
    [[nodiscard]] static Counts read() {
        std::ifstream stat("/proc/stat");
        std::string word;
        stat >> word;
        Counts counts;
        constexpr int stolenAt = 7;
        constexpr int last = 8; // times of guests are in those of users already
        std::uint64_t count = 0;
        for (int i = 0; i < last && stat >> count; ++i) {
            counts.all += count;
            if (i == stolenAt) counts.stolen = count;
        }
        return counts;
    }
    Counts before_;
};

} // namespace yarngap
