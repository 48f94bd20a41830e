// Everything that a render needs to know, as a value that can be kept in a file.
#pragma once

#include "core/inspection/known_media.h"
#include "core/render/render_options.h"
#include "core/render/render_part.h"
#include "core/shot/ready_shot.h"

#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

namespace yarngap {

/// A shot of a render.
struct WorkShot {
    Shot shot;     ///< with what its finish needs to know measured, once it is prepared
    Timing timing; ///< at the rate of the file; the frames of a file with fields are made at rateToMake()
    /// Cuts, repeats and shakes; absent where the pictures have not been searched yet.
    std::optional<GapFindings> found = std::nullopt;
    std::vector<std::int64_t> uncleanedCuts = {};    ///< gaps that are cuts before the cleanup
    std::int64_t first = 0;                          ///< first output frame, counted at the rate of the file
    std::optional<std::int64_t> last = std::nullopt; ///< included; absent: to the end

    friend bool operator==(const WorkShot&, const WorkShot&) = default;
};

/// One or several files of the same frames. Shots follow each other in them. A plain value.
struct RenderWork {
    std::string name;  ///< for the editor
    std::string asked; ///< what the first worker was asked for; another one with another wish is refused
    std::vector<WorkShot> shots;
    std::vector<RenderTarget> targets;         ///< at least one
    RenderSettings settings;                   ///< the format of the first target stands there too
    std::vector<std::filesystem::path> spared; ///< files that must not be written on besides those it reads

    [[nodiscard]] Rate rate() const { return shots.front().timing.outputRate; } ///< of the files

    friend bool operator==(const RenderWork&, const RenderWork&) = default;
};

/// What is made with besides.
struct WorkMeans {
    std::shared_ptr<VectorStore> vectors;
    std::shared_ptr<FrameFolder> finished = nullptr;          ///< where made frames are kept; null: nowhere
    std::shared_ptr<const KnownMedia> known;                  ///< what is known of media files
    std::vector<std::shared_ptr<const MediaIndex>> open = {}; ///< indices that are there already
    std::size_t cacheBytes = std::size_t{128} << 20;          ///< for source frames, of all shots
};

/// A work with nothing left to be found out: cuts and repeats searched for, the finish measured, file rates
/// agreed on. Throws Error for media that cannot be opened, Cancelled.
RenderWork prepared(RenderWork work, const WorkMeans& means, const std::stop_token& stop);

/// The parts of a prepared work, ready to be rendered. Throws Error, Cancelled.
std::vector<RenderPart> partsOf(const RenderWork& work, const WorkMeans& means, const std::stop_token& stop);

/// How many frames a work makes, all shots together.
std::int64_t framesToMake(const RenderWork& work);

/// What RenderJob wants to know of a work. `parts` are those of it.
RenderOptions optionsOf(const RenderWork& work, const std::vector<RenderPart>& parts);

} // namespace yarngap
