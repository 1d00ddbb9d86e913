// SPDX-License-Identifier: GPL-3.0-or-later
// Reads the machine that this runs on from /proc and /sys, without root. What cannot be read is left open, never
// guessed. Only files below the given root are read; nothing is written.
#pragma once

#include <filesystem>
#include <impasto/base/context.h>
#include <impasto/machine/machine.h>

namespace impasto::probe {

/// What a window system knows of a panel that it shows something on, which files do not tell.
struct Screen {
    std::string connector; // "DP-1"; of one screen and one panel any name will do
    display::Resolution now;
    Hertz refresh;
};

struct Options {
    std::filesystem::path root = "/";
    std::vector<Screen> screens = {}; // the first is the one that is played on
    std::int64_t atSeconds = 0;       // now, since 1970, UTC
    Context context = {};             // asked between files
};

/// What was not found, to be asked for.
enum class Missing {
    GpuName,
    GpuMemory,
    MemorySpeed,
    Panel,
    RefreshNow, // the rate that the panel is set to
    Clocks,
    Fans
};
std::string_view keyOf(Missing missing);

struct Probed {
    machine::Machine machine; // 0 and "not said" where it was not found; its mark is that of its description
    std::vector<Missing> missing;
};

/// Errors: CannotRead where nothing of a Linux system lies below the root; Cancelled.
Result<Probed> readMachine(const Options& options);

/// The name of a device in the system's list of PCI names (the pci.ids format), the name in brackets where it has one.
std::optional<std::string> pciName(std::string_view list, unsigned vendor, unsigned device);

} // namespace impasto::probe
