// SPDX-License-Identifier: GPL-3.0-or-later
// Machines and games read from files, with their whole descriptions for who plays them.
#pragma once

#include <impasto/description/originals.h>
#include <impasto/game/game.h>
#include <impasto/machine/machine.h>

namespace impasto::cli {

struct Described {
    machine::Machine machine;
    game::Game game;
    description::Originals originals;
};
/// Errors: those of the files, with file, line and key.
Result<Described> readDescribed(const std::string& machineFile, const std::string& gameFile);

} // namespace impasto::cli
