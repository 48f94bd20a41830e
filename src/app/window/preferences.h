// What the editor has set for this program as a whole, not for a project.
#pragma once

#include <QString>

#include <array>
#include <cstdint>

namespace yarngap::app {

/// Colours of the window around the stage.
enum class Look { desktop, light, dark };

inline constexpr std::array sizePercents{80, 90, 100, 115, 130, 150};

/// Kept for this user between sessions.
struct Preferences {
    std::uint64_t memoryBytes = 0;     ///< for all that is kept because it may be wanted again
    std::uint64_t frameDiskBytes = 0;  ///< for finished frames on disk; 0 keeps none
    std::uint64_t vectorDiskBytes = 0; ///< for motion on disk; 0 keeps none
    bool sound = true;                 ///< playing is heard
    Look look = Look::desktop;         ///< `desktop`: as the desktop asks
    int sizePercent = 100;             ///< of text and controls, from the next start on: one of sizePercents

    friend bool operator==(const Preferences&, const Preferences&) = default;
};

/// Memory: a quarter of the machine's; disk: 4 GB each.
[[nodiscard]] Preferences defaultPreferences();
/// Those kept, each held within what makes sense on this machine.
[[nodiscard]] Preferences loadPreferences();
void savePreferences(const Preferences& preferences);
/// Has the window drawn at the size that is kept, on top of what the desktop asks for. Before there is a
/// QApplication.
void applySizeOfText();

/// "1.5 GB", "640 MB".
[[nodiscard]] QString displayBytes(std::uint64_t bytes);
/// Takes what displayBytes() gives; a bare number is in GB. Throws Error with a sentence.
[[nodiscard]] std::uint64_t parseBytes(const QString& text);

} // namespace yarngap::app
