// SPDX-License-Identifier: GPL-3.0-or-later
#include "evidence.h"

#include <impasto/frames/held.h>
#include <impasto/frames/one_rate.h>
#include <impasto/pace/pipeline.h>
#include <impasto/stats/stats.h>

#include <cmath>
#include <numeric>

namespace impasto::limits {
namespace {

using Capture = capture::Capture;

/// One part over all runs.
struct Gathered {
    std::string part;
    std::vector<frames::PartMeans> means;
    std::vector<double> frameMs, cpuMs, gpuMs; // of all frames
    double seconds = 0;
    std::vector<Stretch> stretches;
};

std::vector<Gathered> gather(std::span<const std::shared_ptr<const Capture>> runs, std::optional<double> pacedMs) {
    std::vector<Gathered> out;
    for (const auto& run : runs) {
        const auto means = frames::partMeans(*run, pacedMs);
        const auto ranges = capture::partsOf(*run);
        double atMs = 0;
        for (std::size_t i = 0; i < ranges.size(); ++i) {
            const double lasts =
                std::accumulate(run->framesMs.begin() + static_cast<std::ptrdiff_t>(ranges[i].first),
                                run->framesMs.begin() + static_cast<std::ptrdiff_t>(ranges[i].last), 0.0);
            auto it = std::find_if(out.begin(), out.end(), [&](const Gathered& g) { return g.part == ranges[i].part; });
            if (it == out.end()) it = out.insert(out.end(), Gathered{ranges[i].part, {}, {}, {}, {}, 0, {}});
            it->stretches.push_back({run.get(), atMs, atMs + lasts});
            atMs += lasts;
            it->means.push_back(means[i]);
            appendFinite(it->frameMs, run->framesMs, ranges[i]);
            if (run->cpuWorkMs) appendFinite(it->cpuMs, *run->cpuWorkMs, ranges[i]);
            if (run->gpuWorkMs) appendFinite(it->gpuMs, *run->gpuWorkMs, ranges[i]);
            it->seconds += static_cast<double>(means[i].frames) * means[i].periodMs / 1000;
        }
    }
    return out;
}

std::optional<LaneFigures> figures(const Gathered& g, run::Lane lane, const std::vector<double>& work,
                                   double onTimeShare, std::optional<Fps> target) {
    std::vector<double> perRun;
    for (const auto& m : g.means)
        if (const auto v = m.of(lane)) perRun.push_back(*v);
    if (perRun.size() != g.means.size() || work.empty()) return std::nullopt;
    LaneFigures f{*stats::mean(perRun),
                  *stats::quantile(work, 0.05),
                  *stats::quantile(work, 0.95),
                  {},
                  safeShareOf(lane, work, onTimeShare),
                  {}};
    if (target) f.onTimeShare = frames::onTimeShare(work, {*target, 0, {}});
    if (const auto sd = stats::standardDeviation(perRun))
        f.standardErrorMs = *sd / std::sqrt(static_cast<double>(perRun.size()));
    return f;
}

bool near(double value, double wanted) {
    return std::abs(value - wanted) <= 0.02 * wanted;
}

/// What holds the frames back at a rate: a cap, a panel's refreshes, the top of its variable range. Nothing otherwise.
std::optional<Brake> holder(const PartVerdict& v, const Scene& scene, const std::optional<display::Panel>& panel) {
    const auto& variant = scene.variant;
    const double cpu = v.cpu ? v.cpu->meanMs : 0.0, gpu = v.gpu ? v.gpu->meanMs : 0.0;
    const bool full = std::max(cpu, gpu) >= 0.95 * v.periodMs;
    const bool rests = gpu > cpu && scene.gpuMayRest();
    if (variant.cap && near(v.periodMs, 1000 / variant.cap->value()) && (!full || v.flat || rests)) return Brake::Cap;
    if (!panel) return std::nullopt;
    if (rests && variant.sync == run::Sync::Fixed &&
        lastsWholeRefreshes(scene, variant.refresh.value_or(panel->refresh)))
        return Brake::Refresh;
    if (full) return std::nullopt;
    if (variant.sync == run::Sync::Fixed || panel->headset) {
        const double refreshes = v.periodMs * panel->refresh.value() / 1000;
        if (near(refreshes, std::max(1.0, std::round(refreshes)))) return Brake::Refresh;
    }
    if (variant.sync == run::Sync::Variable && panel->variable && v.flat &&
        near(v.periodMs, 1000 / panel->variable->highest.value()))
        return Brake::Refresh;
    return std::nullopt;
}

void decide(PartVerdict& v, const Scene& scene, const std::optional<display::Panel>& panel) {
    if (const auto held = holder(v, scene, panel)) {
        v.brake = *held;
        v.sure = v.cpu && v.gpu ? 0.95 : 0.75;
        return;
    }
    if (!v.cpu || !v.gpu) return decideByLoads(v, scene);
    const double cpu = v.cpu->meanMs, gpu = v.gpu->meanMs, share = std::max(cpu, gpu) / v.periodMs;
    if (share < 0.88) return;
    if (gpu > cpu && cpu >= 0.7 * v.periodMs && scene.gpuMayRest()) {
        v.brake = Brake::Cpu;
        v.sure = 0.6;
        v.facts.push_back({Sign::RestingClock, 100 * *scene.clockShare(run::Lane::Gpu), 0});
        return;
    }
    v.brake = gpu > cpu ? Brake::Gpu : Brake::Cpu;
    const bool clear = share >= 0.95 && std::abs(gpu - cpu) > 0.05 * v.periodMs;
    v.sure = clear ? 0.95 : 0.75;
}

/// The middle four fifths of the frames within 2%.
bool flatFrames(const std::vector<double>& frames) {
    return *stats::quantile(frames, 0.9) - *stats::quantile(frames, 0.1) < 0.02 * *stats::quantile(frames, 0.5);
}

/// Something holds the frames: they hardly differ, or a clock starts them while neither lane fills them.
bool isHeld(const PartVerdict& v, const std::vector<double>& frames) {
    const auto fills = [&v](const std::optional<LaneFigures>& lane) {
        return lane && lane->meanMs >= 0.95 * v.periodMs;
    };
    return flatFrames(frames) || (!fills(v.cpu) && !fills(v.gpu) && frames::keepsOneRate(frames));
}

} // namespace

void appendFinite(std::vector<double>& out, const std::vector<double>& column, const capture::PartRange& range) {
    for (std::size_t i = range.first; i < range.last; ++i)
        if (std::isfinite(column[i])) out.push_back(column[i]);
}

double ruleOfThumb(run::Lane lane) {
    return lane == run::Lane::Gpu ? 0.84 : lane == run::Lane::Cpu ? 0.98 : 0.90;
}

double safeShareOf(run::Lane lane, const std::vector<double>& frames, double onTimeShare) {
    const auto mean = stats::mean(frames), high = stats::quantile(frames, onTimeShare);
    if (!mean || !high || !(*high > 0)) return ruleOfThumb(lane);
    constexpr double enough = 500;
    const double weight = std::min(1.0, static_cast<double>(frames.size()) / enough);
    return weight * std::min(1.0, *mean / *high) + (1 - weight) * ruleOfThumb(lane);
}

const LaneFigures* PartVerdict::of(run::Lane lane) const {
    switch (lane) {
    case run::Lane::Cpu:
        return cpu ? &*cpu : nullptr;
    case run::Lane::Gpu:
        return gpu ? &*gpu : nullptr;
    case run::Lane::Frame:
        return &frame;
    }
    return nullptr;
}

DecidingTest PartVerdict::test() const {
    if (const auto* behind = cause()) return testOf(behind->cause);
    if (certainty() == Certainty::Sure && !suspicions.empty())
        return testOf(suspicions.front().cause); // the brake is known
    switch (brake) {
    case Brake::Gpu:
    case Brake::Cpu:
        return DecidingTest::LowerResolution;
    case Brake::Cap:
        return DecidingTest::LiftCap;
    case Brake::Refresh:
        return DecidingTest::FasterMode;
    case Brake::CannotTell:
        break;
    }
    return !suspicions.empty() ? testOf(suspicions.front().cause)
           : flat              ? DecidingTest::LiftCap
           : cpu && gpu        ? DecidingTest::LowerResolution
                               : DecidingTest::LanesInLog;
}

std::optional<double> usableMs(const PartVerdict& verdict, run::Lane lane, double budgetMs) {
    const auto* told = verdict.of(lane);
    if (told == nullptr) return std::nullopt;
    const double own = told->safeShare * budgetMs;
    const double share = verdict.beside.cpuShare, ms = verdict.beside.ms;
    if (lane == run::Lane::Frame || !(share > 0 || ms > 0)) return own;
    if (lane == run::Lane::Gpu) return frames::lessBeside(own, ms + (share > 0 ? share * verdict.cpu->meanMs : 0));
    if (!(share > 0)) return own;
    const double left = (verdict.gpu->safeShare * budgetMs - verdict.gpu->meanMs) / share;
    return frames::lessBeside(own, own - std::min(own, left));
}

const Suspicion* heldBy(const PartVerdict& verdict) {
    const auto* cause = verdict.brake == Brake::CannotTell ? verdict.cause() : nullptr;
    const bool stands = cause != nullptr && (cause->cause == Cause::Generation || cause->cause == Cause::CopyRoute ||
                                             cause->cause == Cause::Turns);
    return stands ? cause : nullptr;
}

std::vector<PartVerdict> judge(std::span<const std::shared_ptr<const Capture>> runs, const run::Variant& variant,
                               const std::optional<display::Panel>& panel, double onTimeShare,
                               std::optional<Fps> target, const Around& around) {
    std::vector<PartVerdict> out;
    for (const auto& g : gather(runs, frames::pacedMsOf(panel, &variant))) {
        PartVerdict v;
        v.part = g.part;
        v.seconds = g.seconds / static_cast<double>(g.means.size());
        v.fromMs = g.stretches.front().fromMs;
        v.toMs = g.stretches.front().toMs;
        v.frame = *figures(g, run::Lane::Frame, g.frameMs, onTimeShare, target);
        v.periodMs = v.frame.meanMs;
        v.rate = Fps(1000 / v.periodMs);
        v.cpu = figures(g, run::Lane::Cpu, g.cpuMs, onTimeShare, target);
        v.gpu = figures(g, run::Lane::Gpu, g.gpuMs, onTimeShare, target);
        v.flat = isHeld(v, g.frameMs);
        const Scene scene{v, g.stretches, around, variant, panel};
        decide(v, scene, panel);
        v.beside = besideGpuOf(scene);
        v.suspicions = suspicionsOf(scene);
        out.push_back(std::move(v));
    }
    return out;
}

} // namespace impasto::limits
