// SPDX-License-Identifier: GPL-3.0-or-later
// A game's own files: what a set of values would change in them, the change with a copy kept beside, and the way back.
#pragma once

#include <filesystem>
#include <impasto/config/text.h>
#include <impasto/game/game.h>

namespace impasto::config {

/// What would be done to one file.
struct FilePlan {
    std::string config; // its id
    std::filesystem::path file;
    std::string before, after; // bytes
    std::vector<Change> changes;
};
/// What a person does by hand.
struct ByHand {
    std::string config;
    game::ConfigFormat format = game::ConfigFormat::Environment;
    std::string text; // to hand over
};
struct Plan {
    std::vector<FilePlan> files; // those where something changes
    std::vector<ByHand> byHand;
    std::vector<std::string> unplaced; // settings without a place: to be set in the game's menu
    std::size_t alike = 0;             // values that stand in their files already
};
/// `home`: what ~ stands for. Nothing is written. Errors: those of reading and of patched(), with the file; CannotWrite
/// (it may not be written); LinkedElsewhere (a link out of its folder).
Result<Plan> planOf(const game::Game& game, const game::Values& values, const std::filesystem::path& home);

/// Levels as the files have them now, of settings with a place in a file; a text that is no level is left out, and so
/// is a file that cannot be read.
game::Values valuesInFiles(const game::Game& game, const std::filesystem::path& home);

struct Written {
    std::filesystem::path file, copy; // and the file as it was, beside it
    std::string before, after;
};
/// All files or none: what was written before a fault is taken back. Each is looked at again first. Errors:
/// ChangedMeanwhile, CannotWrite, DiskFull.
Result<std::vector<Written>> write(const Plan& plan);
/// The files as they were; the copies stay. Errors: ChangedMeanwhile, CannotWrite, DiskFull.
Result<void> takeBack(std::span<const Written> written);

} // namespace impasto::config
