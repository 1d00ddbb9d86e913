// SPDX-License-Identifier: GPL-3.0-or-later
// What a choice is made from on the command line: a session of a logbook, or logs with a table of what they were played
// with.
#pragma once

#include "command.h"

#include <impasto/results/costs.h>
#include <impasto/results/results.h>

namespace impasto::cli {

struct Source {
    std::string logbook, session;    // the newest session where none is named
    std::string game, machine, runs; // descriptions and the table, TOML
    std::optional<double> targetFps; // none: the session's
    std::vector<std::string> locked; // setting=level
};
std::vector<Option> sourceOptions(Source& into);

/// The session that is named, or the newest one. Errors: those of the file; UnknownName.
Result<document::Session> storedSession(const Source& source);

struct Sourced {
    document::Session session;
    results::Results results;
    Fps target{60};
};
/// Errors: those of the files; MissingKey for an option or key that is needed; UnknownName; LacksRuns where the runs
/// tell no cost.
Result<Sourced> read(const Source& source);
/// "setting=level" into values that the game has. Errors: BadValue, UnknownName.
Result<void> say(const game::Game& game, const std::vector<std::string>& pairs, game::Values& values);

} // namespace impasto::cli
