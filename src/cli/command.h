// SPDX-License-Identifier: GPL-3.0-or-later
// A command of impasto-cli as data: its options, where their values go, and what it does. main.cpp is the list.
#pragma once

#include <filesystem>
#include <functional>
#include <impasto/logs/import.h>
#include <impasto/run/bounds.h>
#include <impasto/wording/errors.h>
#include <map>
#include <optional>
#include <string>
#include <variant>
#include <vector>

namespace impasto::cli {

/// Where the value of an option goes; a bool is a switch.
using Into = std::variant<bool*, int*, std::uint64_t*, double*, std::optional<double>*, std::string*,
                          std::vector<std::string>*, std::map<std::string, std::string>*>;

struct Option {
    std::string name; // "--target", "-o,--output", or "logs" for what stands without a name
    std::string help;
    Into into; // a map takes the text under `key`
    std::optional<std::pair<double, double>> range = {};
    std::vector<std::string> oneOf = {};
    bool required = false;
    std::string key = {};
};

struct Command {
    std::string name, help;
    std::vector<Option> options;
    std::function<int()> run; // the exit code: 0, or 1 for bad input; prints results on stdout, errors on stderr
    std::vector<Command> commands = {};
};

// One file each.
Command summarizeCommand();
Command compareCommand();
Command limitsCommand();
Command machineCommand();
Command simulateCommand();
Command rigCommand();
Command tuneCommand();
Command applyCommand();
Command mattersCommand();
std::vector<Command> choiceCommands();
std::vector<Command> paceCommands();

/// Path of a file that ships with the program.
std::string shipped(std::string_view file);
/// Prints an error and gives 1.
int failed(const Error& error);
/// Writes where it was told to. Errors: AlreadyThere without `force`, and those of writing.
Result<void> writeOutput(const std::filesystem::path& file, std::string_view bytes, bool force);
Option forceOption(bool& into);
/// A frame log; "-" reads the standard input. Errors: those of the log.
Result<capture::Capture> readLogOrInput(const std::string& path, const logs::ReadOptions& options);
/// What is steered with, for several commands.
Option steeringOption(std::string& into);
/// The option that says how lows are counted, for several commands.
Option lowsOption(std::string& into);
/// "--most-power-w" and the others, in the bounds' units.
std::vector<Option> boundOptions(run::BoundFigures& into);

} // namespace impasto::cli
