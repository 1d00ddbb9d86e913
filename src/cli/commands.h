// SPDX-License-Identifier: GPL-3.0-or-later
// The commands of impasto-cli. Each gives the process's exit code: 0, or 1 for bad input, and prints results on stdout,
// errors on stderr.
#pragma once

#include <impasto/report/wording.h>
#include <optional>
#include <string>
#include <vector>

namespace impasto::cli {

struct SummarizeOptions {
    std::vector<std::string> logs;
    std::optional<double> targetFps;
    std::string school = "worst-mean", dialect; // dialect: as printed, corrected by hand; empty: found
    stats::HitchRule hitch;
    bool json = false;
};
int summarize(const SummarizeOptions& options);

struct CompareOptions {
    std::vector<std::string> before, after;
    std::optional<double> targetFps;
    std::string school = "worst-mean";
    double marginPercent = 2;               // of the average
    std::optional<double> precisionPercent; // wished half width of the average
    bool json = false;
};
int compare(const CompareOptions& options);

struct SimulateOptions {
    std::string machine, game, out;
    std::string preset, route;    // empty: the first
    std::vector<std::string> set; // setting=level
    std::optional<double> capFps, idleCapFps, refreshHz, seconds, ratio, generationTargetFps;
    std::string limiter = "engine", sync = "none", resolution, upscaler, generation;
    double sharpening = 0, warmUpSeconds = 0;
    int multiplier = 2;
    bool secondGpu = false, direct = false, driverUpdated = false, fresh = false;
    std::string fans = "automatic", plan = "balanced", supply = "mains";
    std::uint64_t seed = 1;
};
int simulate(const SimulateOptions& options);

struct TuneOptions {
    std::string machine, game, style = "cinematic";
    double targetFps = 60;
    std::optional<double> floorFps;
    std::uint64_t seed = 1;
    bool json = false;
};
int tune(const TuneOptions& options);

struct RigDrawOptions {
    std::uint64_t seed = 1;
    std::string folder = ".";
};
int rigDraw(const RigDrawOptions& options);

struct RigDescribeOptions {
    std::string machine, game;
    std::optional<double> targetFps;
};
/// The hidden truth of a machine and a game, to check what was measured against it.
int rigDescribe(const RigDescribeOptions& options);

/// Prints an error and gives 1.
int failed(const Error& error);
Result<machine::Machine> loadMachine(const std::string& path);
Result<game::Game> loadGame(const std::string& path);

} // namespace impasto::cli
