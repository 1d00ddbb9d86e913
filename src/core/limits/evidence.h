// SPDX-License-Identifier: GPL-3.0-or-later
// What the rules of single causes look at: a part over its runs, with the sensors meanwhile. One more cause is one more
// function here, in a file of its own, and its line in `suspicionsOf`.
#pragma once

#include <impasto/limits/limits.h>
#include <impasto/machine/machine.h>

namespace impasto::limits {

/// A part in one of the runs.
struct Stretch {
    const capture::Capture* capture = nullptr;
    double fromMs = 0, toMs = 0; // of the recording
};

struct Scene {
    const PartVerdict& verdict;
    std::vector<Stretch> stretches;
    const Around& around;
    const run::Variant& variant;
    const std::optional<display::Panel>& panel;

    /// The sensor's values within the part, over all runs; finite ones.
    [[nodiscard]] std::vector<double> within(capture::Sensor sensor) const;
    /// Of the whole recordings.
    [[nodiscard]] std::vector<double> over(capture::Sensor sensor) const;
    [[nodiscard]] std::optional<double> meanWithin(capture::Sensor sensor) const;
    /// In which the part's recordings tell the chip's clock: of its highest, or in MHz.
    [[nodiscard]] capture::Sensor clockOf(run::Lane chip) const;
    /// The mean clock in the part, a share of the highest: of what a percentage is of, else of the fastest that any of
    /// the recordings tells.
    [[nodiscard]] std::optional<double> clockShare(run::Lane chip) const;
    /// The GPU's clock is far below its highest while something else may explain the frame: CPU work, a cap, a sync. A
    /// saving machine lowers it until the work fills the frame, which then looks like a limit and is none.
    [[nodiscard]] bool gpuMayRest() const;
};

/// Whether the part's frames last whole refreshes, as a fixed sync makes them.
bool lastsWholeRefreshes(const Scene& scene, Hertz refresh);

std::optional<Suspicion> heatOf(const Scene& scene, run::Lane chip);
std::optional<Suspicion> powerOf(const Scene& scene);
std::optional<Suspicion> gpuMemoryOf(const Scene& scene);
std::optional<Suspicion> systemMemoryOf(const Scene& scene);
std::optional<Suspicion> copyRouteOf(const Scene& scene);
std::optional<Suspicion> generationOf(const Scene& scene);
std::optional<Suspicion> firstSightOf(const Scene& scene);
std::optional<Suspicion> toolFaultOf(const Scene& scene);
std::optional<Suspicion> turnsOf(const Scene& scene);
frames::BesideGpu besideGpuOf(const Scene& scene);
/// The share of the time that hitches take over what is usual around them.
double lostInHitches(std::span<const double> frames);
/// Where one run loses 1% of its time in hitches and four times what is usual in others: how sure, and what is usual.
struct FirstSightIn {
    double usual = 0, sure = 0;
};
std::optional<FirstSightIn> firstSightBeside(double lost, std::span<const double> others);
/// The column's finite values within a part.
void appendFinite(std::vector<double>& out, const std::vector<double>& column, const capture::PartRange& range);
/// All of them, the surest first.
std::vector<Suspicion> suspicionsOf(const Scene& scene);

/// CPU or GPU by loads alone, where no work is told: never Sure.
void decideByLoads(PartVerdict& verdict, const Scene& scene);

} // namespace impasto::limits
