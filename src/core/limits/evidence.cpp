// SPDX-License-Identifier: GPL-3.0-or-later
#include "evidence.h"

#include <cmath>
#include <impasto/base/keys.h>
#include <impasto/stats/stats.h>

namespace impasto::limits {
namespace {

constexpr Keys<Cause, 5> causes{{{Cause::Heat, "heat"},
                                 {Cause::Power, "power"},
                                 {Cause::GpuMemory, "gpu-memory"},
                                 {Cause::SystemMemory, "system-memory"},
                                 {Cause::CopyRoute, "copy-route"}}};
constexpr Keys<Sign, 12> signs{{{Sign::ClockFell, "clock-fell"},
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
                                {Sign::RateInTest, "rate-in-test"}}};
constexpr Keys<Answer, 3> answers{{{Answer::Yes, "yes"}, {Answer::No, "no"}, {Answer::Unclear, "unclear"}}};
constexpr Keys<DecidingTest, 8> tests{{{DecidingTest::LowerResolution, "lower-resolution"},
                                       {DecidingTest::LiftCap, "lift-cap"},
                                       {DecidingTest::FasterMode, "faster-mode"},
                                       {DecidingTest::FansUp, "fans-up"},
                                       {DecidingTest::LowerLoad, "lower-load"},
                                       {DecidingTest::TexturesDown, "textures-down"},
                                       {DecidingTest::DirectRoute, "direct-route"},
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

std::vector<Suspicion> suspicionsOf(const Scene& scene) {
    std::vector<Suspicion> out;
    for (auto found : {heatOf(scene, run::Lane::Gpu), heatOf(scene, run::Lane::Cpu), powerOf(scene), gpuMemoryOf(scene),
                       systemMemoryOf(scene), copyRouteOf(scene)})
        if (found) out.push_back(std::move(*found));
    std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.sure > b.sure; });
    return out;
}

void decideByLoads(PartVerdict& v, const Scene& scene) {
    const auto gpu = scene.meanWithin(capture::Sensor::GpuLoad), cpu = scene.meanWithin(capture::Sensor::CpuLoad);
    if (!gpu) return;
    v.facts.push_back({Sign::GpuLoad, *gpu, 0});
    if (cpu) v.facts.push_back({Sign::CpuLoad, *cpu, 0});
    if (*gpu >= 95) {
        v.brake = Brake::Gpu;
        v.sure = *gpu >= 97 ? 0.85 : 0.75;
    } else if (*gpu < 85 && !v.flat) {
        v.brake = Brake::Cpu; // one thread is enough, whatever the machine's load as a whole
        v.sure = *gpu < 75 ? 0.8 : 0.7;
    } else {
        return; // between them, or held by something that no load tells
    }
}

} // namespace impasto::limits
