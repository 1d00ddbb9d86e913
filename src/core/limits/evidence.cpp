// SPDX-License-Identifier: GPL-3.0-or-later
#include "evidence.h"

#include <cmath>
#include <impasto/base/keys.h>
#include <impasto/stats/stats.h>

namespace impasto::limits {
namespace {

constexpr Keys<Cause, 9> causes{{{Cause::Heat, "heat"},
                                 {Cause::Power, "power"},
                                 {Cause::GpuMemory, "gpu-memory"},
                                 {Cause::SystemMemory, "system-memory"},
                                 {Cause::CopyRoute, "copy-route"},
                                 {Cause::Generation, "frame-generation"},
                                 {Cause::FirstSight, "first-sight"},
                                 {Cause::ToolFault, "tool-fault"},
                                 {Cause::Turns, "turns"}}};
constexpr Keys<Sign, 20> signs{{{Sign::ClockFell, "clock-fell"},
                                {Sign::AtCeiling, "temperature-at-ceiling"},
                                {Sign::HotAllAlong, "hot-all-along"},
                                {Sign::PowerFlat, "power-flat"},
                                {Sign::ClockMoves, "clock-moves"},
                                {Sign::MemoryUse, "memory-use"},
                                {Sign::LongFrames, "long-frames"},
                                {Sign::Gap, "gap"},
                                {Sign::WiredThrough, "wired-through"},
                                {Sign::GpuLoad, "gpu-load"},
                                {Sign::CpuLoad, "cpu-load"},
                                {Sign::BusiestCore, "busiest-core"},
                                {Sign::LostInFirstRun, "lost-in-first-run"},
                                {Sign::LostInHitches, "lost-in-hitches"},
                                {Sign::CollapsedIdle, "collapsed-idle"},
                                {Sign::RestingClock, "resting-clock"},
                                {Sign::InventedFrames, "invented-frames"},
                                {Sign::SecondGpuLoad, "second-gpu-load"},
                                {Sign::TakesTurns, "takes-turns"},
                                {Sign::RateInTest, "rate-in-test"}}};
constexpr Keys<Answer, 3> answers{{{Answer::Yes, "yes"}, {Answer::No, "no"}, {Answer::Unclear, "unclear"}}};
constexpr Keys<DecidingTest, 12> tests{{{DecidingTest::LowerResolution, "lower-resolution"},
                                        {DecidingTest::LiftCap, "lift-cap"},
                                        {DecidingTest::FasterMode, "faster-mode"},
                                        {DecidingTest::FansUp, "fans-up"},
                                        {DecidingTest::LowerLoad, "lower-load"},
                                        {DecidingTest::TexturesDown, "textures-down"},
                                        {DecidingTest::DirectRoute, "direct-route"},
                                        {DecidingTest::WithoutGeneration, "without-generation"},
                                        {DecidingTest::SecondRun, "second-run"},
                                        {DecidingTest::WithoutTools, "without-tools"},
                                        {DecidingTest::MoreInFlight, "more-in-flight"},
                                        {DecidingTest::LanesInLog, "lanes-in-log"}}};

void append(std::vector<double>& out, const Stretch& stretch, capture::Sensor sensor, bool whole) {
    const auto* track = stretch.capture->track(sensor);
    if (track == nullptr) return;
    for (std::size_t i = 0; i < track->values.size(); ++i)
        if (std::isfinite(track->values[i]) &&
            (whole || (track->timeMs[i] >= stretch.fromMs && track->timeMs[i] < stretch.toMs)))
            out.push_back(track->values[i]);
}

} // namespace

std::string_view keyOf(Cause cause) {
    return keyIn(causes, cause);
}
std::string_view keyOf(Sign sign) {
    return keyIn(signs, sign);
}
std::string_view keyOf(DecidingTest test) {
    return keyIn(tests, test);
}
std::optional<DecidingTest> decidingTestOf(std::string_view key) {
    return valueIn(tests, key);
}

std::string_view keyOf(Answer answer) {
    return keyIn(answers, answer);
}

DecidingTest testOf(Cause cause) {
    switch (cause) {
    case Cause::Heat:
        return DecidingTest::FansUp;
    case Cause::Power:
        return DecidingTest::LowerLoad;
    case Cause::GpuMemory:
    case Cause::SystemMemory:
        return DecidingTest::TexturesDown;
    case Cause::Generation:
        return DecidingTest::WithoutGeneration;
    case Cause::FirstSight:
        return DecidingTest::SecondRun;
    case Cause::ToolFault:
        return DecidingTest::WithoutTools;
    case Cause::Turns:
        return DecidingTest::MoreInFlight;
    case Cause::CopyRoute:
        break;
    }
    return DecidingTest::DirectRoute;
}

std::vector<double> Scene::within(capture::Sensor sensor) const {
    std::vector<double> out;
    for (const auto& stretch : stretches) append(out, stretch, sensor, false);
    return out;
}

std::vector<double> Scene::over(capture::Sensor sensor) const {
    std::vector<double> out;
    for (const auto& stretch : stretches) append(out, stretch, sensor, true);
    return out;
}

std::optional<double> Scene::meanWithin(capture::Sensor sensor) const {
    return stats::mean(within(sensor));
}

namespace {

/// A power that stands still where it is the highest.
bool standsAtItsHighest(const Scene& scene, capture::Sensor power) {
    const auto here = scene.within(power), all = scene.over(power);
    if (here.size() < 4) return false;
    const double median = *stats::quantile(here, 0.5),
                 spread = *stats::quantile(here, 0.9) - *stats::quantile(here, 0.1);
    return median >= 0.97 * *stats::quantile(all, 0.95) && spread <= 0.05 * median;
}

bool hotThroughout(const Scene& scene) {
    const auto ceiling = stats::quantile(scene.over(capture::Sensor::GpuTemperature), 0.99);
    const auto coolest = stats::quantile(scene.within(capture::Sensor::GpuTemperature), 0.1);
    return ceiling && coolest && *ceiling >= 80 && *coolest >= *ceiling - 8;
}

} // namespace

capture::Sensor Scene::clockOf(run::Lane chip) const {
    const bool gpu = chip == run::Lane::Gpu;
    const auto percent = gpu ? capture::Sensor::GpuClock : capture::Sensor::CpuClock;
    const bool told = std::any_of(stretches.begin(), stretches.end(),
                                  [percent](const Stretch& s) { return s.capture->track(percent) != nullptr; });
    return told ? percent : gpu ? capture::Sensor::GpuMhz : capture::Sensor::CpuMhz;
}

std::optional<double> Scene::clockShare(run::Lane chip) const {
    const auto clock = clockOf(chip);
    const auto mean = meanWithin(clock);
    auto all = over(clock);
    for (const auto& other : around.others) append(all, {other.get(), 0, 0}, clock, true);
    const auto fastest = stats::quantile(all, 0.98);
    if (!mean || !(*fastest > 0)) return std::nullopt;
    const bool percent = clock == capture::Sensor::GpuClock || clock == capture::Sensor::CpuClock;
    return *mean / (percent ? 100 : *fastest);
}

bool Scene::gpuMayRest() const {
    constexpr double farBelow = 0.85, muchCpu = 0.7; // shares of the highest clock, and of the frame
    const auto clock = clockShare(run::Lane::Gpu);
    if (!clock || *clock > farBelow) return false;
    if (standsAtItsHighest(*this, capture::Sensor::GpuPower) ||
        standsAtItsHighest(*this, capture::Sensor::SystemPower) || hotThroughout(*this))
        return false; // what lowers it is a limit
    const bool capped = variant.cap && std::abs(verdict.periodMs * variant.cap->value() / 1000 - 1) <= 0.03;
    return capped || variant.sync == run::Sync::Fixed ||
           (verdict.cpu && verdict.cpu->meanMs >= muchCpu * verdict.periodMs);
}

bool lastsWholeRefreshes(const Scene& scene, Hertz refresh) {
    constexpr double most = 6; // refreshes a frame: beyond, anything is near a whole one
    const double refreshMs = 1000 / refresh.value();
    if (scene.verdict.periodMs > most * refreshMs) return false;
    std::vector<double> frames;
    for (const auto& stretch : scene.stretches) {
        double at = 0;
        for (const double ms : stretch.capture->framesMs) {
            if (at >= stretch.fromMs && at < stretch.toMs) frames.push_back(ms);
            at += ms;
        }
    }
    return frames::waitsForRefresh(frames, refreshMs);
}

std::vector<Suspicion> suspicionsOf(const Scene& scene) {
    std::vector<Suspicion> out;
    for (auto found : {heatOf(scene, run::Lane::Gpu), heatOf(scene, run::Lane::Cpu), powerOf(scene), gpuMemoryOf(scene),
                       systemMemoryOf(scene), copyRouteOf(scene), generationOf(scene), firstSightOf(scene),
                       toolFaultOf(scene), turnsOf(scene)})
        if (found) out.push_back(std::move(*found));
    std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.sure > b.sure; });
    return out;
}

void decideByLoads(PartVerdict& v, const Scene& scene) {
    const auto gpu = scene.meanWithin(capture::Sensor::GpuLoad), cpu = scene.meanWithin(capture::Sensor::CpuLoad);
    if (!gpu) return;
    v.facts.push_back({Sign::GpuLoad, *gpu, 0});
    if (cpu) v.facts.push_back({Sign::CpuLoad, *cpu, 0});
    if (scene.gpuMayRest()) return; // full at a low clock
    if (*gpu >= 95) {
        v.brake = Brake::Gpu;
        v.sure = *gpu >= 97 ? 0.85 : 0.75;
    } else if (*gpu < 85 && !v.flat) {
        // One thread is enough, whatever the machine's load as a whole. It may be moved between cores, and then none of
        // them is ever full.
        constexpr double idle = 55; // percent; common practice, no source
        const auto busiest = scene.meanWithin(capture::Sensor::BusiestCore);
        if (busiest) v.facts.push_back({Sign::BusiestCore, *busiest, 0});
        if (busiest && *busiest < idle) return; // no thread is at its limit
        v.brake = Brake::Cpu;
        v.sure = (*gpu < 75 ? 0.8 : 0.7) + (busiest && *busiest >= 90 ? 0.05 : 0);
    } else {
        return; // between them, or held by something that no load tells
    }
}

} // namespace impasto::limits
