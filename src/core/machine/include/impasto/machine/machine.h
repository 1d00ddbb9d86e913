// SPDX-License-Identifier: GPL-3.0-or-later
// What the machine is, as its owner knows it. What only a simulator reads of the same file is not read here.
#pragma once

#include <impasto/base/error.h>
#include <impasto/display/display.h>
#include <impasto/machine/facts.h>

namespace impasto::machine {

struct Machine {
    std::string name;
    std::string cpu;
    std::string gpu;
    int cores = 0;           // 0: not said
    Mebibytes gpuMemory;     // 0: not said
    Mebibytes systemMemory;  // 0: not said
    display::Panel panel;    // native 0x0, refresh 0 Hz: not said
    std::string secondGpu;   // empty: none
    bool copyRoute = false;  // finished frames go through another graphics chip to the panel
    Facts facts;             // how it stood when it was looked at
    std::int64_t readAt = 0; // when this program read it, seconds since 1970, UTC; 0: it was typed
    bool simulated = false;  // it is described for the simulator
    std::uint64_t mark = 0;  // of the whole description as read; the text itself is kept apart (description::Originals)
};

/// docs/formats.md, Machine. Errors name file, line and key.
Result<Machine> parseMachine(std::string_view text, std::string fileName);
/// A description that parses to an equal machine (without what only a simulator reads).
std::string toToml(const Machine& machine);

} // namespace impasto::machine
