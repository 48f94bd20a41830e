// Media files and shots as commands ask for them, with progress on the terminal.
#pragma once

#include "cli/shot_arguments.h"
#include "core/inspection/known_media.h"
#include "core/shot/ready_shot.h"

#include <cstddef>
#include <cstdio>
#include <filesystem>
#include <memory>
#include <stop_token>
#include <string>
#include <utility>

#include <unistd.h>

namespace yarngap::cli {

/// One line on a terminal, rewritten in place; nothing elsewhere.
class TerminalProgress {
  public:
    TerminalProgress()
        : shown_(::isatty(STDERR_FILENO) == 1) {}
    TerminalProgress(const TerminalProgress&) = delete;
    TerminalProgress& operator=(const TerminalProgress&) = delete;
    ~TerminalProgress() {
        if (used_) std::fputs("\r\033[K", stderr);
    }
    void show(const std::string& text) {
        if (!shown_) return;
        std::fprintf(stderr, "\r\033[K%s", text.c_str());
        used_ = true;
    }

  private:
    bool shown_;
    bool used_ = false;
};

/// Opens and inspects media, unless that was done before.
class Reader {
  public:
    explicit Reader(std::stop_token stop)
        : stop_(std::move(stop)) {}
    [[nodiscard]] std::shared_ptr<const MediaIndex> open(const std::filesystem::path& media) const;
    [[nodiscard]] std::shared_ptr<const ShotFindings> inspect(const std::shared_ptr<const MediaIndex>& index,
                                                              LookedFor what) const;
    [[nodiscard]] std::shared_ptr<const Suitability> assess(const std::shared_ptr<const MediaIndex>& index,
                                                            const ShotFindings& findings) const {
        return known_->suitability(index, findings, stop_);
    }
    [[nodiscard]] const std::stop_token& stop() const { return stop_; }
    [[nodiscard]] const std::shared_ptr<const KnownMedia>& known() const { return known_; }

  private:
    std::stop_token stop_;
    std::shared_ptr<const KnownMedia> known_ = knownMediaOfUser();
};

/// The footage of a shot, and in `shot` what the arguments ask of it: the interpretation that the pictures
/// show, for --as-measured, the cleanup, and methods. Rebuilt frames are made by `vectors` and kept in
/// `finished`, which may be null. Decisions without effect are told on standard error. Where pictures are
/// looked at, it is for `what`: a caller that asks for all of it later spares a second look.
Footage opened(Shot& shot, const ShotArguments& arguments, std::size_t cacheBytes, const Reader& reader,
               const std::shared_ptr<VectorStore>& vectors = nullptr,
               const std::shared_ptr<FrameFolder>& finished = nullptr, LookedFor what = LookedFor::making);

/// Cuts and repeats, as given or as the pictures show; none are looked for where nothing is made between
/// frames.
GapFindings findingsOf(const ShotArguments& arguments, const Shot& shot, const Footage& footage,
                       const Reader& reader);

/// Leaves room for what the frames of one gap are made by: its vectors, as they are and with what the gaps
/// beside tell, and those of both of them. Of large pictures so many are not needed.
void keepForOneGap(VectorStore& vectors, const MediaFacts& facts);

} // namespace yarngap::cli
