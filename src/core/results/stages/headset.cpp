// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/headset.h>

namespace impasto::results {
namespace {

Maybe<Worn> worn(const Inputs& in, const Context&) {
    const auto panel = in.panel();
    const auto& brief = in.brief();
    const auto &checks = in.get<CheckRuns>()->ids, &baseline = in.get<BaselineRuns>()->ids;
    const auto& ids = checks.empty() ? baseline : checks;
    const auto* order = ids.empty() ? nullptr : in.orderOf(ids.back());
    if (!panel || !panel->headset || !brief || order == nullptr) return std::shared_ptr<const Worn>();
    const auto* frames = in.of<RunFrames>(ids.back());
    if (frames == nullptr) return std::shared_ptr<const Worn>();
    const std::array<pace::UncappedRun, 1> runs{{{frames->capture.get(), order->variant}}};
    const auto replay =
        pace::replayOf(runs, panel, *brief, pace::clocksOf(*frames->capture, order->conditions, brief->style));
    if (!replay || !replay->lanes) return std::shared_ptr<const Worn>();
    const auto& run = replay->runs.front();
    Worn out;
    out.run = ids.back();
    out.mode = pace::headsetMode(panel, brief->target).value_or(panel->refresh);
    out.rates = pace::wornRates(*replay);
    out.late = pace::lateFrames(*replay, out.mode);
    out.foveation = pace::foveationOf(*replay, out.mode);
    if (replay->cpuTold) out.cpu.emplace(pace::wholeWork(run, run.cpu));
    out.gpu = frames::Distribution(pace::wholeWork(run, run.gpu));
    out.cpuMeanMs = run.cpu.meanMs;
    out.gpuMeanMs = run.gpu.meanMs;
    out.durationMs = run.durationMs;
    out.parts = run.parts;
    for (const auto& part : run.parts) out.partStartMs.push_back(run.startMs[part.first]);
    return std::make_shared<const Worn>(std::move(out));
}

} // namespace

std::size_t bytesOf(const Worn& worn) {
    return sizeof(worn) + 2 * frames::Distribution::bytes() + worn.late.size() * sizeof(pace::LateFrame);
}

std::vector<Stage> headsetStages() {
    return {
        stage("headset", {Part::Answers, Part::Machine, Part::Target, Part::Wishes, Part::LowRule},
              {use<CheckRuns>(), use<BaselineRuns>(), useOf<RunFrames, CheckRuns>(), useOf<RunFrames, BaselineRuns>()},
              worn)};
}

} // namespace impasto::results
