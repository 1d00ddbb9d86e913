// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/pace/headset.h>

#include <cmath>

namespace impasto::pace {
namespace {

constexpr double foveationSaves = 0.10; // of the GPU's work

CapPlan planIn(Hertz mode) {
    CapPlan plan;
    plan.refresh = mode;
    return plan;
}

double shareWithin(const std::vector<double>& work, double ms) {
    const auto n = std::count_if(work.begin(), work.end(), [ms](double v) { return v <= ms; });
    return work.empty() ? 1 : static_cast<double>(n) / static_cast<double>(work.size());
}

/// The brief with a headset's mode as its target: a frame is on time where it is shown on the next refresh.
Replay inMode(const Replay& replay, Hertz mode) {
    Replay out = replay;
    out.brief.target = Fps(mode.value());
    return out;
}

/// As they were recorded in the mode, else as a replay has them.
capture::Capture framesIn(const Replay& replay, const RecordedRun& run, Hertz mode) {
    if (run.refresh != mode) return recordingOf(play(replay, run, planIn(mode), replay.deferred), run);
    capture::Capture c;
    c.framesMs = run.frameMs;
    for (const auto& part : run.parts)
        if (!part.part.empty()) c.marks.push_back({part.part, part.first});
    return c;
}

bool worn(const Replay& replay) {
    return replay.panel && replay.panel->headset && replay.lanes;
}

} // namespace

std::vector<WornRate> wornRates(const Replay& replay) {
    std::vector<WornRate> out;
    if (!worn(replay)) return out;
    const auto& run = replay.runs.front();
    const auto cpu = wholeWork(run, run.cpu), gpu = wholeWork(run, run.gpu);
    for (const Hertz mode : modesOf(replay.panel)) {
        const double refresh = 1000 / mode.value();
        const auto now = inMode(replay, mode);
        const auto capture = framesIn(now, run, mode);
        const auto figures = figuresOf(capture, planIn(mode), now.panel, now.brief);
        if (!figures) continue;
        WornRate rate{mode};
        rate.onTime = figures->of(Figure::OnTime);
        if (replay.cpuTold) rate.cpuOnTime = shareWithin(cpu, refresh);
        rate.gpuOnTime = shareWithin(gpu, refresh);
        double total = 0;
        for (const double ms : capture.framesMs) {
            const auto stays = std::lround(ms / refresh);
            (stays <= 1 ? rate.full : stays == 2 ? rate.half : rate.third) += ms;
            total += ms;
        }
        for (double* share : {&rate.full, &rate.half, &rate.third}) *share /= total;
        out.push_back(rate);
    }
    const auto recorded =
        std::find_if(out.begin(), out.end(), [&](const WornRate& rate) { return run.refresh == rate.mode; });
    for (auto& rate : out) {
        // Of a CPU that is not told nothing says that it is faster than it was.
        if (!replay.cpuTold && recorded != out.end() && rate.mode > recorded->mode)
            rate.onTime = std::min(rate.onTime, recorded->onTime);
        rate.holds = rate.onTime >= replay.brief.wishedOnTime();
    }
    return out;
}

std::vector<LateFrame> lateFrames(const Replay& replay, Hertz mode) {
    std::vector<LateFrame> out;
    if (!worn(replay)) return out;
    const auto& run = replay.runs.front();
    double at = 0;
    for (const double ms : framesIn(inMode(replay, mode), run, mode).framesMs) {
        at += ms;
        const auto stays = static_cast<int>(std::lround(ms * mode.value() / 1000));
        if (stays >= 2) out.push_back({at, stays});
    }
    return out;
}

std::optional<Foveation> foveationOf(const Replay& replay, Hertz mode) {
    if (!worn(replay)) return std::nullopt;
    const double refresh = 1000 / mode.value(), wished = replay.brief.wishedOnTime();
    const auto& run = replay.runs.front();
    const auto gpu = stats::quantile(wholeWork(run, run.gpu), wished);
    if (!gpu) return std::nullopt;
    Foveation f;
    f.gpuMs = *gpu;
    f.gpuSavedMs = foveationSaves * run.gpu.meanMs;
    if (replay.cpuTold) f.cpuMs = stats::quantile(wholeWork(run, run.cpu), wished);
    const auto onTimeOf = [&](const Replay& r) {
        const auto now = inMode(r, mode);
        const auto figures = replayed(now, now.runs.front(), planIn(mode), r.deferred);
        return figures ? figures->of(Figure::OnTime) : 0;
    };
    f.onTime = onTimeOf(replay);
    Replay with = replay;
    for (auto& r : with.runs) {
        for (double& ms : r.gpu.ms) ms *= 1 - foveationSaves;
        for (double& ms : r.cpu.ms) ms += f.cpuCostMs;
    }
    f.onTimeWith = onTimeOf(with);
    if (f.onTime >= wished)
        f.advice = FoveationAdvice::NotNeeded;
    else if (!f.cpuMs)
        f.advice = FoveationAdvice::CpuNotTold;
    else if (*f.cpuMs + f.cpuCostMs > refresh)
        f.advice = FoveationAdvice::CpuLacks;
    else
        f.advice = f.onTimeWith >= wished ? FoveationAdvice::Use : FoveationAdvice::NotEnough;
    return f;
}

} // namespace impasto::pace
