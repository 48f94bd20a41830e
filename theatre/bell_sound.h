// The sound of the theatre bell.
#pragma once

#include <filesystem>

namespace yarngap::theatre {

/// Copies the pictures of the file `pictures` to `target` beside the sound of the bell: a stroke at each end
/// of its swing. Throws Error.
void addBellSound(const std::filesystem::path& pictures, const std::filesystem::path& target, double seconds);

} // namespace yarngap::theatre
