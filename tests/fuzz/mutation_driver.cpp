// Feeds a fuzz target with mutated copies of a corpus, where the compiler brings no fuzzing engine. The same
// seed gives the same inputs.
//
//     fuzz_x CORPUS_FOLDER [INPUTS [SEED]]

#include <algorithm>
#include <array>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <random>
#include <string>
#include <vector>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size);

namespace {

/// Pieces at which readers of text formats stumble.
constexpr std::array<const char*, 22> pieces{"-1",
                                             "0",
                                             "1e308",
                                             "1e-308",
                                             "9223372036854775807",
                                             "9223372036854775808",
                                             "4294967296",
                                             "0/0",
                                             "1/0",
                                             "-1/3",
                                             "NaN",
                                             "\"",
                                             "\\u0000",
                                             "\xff",
                                             "[[[[[[",
                                             "{",
                                             "}",
                                             ",",
                                             "\n",
                                             "null",
                                             "true",
                                             "99:99:99:99"};

class Mutator {
  public:
    explicit Mutator(unsigned seed)
        : random_(seed) {}

    std::string operator()(const std::vector<std::string>& corpus) {
        std::string text = corpus[below(corpus.size())];
        for (std::size_t changes = 1 + below(6); changes > 0; --changes)
            change(text, corpus);
        return text;
    }

  private:
    std::size_t below(std::size_t end) {
        return std::uniform_int_distribution<std::size_t>(0, end - 1)(random_);
    }

    void change(std::string& text, const std::vector<std::string>& corpus) {
        const std::size_t at = below(text.size() + 1);
        const std::size_t length = std::min(text.size() - at, below(24));
        switch (below(6)) {
        case 0:
            text.erase(at, length);
            break;
        case 1:
            text.insert(at, text.substr(at, length));
            break;
        case 2:
            text.replace(at, length, pieces.at(below(pieces.size())));
            break;
        case 3:
            if (at < text.size()) text[at] = static_cast<char>(below(256));
            break;
        case 4: {
            const std::string& other = corpus[below(corpus.size())];
            text.insert(at, other.substr(below(other.size() + 1), 40));
            break;
        }
        default:
            text.resize(at);
        }
    }

    std::mt19937 random_;
};

} // namespace

int main(int argc, char** argv) {
    if (argc < 2) {
        std::fprintf(stderr, "Usage: %s CORPUS_FOLDER [INPUTS [SEED]]\n", argv[0]);
        return 2;
    }
    std::vector<std::filesystem::path> files;
    for (const auto& entry : std::filesystem::directory_iterator(argv[1]))
        files.push_back(entry.path());
    std::sort(files.begin(), files.end());
    std::vector<std::string> corpus;
    corpus.reserve(files.size());
    for (const auto& file : files) {
        std::ifstream in(file, std::ios::binary);
        corpus.emplace_back(std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>());
    }
    if (corpus.empty()) return 2;
    const long inputs = argc > 2 ? std::strtol(argv[2], nullptr, 10) : 20000;
    Mutator mutated(argc > 3 ? static_cast<unsigned>(std::strtoul(argv[3], nullptr, 10)) : 1U);
    for (long i = 0; i < inputs; ++i) {
        const std::string text = mutated(corpus);
        LLVMFuzzerTestOneInput(reinterpret_cast<const std::uint8_t*>(text.data()), text.size());
    }
    std::printf("%ld inputs, none breaks it\n", inputs);
    return 0;
}
