// The options of `render` that finish each frame.
#pragma once

#include "core/files/input_files.h"
#include "core/finish/finish.h"
#include "core/motion/vector_store.h"
#include "core/shot/ready_shot.h"

#include <CLI/CLI.hpp>

#include <memory>
#include <optional>
#include <stop_token>
#include <string>

namespace yarngap::cli {

/// A finish as typed. Only what was given is set.
struct FinishArguments {
    std::optional<std::string> size, pixelAspect, fit, calm, hold, tone, finish;
    bool hideEdges = false;

    void addTo(CLI::App& command);
    /// What is for one shot only, or nothing.
    [[nodiscard]] std::string forOneShot() const;
    /// Whether the values can be meant; no file is read. Throws WrongUsage.
    void check() const;
    /// Files that are read and must not be written on.
    void addInputs(InputFiles& files) const;
    /// `finish` with what was given put in. What needs the pictures is asked for, and measured by measured().
    /// Throws WrongUsage for values that cannot be meant, and Error for files.
    void applyTo(Finish& finish) const;
    /// The finish of a shot with what it needs to know of the pictures: what --hold follows, the camera's
    /// path, grain. What is lost is told on standard error.
    [[nodiscard]] Finish measured(const Shot& shot, const Footage& footage, const GapFindings& found,
                                  const Timing& timing, const std::shared_ptr<VectorStore>& vectors,
                                  const std::stop_token& stop) const;
    /// The shot with all that, and with the edges of its frames hidden where that was asked for.
    [[nodiscard]] Shot finished(Shot shot, const Footage& footage, const GapFindings& found,
                                const Making& making, const std::stop_token& stop) const;
};

} // namespace yarngap::cli
