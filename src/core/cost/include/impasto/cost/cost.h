// SPDX-License-Identifier: GPL-3.0-or-later
// What every level costs on a lane: least squares over the route means of the kept runs, with standard errors from the
// scatter between runs. And which runs to make for it.
#pragma once

#include <impasto/run/run.h>

namespace impasto::cost {

struct LevelKey {
    std::string setting, level;
    friend auto operator<=>(const LevelKey&, const LevelKey&) = default;
};
/// The levels of `values` that are not the baseline's, of the settings that the baseline has.
std::vector<LevelKey> changedLevels(const game::Values& baseline, const game::Values& values);

struct Observation {
    game::Values values;
    double value = 0; // a lane's route mean in ms, or memory in MiB
};

/// value = base + sum of the chosen levels' differences from the baseline's levels.
struct Fit {
    std::vector<LevelKey> columns;  // measured levels other than the baseline's, in the order of the game's settings
    std::vector<double> estimate;   // [0] base, [1 + i] the difference of columns[i]
    std::vector<double> covariance; // row-major, (1 + columns)^2
    double residualSd = 0;          // between runs of one variant
    double degreesOfFreedom = 0;
    std::vector<std::size_t> runsOf; // [0] baseline runs, [1 + i] runs that hold columns[i]

    [[nodiscard]] double standardError(std::size_t i) const;
    [[nodiscard]] std::optional<std::size_t> indexOf(const LevelKey& key) const; // into estimate
    [[nodiscard]] double covarianceOf(std::size_t i, std::size_t j) const {
        return covariance[i * estimate.size() + j];
    }
    /// Half width of the two-sided t interval of estimate[i].
    [[nodiscard]] double halfWidth(std::size_t i, double confidence = 0.95) const;
};

/// Least squares by column-pivoted QR. Observations must hold the baseline at least twice; one that changes two or more
/// levels counts only where each of them is measured alone. Nothing where the scatter cannot be told (no degree of
/// freedom).
std::optional<Fit> fit(const game::Game& game, const game::Values& baseline, std::span<const Observation> observations);

/// Mean and standard error of a variant; nothing when it holds a level that is neither measured nor the baseline's.
struct Prediction {
    double mean = 0, standardError = 0;
};
std::optional<Prediction> predict(const Fit& fit, const game::Values& baseline, const game::Values& values);

/// Which lanes have something to save.
struct Need {
    bool cpu = false, gpu = false, memory = false;
};
/// One at a time, the levels that are worth a run: of settings that pay where something is to be saved, every level
/// below the baseline's; of the others their lowest level and the next above the baseline's, because a lane with room
/// can carry more picture. Settings without weight or without a lane (taste) are never measured.
std::vector<LevelKey> plan(const game::Game& game, const game::Values& baseline, const Need& need);
/// The levels that settings are locked at and whose cost has to be known: not the baseline's, not taste.
std::vector<LevelKey> lockedLevels(const game::Game& game, const game::Values& baseline, const game::Values& locked);

} // namespace impasto::cost
