// The demo shots as files.
#pragma once

#include "core/progress.h"

#include <filesystem>

namespace yarngap::theatre {

struct TheatreOptions {
    int width = 960;
    int height = 540;
    /// Also writes heron_glide_truth.mkv, lantern_parade_truth.mkv and toy_box_truth.mkv, the same at four
    /// times the rate with the same shutter: frame 4 n of them shows the moment of frame n of the shot; and
    /// festival_transfer_truth.mkv, the film of the transfer.
    bool truth = false;
};

/// Writes heron_glide.mp4, fox_on_twos.mp4, bell_swing.mov, lantern_parade.mp4, festival_transfer.mp4,
/// old_reel.mp4, phone_heron.mp4, cellar_tape.mp4, toy_box.mp4 and the project saltmarsh.yarngap into
/// `folder`; the project as soon as the first shot is there. Shots that are there already are kept. Throws
/// Error.
void makeTheatre(const std::filesystem::path& folder, const TheatreOptions& options,
                 const Progress& progress = {});

/// Just the heron: `frames` frames at 24 fps, and with `truth` set the fourfold-rate frames beside it.
void makeHeron(const std::filesystem::path& shot, const std::filesystem::path& truth, int width, int height,
               int frames);

} // namespace yarngap::theatre
