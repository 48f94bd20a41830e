// Slices handed to a cluster that Slurm runs.
#pragma once

#include <cstdint>
#include <filesystem>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

namespace yarngap {

/// What is handed over.
struct FarmJob {
    std::filesystem::path folder; ///< the slices' own, which all machines see; see slice_folder.h
    std::string name;             ///< shown in Slurm's lists
    std::filesystem::path workingFolder;
    std::vector<std::string> command; ///< the render, without --slice and --join
    int slices = 1;
    int tries = 3; ///< of each slice, before it counts as failed
};

/// How far a farm's work is.
struct FarmState {
    enum class Slice { waiting, running, ready, failed };
    std::vector<Slice> slices;
    enum class Join { waiting, running, done, failed } join = Join::waiting;
    [[nodiscard]] int count(Slice of) const;
    [[nodiscard]] bool isOver() const { return join == Join::done || join == Join::failed; }
};
[[nodiscard]] std::string_view name(FarmState::Slice slice); ///< "waiting", "running", "ready", "failed"
[[nodiscard]] std::string_view name(FarmState::Join join);

/// Whether the folder has jobs on the cluster that are not over. Throws Error when Slurm does not answer.
bool isWorkedOn(const std::filesystem::path& folder);
/// Throws Error when it has.
void refuseWorkedOn(const std::filesystem::path& folder);
/// Submits an array job of all slices and a job that joins them behind it. Scripts, logs and the jobs'
/// numbers lie in the folder. Throws Error with what Slurm says, or when the folder has such jobs already
/// that are not over.
void submitToFarm(const FarmJob& job);
/// Looks at Slurm's list and at the folder. Throws Error where nothing was submitted, or Slurm does not
/// answer.
FarmState farmState(const std::filesystem::path& folder);
/// Takes all its jobs off the cluster; what is ready stays. Throws Error.
void cancelOnFarm(const std::filesystem::path& folder);
/// Submits the slices that failed once more, and a new job that joins. Throws Error.
void retryOnFarm(const std::filesystem::path& folder);
/// The last lines of the log of a slice, or of the join where absent.
std::string farmLog(const std::filesystem::path& folder, std::optional<int> slice);

} // namespace yarngap
