#include "cli/commands.h"
#include "cli/json_output.h"
#include "core/files/local_file.h"
#include "core/files/new_file.h"
#include "core/mending/known_doubts.h"
#include "core/mending/mend_all.h"
#include "core/time/timecode.h"

#include <nlohmann/json.hpp>

#include <algorithm>
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

std::filesystem::path sliceFile(const DoubtArguments& own, int slice) {
    std::array<char, 24> name{};
    std::snprintf(name.data(), name.size(), "%04d.doubts", slice);
    return std::filesystem::path(*own.folder) / name.data();
}

/// What all slices saw. Throws Error naming one that is missing or damaged.
DoubtMemory joined(const DoubtArguments& own) {
    constexpr std::int64_t most = 256 << 20;
    DoubtMemory all;
    for (int slice = 0; slice < *own.slices.slices; ++slice) {
        const std::filesystem::path file = sliceFile(own, slice);
        if (!std::filesystem::exists(file))
            throw Error("Slice " + std::to_string(slice) + " is missing: " + file.string() +
                        " is not there. Make it, then join again.");
        const auto memory = DoubtMemory::from(contentOf(file, most, "slice"));
        if (!memory)
            throw Error("Slice " + std::to_string(slice) + " is damaged: delete " + file.string() +
                        " and make it again.");
        all.insert(*memory);
    }
    return all;
}

/// Throws Error when no gap that must be seen is among those of the slices. One that a slice lacks is looked
/// at by the join.
void refuseOthers(const PlannedFrames& frames, const DoubtMemory& memory, const std::string& folder) {
    const std::vector<std::int64_t> outputs = outputsToDoubt(frames.plan());
    const auto isKnown = [&](std::int64_t output) { return memory.find(frames.key(output)).has_value(); };
    if (!outputs.empty() && std::ranges::none_of(outputs, isKnown))
        throw Error(
            "The slices in " + folder +
            " are of other settings or of another shot. Make them again with the options of the join.");
}

/// Looks at the gaps of one slice and keeps what was seen.
void lookAtSlice(const PlannedFrames& frames, const DoubtArguments& own, const std::stop_token& stop) {
    const std::vector<std::int64_t> outputs = outputsToDoubt(frames.plan());
    const auto [first, end] = own.slices.of(outputs.size());
    DoubtMemory memory;
    TerminalProgress line;
    for (std::size_t n = first; n < end; ++n) {
        throwIfStopped(stop);
        line.show("Gap " + std::to_string(n - first + 1) + " of " + std::to_string(end - first));
        static_cast<void>(doubtAt(frames, outputs[n], &memory, stop));
    }
    std::filesystem::create_directories(*own.folder);
    writeWhole(sliceFile(own, *own.slices.slice), memory.bytes());
}

} // namespace

void DoubtArguments::check() const {
    slices.check(!join);
    if (join && slices.slice)
        throw WrongUsage("--slice and --join are steps of their own; give one of them.");
    if (join && !slices.slices) throw WrongUsage("--join needs --slices N, the number of parts.");
    if (slices.slices.has_value() != folder.has_value())
        throw WrongUsage(
            "-o is the folder where parts keep what they see; give it together with --slices N.");
}

void doubt(const ShotArguments& arguments, const DoubtArguments& own, bool json, const Reader& reader) {
    Shot shot = arguments.baseShot();
    constexpr std::size_t cacheBytes = std::size_t{128} << 20;
    const auto vectors = std::make_shared<VectorStore>(cacheBytes, vectorFolderOfUser());
    const Footage footage = opened(shot, arguments, cacheBytes, reader, vectors, frameFolderOfUser());
    keepForOneGap(*vectors, footage.axis->facts());
    const ReadyShot ready =
        readyShot(shot, footage, findingsOf(arguments, shot, footage, reader),
                  {.vectors = vectors, .timing = arguments.timing(shot, footage.axis->facts())});
    if (own.slices.slice) {
        lookAtSlice(*ready.planned, own, reader.stop());
        std::cout << "Slice " << *own.slices.slice << " of " << *own.slices.slices << " is ready.\n";
        return;
    }
    const auto known = own.join ? nullptr : knownDoubtsOfUser();
    const std::string kept = shotKeyOf(*ready.planned);
    DoubtMemory memory = own.join ? joined(own) : known ? known->find(kept) : DoubtMemory();
    if (own.join) refuseOthers(*ready.planned, memory, *own.folder);
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
