// A render's work handed to a cluster.
#pragma once

#include "core/render/render_work.h"

#include <filesystem>

namespace yarngap {

/// Writes a prepared work down beside its result and submits its slices to Slurm; `program` is yarngap-cli.
/// Slices that are there already are not made again, and of a work that is on the farm already nothing is
/// submitted. The number of slices. Throws Error when the farm makes another work
/// with that name, when its folder cannot be written, or with what Slurm says.
int submitWork(const RenderWork& work, const std::filesystem::path& program);

/// The work that was written down beside `target`. Throws Error.
RenderWork workBeside(const std::filesystem::path& target);

} // namespace yarngap
