// SPDX-License-Identifier: GPL-3.0-or-later
// Which part of the machine limits the frame, in each part of the route, with the figures the verdict rests on. Frame
// times alone never yield CPU or GPU; loads beside them may.
#pragma once

#include <impasto/frames/beside.h>
#include <impasto/frames/parts.h>
#include <impasto/limits/causes.h>

namespace impasto::limits {

enum class Brake { Gpu, Cpu, Cap, Refresh, CannotTell };
enum class Certainty { Sure, Likely, Open };

struct LaneFigures {
    double meanMs = 0;                      // mean over the runs of the part's mean work
    double lowMs = 0, highMs = 0;           // 5% and 95% quantile of its frames, over all runs
    std::optional<double> standardErrorMs;  // of the mean, between runs
    double safeShare = 1;                   // of the budget that the mean may fill, see safeShareOf
    std::optional<double> onTimeShare = {}; // of its frames within the target's budget
};

/// Share of the budget that a lane may fill, by a rule of thumb (common practice, no source); GPU times vary more.
double ruleOfThumb(run::Lane lane);
/// Share of the budget that the mean of a lane's frames may fill so that a share of them stays within it: mean /
/// quantile of these frames, at most 1. Drawn towards the rule of thumb until there are 500 frames.
double safeShareOf(run::Lane lane, const std::vector<double>& frames, double onTimeShare);

struct PartVerdict {
    std::string part; // "" for a log without parts
    double seconds = 0;
    double fromMs = 0, toMs = 0; // where it lies in the first run
    Fps rate;
    double periodMs = 0;
    std::optional<LaneFigures> cpu, gpu;
    LaneFigures frame;
    Brake brake = Brake::CannotTell;
    double sure = 0;   // of the brake, 0 to 1
    bool flat = false; // the frames or the seconds hardly differ: a cap, a sync, or something else that holds them
    frames::BesideGpu beside = {};
    std::vector<Fact> facts;           // loads, where they decide
    std::vector<Suspicion> suspicions; // what stands behind it, the surest first
    std::vector<Tested> tested;        // by deciding runs
    [[nodiscard]] Certainty certainty() const {
        return sure >= 0.9 ? Certainty::Sure : sure > 0 ? Certainty::Likely : Certainty::Open;
    }
    /// What stands behind it or in its place, where that is more likely than not.
    [[nodiscard]] const Suspicion* cause() const {
        return !suspicions.empty() && suspicions.front().sure >= 0.6 ? &suspicions.front() : nullptr;
    }
    /// The cheapest run that would decide.
    [[nodiscard]] DecidingTest test() const;
    [[nodiscard]] const LaneFigures* of(run::Lane lane) const;
};

/// What the mean of a lane's frames may take of a budget, both in ms: its safe limit, less what lies beside the GPU's
/// work; of the CPU, where they take turns, what the GPU leaves. Nothing of a lane that is not told.
std::optional<double> usableMs(const PartVerdict& verdict, run::Lane lane, double budgetMs);

/// Neither CPU nor GPU fills the frame, and this stands between them: the copy route, what invents frames, or that they
/// take turns. nullptr: nothing that is more likely than not.
const Suspicion* heldBy(const PartVerdict& verdict);

/// What is known besides the runs themselves.
struct Around {
    const machine::Machine* machine = nullptr; // its memory, and how it is wired
    /// Other runs of the machine with the same settings and in the same state, as its warm-up: how fast its clocks are
    /// while it is cool.
    std::vector<std::shared_ptr<const capture::Capture>> others = {};
};

/// The runs share one variant; `onTimeShare`: wished, for the safe limits; `target`: for the lanes' on-time shares.
/// Rules, in this order (docs/method.md): a period within 2% of the cap's with neither lane above 95% of it: Cap. Under
/// fixed sync a period within 2% of whole refreshes, the same way: Refresh. A lane whose work is at least 95% of the
/// period and more than the other's: that lane, Sure; from 88%: Likely. Where no work is told: the GPU from a load of
/// 95%, the CPU below 85% unless the frames are flat, both Likely. Otherwise CannotTell. A variable range holds frames
/// at its top like a cap.
std::vector<PartVerdict> judge(std::span<const std::shared_ptr<const capture::Capture>> runs,
                               const run::Variant& variant, const std::optional<display::Panel>& panel,
                               double onTimeShare = 0.97, std::optional<Fps> target = {}, const Around& around = {});

} // namespace impasto::limits
