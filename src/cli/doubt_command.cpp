#include "cli/commands.h"
#include "cli/json_output.h"
#include "core/mending/known_doubts.h"
#include "core/mending/mend_all.h"
#include "core/time/timecode.h"

#include <nlohmann/json.hpp>

#include <array>
#include <cstdio>
#include <iostream>

namespace yarngap::cli {

namespace {

std::string toText(const DoubtfulGap& gap) {
    std::array<char, 96> head{};
    std::snprintf(head.data(), head.size(), "gap %lld: doubt %.2f", static_cast<long long>(gap.first),
                  gap.doubt);
    std::string line = head.data();
    const char* before = "; ";
    for (const DoubtReason reason : gap.why) {
        line += before + std::string(name(reason));
        if (reason == DoubtReason::movesFar) {
            std::array<char, 64> far{};
            std::snprintf(far.data(), far.size(), " (%.0f px, %.1f %% of the width)", gap.farthest,
                          gap.widthShare * 100);
            line += far.data();
        }
        before = ", ";
    }
    return line + '\n';
}

nlohmann::ordered_json toJson(const DoubtfulGap& gap) {
    nlohmann::ordered_json json{{"gap", gap.first}, {"last", gap.last - 1}, {"output", gap.output}};
    json["doubt"] = gap.doubt;
    json["why"] = nlohmann::ordered_json::array();
    for (const DoubtReason reason : gap.why)
        json["why"].push_back(name(reason));
    json["box"] = {gap.box.x, gap.box.y, gap.box.width, gap.box.height};
    json["farthest"] = gap.farthest;
    return json;
}

} // namespace

void doubt(const ShotArguments& arguments, bool json, const Reader& reader) {
    Shot shot = arguments.baseShot();
    constexpr std::size_t cacheBytes = std::size_t{128} << 20;
    const auto vectors = std::make_shared<VectorStore>(cacheBytes, vectorFolderOfUser());
    const Footage footage = opened(shot, arguments, cacheBytes, reader, vectors, frameFolderOfUser());
    keepForOneGap(*vectors, footage.axis->facts());
    const ReadyShot ready =
        readyShot(shot, footage, findingsOf(arguments, shot, footage, reader),
                  {.vectors = vectors, .timing = arguments.timing(shot, footage.axis->facts())});
    const auto known = knownDoubtsOfUser();
    const std::string kept = shotKeyOf(*ready.planned);
    DoubtMemory memory = known ? known->find(kept) : DoubtMemory();
    const std::size_t before = memory.size();
    const std::vector<DoubtfulGap> gaps = [&] {
        TerminalProgress line;
        return doubtfulGaps(
            *ready.planned,
            [&](double share) {
                line.show("Looking at the gaps, " + std::to_string(static_cast<int>(share * 100)) + " %");
            },
            reader.stop(), &memory);
    }();
    if (known && memory.size() != before) {
        known->keep(kept, std::move(memory));
        known->flush();
    }
    if (json) {
        nlohmann::ordered_json all{{"gaps", nlohmann::ordered_json::array()}};
        for (const DoubtfulGap& gap : gaps)
            all["gaps"].push_back(toJson(gap));
        std::cout << all.dump(1) << '\n';
        return;
    }
    for (const DoubtfulGap& gap : gaps)
        std::cout << toText(gap);
    if (gaps.empty()) std::cout << "No frame is made by optical flow.\n";
}

Mending mendedAsBest(const Shot& shot, const Footage& footage, const GapFindings& found, const Timing& timing,
                     const MendArguments& arguments) {
    const ReadyShot ready = readyShot(shot, footage, found, {.vectors = arguments.vectors, .timing = timing});
    TerminalProgress line;
    const auto told = [&line](const char* what) {
        return [&line, what](double share) {
            line.show(what + std::to_string(static_cast<int>(share * 100)) + " %");
        };
    };
    const auto gaps = doubtfulGaps(*ready.planned, told("Looking at the gaps, "), arguments.stop);
    const CureJudge judge(footage.frames, arguments.vectors, found, shot.matte);
    const auto tried = tryCures(*ready.planned, judge, gaps, arguments.limit, shot.mending,
                                told("Trying cures, "), arguments.stop);
    std::size_t bettered = 0;
    for (const TriedGap& gap : tried)
        bettered += gap.best ? 1 : 0;
    std::cerr << tried.size() << (tried.size() == 1 ? " doubtful gap, " : " doubtful gaps, ") << bettered
              << " mended.\n";
    return withBestCures(shot.mending, tried);
}

} // namespace yarngap::cli
