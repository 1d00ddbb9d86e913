// SPDX-License-Identifier: GPL-3.0-or-later
// Machines and games drawn at random, for practice, tests and benchmarks: the same seed gives the same texts
// everywhere. The population stands in docs/method.md.
#pragma once

#include <cstdint>
#include <string>

namespace impasto::rig_draw {

/// Descriptions with the simulator's tables, as TOML.
struct Drawn {
    std::string machine, game;
};
Drawn draw(std::uint64_t seed);

} // namespace impasto::rig_draw
