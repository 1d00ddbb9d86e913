// SPDX-License-Identifier: GPL-3.0-or-later
// What every level costs against the settings in use, as far as is believed.
#pragma once

#include <impasto/cost/belief.h>
#include <span>

namespace impasto::cost {

struct LevelKey {
    std::string setting, level;
    friend auto operator<=>(const LevelKey&, const LevelKey&) = default;
};
/// The levels of `values` that are not the baseline's, of the settings that the baseline has.
std::vector<LevelKey> changedLevels(const game::Values& baseline, const game::Values& values);

/// Of one resource in one part: the baseline's, and what each other level changes of it while the rest stays.
struct LevelCosts {
    std::vector<LevelKey> columns;  // in the order of the settings and their levels
    std::vector<double> estimate;   // [0] the baseline, [1 + i] the difference of columns[i]; ms or MiB
    std::vector<double> covariance; // row-major, (1 + columns)^2
    std::vector<std::size_t> runs;  // [0] of the baseline, [1 + i] that hold columns[i]
    double runSd = 0;               // of one run's mean in a part, relative
    double shown = 0;               // how many runs have shown the resource there

    [[nodiscard]] std::optional<std::size_t> indexOf(const LevelKey& key) const; // into estimate
    [[nodiscard]] double standardError(std::size_t i) const;
    /// Half width of the interval of estimate[i].
    [[nodiscard]] double halfWidth(std::size_t i, double confidence = 0.95) const;
    /// Runs that hold another level of the setting than the baseline's: without one its costs are what is usual.
    [[nodiscard]] std::size_t runsThatMoved(std::string_view setting) const;
};

/// `ran`: the sets of the runs that count.
LevelCosts levelCosts(const Belief& belief, Resource resource, std::size_t part, const Set& baseline,
                      std::span<const Set> ran);

} // namespace impasto::cost
