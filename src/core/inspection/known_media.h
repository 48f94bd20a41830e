// What was found out about media files, kept between sessions.
#pragma once

#include "core/cache_folder.h"
#include "core/inspection/shot_findings.h"
#include "core/inspection/suitability.h"
#include "core/media/media_index.h"
#include "core/progress.h"

#include <filesystem>
#include <memory>
#include <stop_token>
#include <string>

namespace yarngap {

/// Indices, findings and suitability of media, each found out once. Without a folder nothing is kept.
///
/// An index belongs to a file that nobody has written to since, as the file system tells; findings belong to
/// pictures, whatever file holds them. What was kept by another version of this program or of FFmpeg, or is
/// damaged, is found out anew. Thread-safe.
///
///     const auto known = knownMediaOfUser();
///     const auto index = known->index("heron.mp4");
///     const auto findings = known->findings(index);
class KnownMedia {
  public:
    static constexpr std::uintmax_t defaultBytes = std::uintmax_t{512} << 20;

    /// Keeps nothing.
    KnownMedia() = default;
    explicit KnownMedia(const std::filesystem::path& folder, std::uintmax_t byteLimit = defaultBytes)
        : files_(std::make_unique<CacheFolder>(folder, ".known", byteLimit)) {}
    ~KnownMedia() {
        if (files_) files_->flush();
    }
    KnownMedia(const KnownMedia&) = delete;
    KnownMedia& operator=(const KnownMedia&) = delete;
    KnownMedia(KnownMedia&&) = delete;
    KnownMedia& operator=(KnownMedia&&) = delete;

    /// As buildIndex(), unless it is known. Not kept: picture sequences, which are listed anew, and indices
    /// with a remark (see MediaFacts), since the next try may go better.
    [[nodiscard]] std::shared_ptr<const MediaIndex> index(const std::filesystem::path& path,
                                                          const Progress& progress = {},
                                                          const std::stop_token& stop = {}) const;
    /// As inspectShot(), unless they are known; who asks for less may be told all. Not kept: findings of a
    /// file with frames that cannot be decoded, since the next try may go better.
    [[nodiscard]] std::shared_ptr<const ShotFindings> findings(const std::shared_ptr<const MediaIndex>& index,
                                                               const Progress& progress = {},
                                                               const std::stop_token& stop = {},
                                                               LookedFor what = LookedFor::all) const;
    /// As assessSuitability(), of the file taken as its findings propose, unless it is known.
    [[nodiscard]] std::shared_ptr<const Suitability>
    suitability(const std::shared_ptr<const MediaIndex>& index, const ShotFindings& findings,
                const std::stop_token& stop = {}) const;
    /// Waits until all is written.
    void flush() const {
        if (files_) files_->flush();
    }

  private:
    template <typename Value>
    [[nodiscard]] std::shared_ptr<const Value> find(const std::string& key) const;
    template <typename Value>
    void keep(const std::string& key, const Value& value) const;

    std::unique_ptr<CacheFolder> files_; ///< null: nothing is kept
};

/// Those that programs of this user keep for each other; they keep nothing where there is no place for it.
std::shared_ptr<const KnownMedia> knownMediaOfUser();

} // namespace yarngap
