// SPDX-License-Identifier: GPL-3.0-or-later
// Graphics chips and panels as the kernel lists them.
#pragma once

#include "tree.h"

#include <impasto/probe/edid.h>
#include <impasto/probe/probe.h>

namespace impasto::probe {

struct Gpu {
    std::string address; // "0000:01:00.0"
    std::string name;    // empty: the system's list has none
    std::string driver;
    std::optional<bool> integrated;
    bool first = false;                         // the firmware starts on it
    double memoryMib = 0;                       // 0: not told
    std::optional<double> windowMib;            // of its memory, that the CPU sees at once
    std::optional<double> linkGts, linkBestGts; // a transfer of a bit a lane
    std::optional<double> lanes, bestLanes;
    std::optional<double> heatC, heatLimitC;
};
/// The one that renders first: with memory of its own, then with the most, then the one the firmware starts on.
std::vector<Gpu> gpusIn(const Tree& tree);

struct ConnectedPanel {
    std::string connector;
    std::string gpu; // the address of the one that it hangs on; empty: not told
    bool enabled = false;
    Edid edid;
};
/// Where the clock of each processor stands.
std::vector<std::string> clockFoldersIn(const Tree& tree);
/// Files of the CPU's temperature in thousandths of a degree: the chip's as a whole.
std::vector<std::string> cpuHeatPaths(const Tree& tree);

/// Those that are connected and say what they are; the one that is played on first.
std::vector<ConnectedPanel> panelsIn(const Tree& tree, const std::vector<Screen>& screens);

} // namespace impasto::probe
