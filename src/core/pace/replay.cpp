// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/pace/replay.h>

#include <cmath>
#include <impasto/base/random.h>
#include <impasto/frames/parts.h>
#include <impasto/frames/shape.h>
#include <impasto/stats/rolling_median.h>
#include <impasto/stats/selection.h>
#include <numeric>

namespace impasto::pace {
namespace {

// Constants of the method (docs/method.md, Caps): found over simulated games, none of them by a person's word.
constexpr double latenessSd = 0.08;  // of a limiter, ms; its mean is 0.8 of it
constexpr double switchLossMs = 0.2; // idle time lost before background work gets going
constexpr double smallMachineW = 32;
constexpr double busyGapMs = 0.05; // mean idle time before an event that may be background work
constexpr std::size_t framesBefore = 20;

std::vector<double> gapless(const std::vector<double>& column) {
    std::vector<double> out = column;
    double last = 0;
    for (double& v : out) {
        if (!std::isfinite(v)) v = last;
        last = v;
    }
    return out;
}

/// Takes what lies far above the frames around out of the work: by how much.
std::vector<double> levelled(std::vector<double>& work) {
    std::vector<double> steps;
    for (std::size_t i = 1; i < work.size(); ++i) steps.push_back(std::abs(work[i] - work[i - 1]));
    const double usual = 1.4826 * stats::quantile(steps, 0.5).value_or(0);
    const double least = std::max(1.0, 6 * usual);
    std::vector<double> over(work.size()), floor(work.size());
    for (std::size_t i = 0; i < work.size(); ++i) floor[i] = std::max(work[i], 1e-6);
    stats::RollingMedian median(floor, 31);
    for (std::size_t i = 0; i < work.size(); ++i) {
        const double around = median.around(i);
        if (work[i] - around <= least) continue;
        over[i] = work[i] - around;
        work[i] = around;
    }
    return over;
}

Pipeline pipelineOf(const Replay& replay, const CapPlan& plan, std::optional<run::LimiterPlace> limiter = {}) {
    Pipeline pipeline;
    pipeline.limiterPlace = limiter.value_or(plan.limiter.value_or(replay.limiter));
    pipeline.framesInFlight = replay.framesInFlight;
    pipeline.overlap = replay.overlap;
    pipeline.copyMs = replay.copyMs;
    if (replay.panel) pipeline.display = displayOf(*replay.panel, plan.sync, plan.refresh);
    if (plan.cap) pipeline.limiterMs = 1000 / plan.cap->value();
    if (!plan.generation) return pipeline;
    pipeline.multiplier = plan.generation->multiplier;
    if (plan.generation->target) pipeline.generationTargetMs = 1000 / plan.generation->target->value();
    return pipeline;
}

/// Recorded work, before it is parted into frames and events.
struct RawRun {
    std::vector<double> cpuMs, gpuMs;
    std::optional<double> latencyMs;
    CapPlan plan; // it was recorded with
};

/// How far a replay frame by frame lies off the recorded frame times and latency.
double misfit(const Replay& replay, const RecordedRun& run, const RawRun& raw) {
    const auto frames = simulate(pipelineOf(replay, raw.plan), raw.cpuMs, raw.gpuMs);
    double sum = 0;
    for (std::size_t i = 1; i < frames.size(); ++i) {
        const double off = frames[i].shown - frames[i - 1].shown - run.frameMs[i];
        sum += off * off;
    }
    if (const auto latency = meanLatencyMs(frames); raw.latencyMs && latency)
        sum += static_cast<double>(frames.size()) * (*latency - *raw.latencyMs) * (*latency - *raw.latencyMs);
    return sum;
}

double lastedMs(const Replay& replay, const RawRun& raw) {
    const auto frames = simulate(pipelineOf(replay, raw.plan), raw.cpuMs, raw.gpuMs);
    return frames.back().shown - frames.front().shown;
}

/// How long the replay lasts, as a share of what was recorded.
double lastedShare(const Replay& replay, const std::vector<RawRun>& raw) {
    double lasted = 0, recorded = 0;
    for (std::size_t r = 0; r < raw.size(); ++r) {
        lasted += lastedMs(replay, raw[r]);
        recorded += replay.runs[r].durationMs - replay.runs[r].frameMs.front();
    }
    return lasted / recorded;
}

/// With one frame in flight: where CPU and GPU strictly in turn would take longer than was recorded.
double overlapOf(Replay replay, const std::vector<RawRun>& raw) {
    replay.framesInFlight = 1;
    if (lastedShare(replay, raw) < 1.01) return 0;
    double low = 0, high = 1;
    for (int i = 0; i < 10; ++i) {
        replay.overlap = (low + high) / 2;
        (lastedShare(replay, raw) > 1 ? low : high) = replay.overlap;
    }
    return (low + high) / 2;
}

/// Frames in flight, how far CPU and GPU overlap where that is one, and a stage after the GPU where the replay is too
/// short without.
void fitPipeline(Replay& replay, const std::vector<RawRun>& raw) {
    const auto offWith = [&](int inFlight, double overlap) {
        replay.framesInFlight = inFlight;
        replay.overlap = overlap;
        double sum = 0;
        for (std::size_t r = 0; r < raw.size(); ++r) sum += misfit(replay, replay.runs[r], raw[r]);
        return sum;
    };
    int best = 1;
    double least = offWith(1, 0);
    for (int q = 2; q <= 4; ++q)
        if (const double off = offWith(q, 0); off < 0.98 * least) {
            best = q;
            least = off;
        }
    // Where a lane fills the frame a longer queue says much the same, and what it leaves is next to nothing.
    constexpr double mostOverlap = 0.75, clearly = 0.9, matters = 0.02; // of a frame
    double nothing = 0;
    for (const auto& run : replay.runs) {
        const auto frames = static_cast<double>(run.frameMs.size());
        nothing += frames * std::pow(matters * run.durationMs / frames, 2);
    }
    const double overlap = least > nothing ? overlapOf(replay, raw) : 0;
    const bool turns = overlap > 0 && overlap <= mostOverlap && offWith(1, overlap) < clearly * least;
    replay.framesInFlight = turns ? 1 : best;
    replay.overlap = turns ? overlap : 0;
    const auto tooShort = [&](double copyMs) {
        replay.copyMs = copyMs;
        return lastedShare(replay, raw) < 0.99;
    };
    double low = 0, high = 0;
    if (!tooShort(0)) return;
    for (high = 1; high < 64 && tooShort(high); high *= 2) low = high;
    for (int i = 0; i < 20; ++i) {
        const double middle = 0.5 * (low + high);
        (tooShort(middle) ? low : high) = middle;
    }
    replay.copyMs = 0.5 * (low + high);
}

/// Parts the recorded work into what every frame takes and events; says which of those may be background work.
void partWork(const Replay& replay, RecordedRun& run, const RawRun& raw) {
    const auto frames = simulate(pipelineOf(replay, raw.plan), raw.cpuMs, raw.gpuMs);
    std::vector<double> cpuGap(frames.size()), gpuGap(frames.size());
    for (std::size_t i = 1; i < frames.size(); ++i) {
        cpuGap[i] = std::max(0.0, frames[i].cpuStart - frames[i - 1].cpuEnd - switchLossMs);
        gpuGap[i] = std::max(0.0, frames[i].gpuStart - frames[i - 1].gpuEnd - switchLossMs);
    }
    const auto lane = [&](LaneWork& out, const std::vector<double>& work, const std::vector<double>& gap) {
        out.ms = work;
        out.meanMs = std::accumulate(work.begin(), work.end(), 0.0) / static_cast<double>(work.size());
        const auto over = levelled(out.ms);
        for (std::size_t i = 0; i < over.size(); ++i) {
            if (!(over[i] > 0)) continue;
            const std::size_t from = i < framesBefore ? 0 : i - framesBefore;
            double idle = 0;
            for (std::size_t j = from; j <= i; ++j) idle += gap[j];
            idle /= static_cast<double>(i - from + 1);
            const bool told = &out != &run.cpu || replay.cpuTold;
            out.events.push_back({run.startMs[i], over[i], told && (!replay.lanes || idle < busyGapMs)});
        }
    };
    if (replay.lanes)
        lane(run.cpu, raw.cpuMs, cpuGap);
    else
        run.cpu.ms.assign(raw.cpuMs.size(), 0.0);
    lane(run.gpu, raw.gpuMs, gpuGap);
}

/// Background work that grows steadily comes in even lumps; what comes at random is mostly of its own time.
void shareOfDeferred(Replay& replay) {
    if (!replay.lanes) return;
    std::vector<double> between;
    for (const auto& run : replay.runs)
        for (const auto* lane : {&run.cpu, &run.gpu}) {
            std::optional<double> last;
            for (const auto& event : lane->events) {
                if (!event.deferrable) continue;
                if (last) between.push_back(event.atMs - *last);
                last = event.atMs;
            }
        }
    if (between.size() < 5) return;
    const double mean = std::accumulate(between.begin(), between.end(), 0.0) / static_cast<double>(between.size());
    double square = 0;
    for (const double v : between) square += (v - mean) * (v - mean);
    const double cv = std::sqrt(square / static_cast<double>(between.size() - 1)) / mean;
    replay.deferred = std::clamp(0.92 - 0.2 * std::min(cv, 1.5), 0.40, 0.95);
    replay.deferredSd = 0.15;
}

/// Events of a lane on the way through a replay: those kept come at their time, the others are a backlog.
class EventFlow {
  public:
    EventFlow(const LaneWork& lane, double durationMs, double share) {
        double taken = 0;
        std::size_t j = 0;
        for (const auto& event : lane.events) {
            const double u = event.deferrable ? (static_cast<double>(j++) + 0.5) * 0.618034 : 1;
            if (event.deferrable && u - std::floor(u) < share) {
                m_sizes.push_back(event.ms);
                taken += event.ms;
            } else {
                m_kept.push_back(event);
            }
        }
        m_perMs = taken / durationMs;
    }
    /// What falls into a frame that starts at `ms`, `elapsedMs` after the one before, after an idle `gapMs`.
    double take(double ms, double elapsedMs, double gapMs) {
        double out = 0;
        for (; m_next < m_kept.size() && m_kept[m_next].atMs <= ms; ++m_next) out += m_kept[m_next].ms;
        if (m_sizes.empty()) return out;
        m_backlog += m_perMs * elapsedMs;
        m_backlog -= std::min(m_backlog, std::max(0.0, gapMs - switchLossMs));
        if (m_backlog <= m_sizes[m_lump % m_sizes.size()]) return out;
        ++m_lump;
        return out + std::exchange(m_backlog, 0.0);
    }

  private:
    std::vector<WorkEvent> m_kept;
    std::vector<double> m_sizes;
    std::size_t m_next = 0, m_lump = 0;
    double m_perMs = 0, m_backlog = 0;
};

/// Where a headset's log holds no CPU work: the most that its late frames may have taken, so that no rate is promised
/// that was not seen.
std::vector<double> lateWork(const std::vector<double>& frameMs, const std::vector<double>& gpuMs, double refreshMs) {
    std::vector<double> out(frameMs.size(), 0.05); // some, so that one frame a refresh begins
    for (std::size_t i = 0; i < out.size(); ++i) {
        const auto stays = std::lround(frameMs[i] / refreshMs);
        if (stays >= 2 && gpuMs[i] < 0.98 * refreshMs) out[i] = 0.99 * static_cast<double>(stays) * refreshMs;
    }
    return out;
}

} // namespace

Clocks clocksOf(const capture::Capture& capture, const run::Conditions& conditions, run::Style style) {
    if (conditions.plan == run::PowerPlan::Performance) return Clocks::Held;
    if (const auto watts = capture::trackMean(capture, capture::Sensor::SystemPower))
        return *watts < smallMachineW ? Clocks::Small : Clocks::Free;
    const bool battery = conditions.supply == run::Supply::Battery || style == run::Style::Battery;
    return battery && capture.tracks.empty() ? Clocks::Small : Clocks::Free;
}

InventedWork inventedWork(const GenerationCosts& costs, const run::Generation& g) {
    return inventedWork(costs, g, g.multiplier);
}

InventedWork inventedWork(const GenerationCosts& costs, const run::Generation& g, double shown) {
    if (!(shown > 1)) return {};
    const double frames = shown < 2 ? shown - 1 : 1 + 0.8 * (shown - 2);
    if (g.onSecondGpu) return {0, costs.linkMs, frames * costs.secondGpuMs};
    return {frames * (g.kind == run::GenerationKind::BuiltIn ? costs.builtInMs : costs.outsideMs), 0, 0};
}

Fps Replay::average() const {
    double frames = 0, ms = 0;
    for (const auto& run : runs) {
        frames += static_cast<double>(run.frameMs.size());
        ms += run.durationMs;
    }
    return Fps(1000 * frames / ms);
}

std::optional<Figures> figuresOf(const capture::Capture& capture, const CapPlan& plan,
                                 const std::optional<display::Panel>& panel, const run::Brief& brief) {
    if (capture.frames() < 3) return std::nullopt;
    run::Variant variant;
    variant.sync = plan.sync;
    variant.refresh = plan.refresh;
    const std::size_t frames = capture.frames();
    const double duration = std::accumulate(capture.framesMs.begin(), capture.framesMs.end(), 0.0);
    constexpr double mostShare = 0.016; // of the frames that any low is made of
    const auto slowest = stats::Selection(capture.framesMs)
                             .slowest(static_cast<std::size_t>(mostShare * static_cast<double>(frames)) + 3);
    const auto low = [&](double share) {
        const auto l = stats::lowFromSlowest(slowest, frames, duration, share, brief.lowRule);
        return l ? l->rate.value() : 1000 / slowest.front();
    };
    Figures f;
    f.of(Figure::Average) = 1000 * static_cast<double>(frames) / duration;
    f.shown = capture::shownRate(capture).value();
    f.of(Figure::OnePercentLow) = low(0.01);
    f.of(Figure::TenthPercentLow) = low(0.001);
    f.lowerLow = low(0.006);
    f.upperLow = low(mostShare);
    double average = 1e9, second = 1e9, onTime = 1;
    for (const auto& part :
         frames::heldParts(capture, frames::onTimeOf(brief.target, brief.tolerated(), panel, &variant))) {
        average = std::min(average, part.average.value());
        second = std::min(second, part.slowestSecond.value());
        onTime = std::min(onTime, part.onTimeShare);
    }
    f.of(Figure::LeastPart) = average;
    f.of(Figure::SlowestSecond) = second;
    f.of(Figure::OnTime) = onTime;
    return f;
}

std::optional<Replay> replayOf(std::span<const UncappedRun> runs, const std::optional<display::Panel>& panel,
                               const run::Brief& brief, Clocks clocks) {
    Replay replay;
    replay.panel = panel;
    replay.brief = brief;
    replay.clocks = clocks;
    if (!runs.empty()) replay.limiter = runs.back().variant.limiter;
    const bool worn = panel && panel->headset;
    const auto tells = [&](bool cpu) {
        return std::all_of(runs.begin(), runs.end(), [&](const auto& r) {
            const auto parts = frames::partMeans(*r.capture, frames::pacedMsOf(panel, nullptr));
            return !parts.empty() && r.capture->frames() >= 100 && parts.front().gpuMs && (!cpu || parts.front().cpuMs);
        });
    };
    // A headset's tools often report the CPU's wait for the refresh as its work.
    replay.cpuTold = tells(true);
    replay.lanes = replay.cpuTold || (worn && tells(false));
    std::vector<RawRun> raw;
    for (const auto& [capture, variant] : runs) {
        if (capture->frames() < 3) continue;
        RecordedRun run;
        run.frameMs = capture->framesMs;
        for (const double ms : run.frameMs) {
            run.startMs.push_back(run.durationMs);
            run.durationMs += ms;
        }
        run.parts = capture::partsOf(*capture);
        RawRun r;
        r.plan = {std::nullopt, variant.sync, variant.refresh};
        if (capture->latencyMs) r.latencyMs = stats::finiteMean(*capture->latencyMs);
        r.gpuMs = replay.lanes ? gapless(*capture->gpuWorkMs) : run.frameMs;
        if (worn) run.refresh = variant.refresh.value_or(panel->refresh);
        if (replay.lanes && replay.cpuTold)
            r.cpuMs = gapless(*capture->cpuWorkMs);
        else
            r.cpuMs = worn && replay.lanes ? lateWork(run.frameMs, r.gpuMs, 1000 / run.refresh->value())
                                           : std::vector<double>(run.frameMs.size());
        replay.runs.push_back(std::move(run));
        raw.push_back(std::move(r));
    }
    if (replay.runs.empty()) return std::nullopt;
    if (replay.lanes && !worn) fitPipeline(replay, raw);
    if (worn) replay.framesInFlight = 2;
    for (std::size_t r = 0; r < raw.size(); ++r) partWork(replay, replay.runs[r], raw[r]);
    RandomStream late(1, "lateness");
    std::size_t most = 0;
    for (const auto& run : replay.runs) most = std::max(most, run.frameMs.size());
    for (std::size_t i = 0; i < most + most / 4; ++i) replay.latenessMs.push_back(std::abs(latenessSd * late.normal()));
    shareOfDeferred(replay);
    return replay;
}

std::vector<double> wholeWork(const RecordedRun& run, const LaneWork& lane) {
    std::vector<double> out = lane.ms;
    std::size_t at = 0;
    for (const auto& event : lane.events) {
        while (at + 1 < out.size() && run.startMs[at] < event.atMs) ++at;
        out[at] += event.ms;
    }
    return out;
}

Played play(const Replay& replay, const RecordedRun& run, const CapPlan& plan, double share,
            std::array<double, 2> stretch, std::optional<run::LimiterPlace> limiter) {
    FramePipeline pipeline(pipelineOf(replay, plan, limiter));
    const auto inventing = [&] { // adaptive: by frame
        return plan.generation ? inventedWork(replay.generation, *plan.generation, pipeline.multiplier())
                               : InventedWork();
    };
    EventFlow cpu(run.cpu, run.durationMs, share), gpu(run.gpu, run.durationMs, share);
    Played out;
    out.frames.reserve(run.frameMs.size());
    out.source.reserve(run.frameMs.size());
    out.inventedTo.reserve(run.frameMs.size());
    std::size_t started = 0;
    std::size_t at = 0;
    double lastShown = -1;
    while (true) {
        const Stages before = pipeline.previous();
        const double start = pipeline.start(plan.cap ? replay.latenessMs[started++ % replay.latenessMs.size()] : 0.0);
        if (start >= run.durationMs) return out;
        while (at + 1 < run.startMs.size() && run.startMs[at + 1] <= start) ++at;
        const double elapsed = start - before.cpuStart;
        const double gpuStart =
            pipeline.cpu(stretch[0] * run.cpu.ms[at] + cpu.take(start, elapsed, start - before.cpuEnd));
        const auto work = inventing();
        const Stages frame =
            pipeline.gpu(stretch[1] * run.gpu.ms[at] + work.gpuMs + gpu.take(start, elapsed, gpuStart - before.gpuEnd),
                         replay.copyMs + work.copyMs, work.secondGpuMs);
        // Nothing moves on where a run has no work at all.
        if (frame.gpuEnd <= before.gpuEnd && frame.cpuStart <= before.cpuStart && !out.frames.empty()) return out;
        if (frame.shown <= lastShown) continue; // lost
        lastShown = frame.shown;
        out.frames.push_back(frame);
        out.source.push_back(at);
        out.invented.insert(out.invented.end(), pipeline.invented().begin(), pipeline.invented().end());
        out.inventedTo.push_back(out.invented.size());
    }
}

capture::Capture recordingOf(const Played& played, const RecordedRun& run) {
    capture::Capture c;
    c.framesMs = shownIntervals(played.frames);
    if (!played.invented.empty()) {
        c.invented.emplace();
        for (std::size_t i = 1; i < played.frames.size(); ++i)
            c.invented->push_back(static_cast<double>(played.inventedUpTo(i) - played.inventedFrom(i)));
    }
    std::size_t from = 1;
    for (const auto& part : run.parts) {
        while (from < played.source.size() && played.source[from] < part.first) ++from;
        if (from < played.source.size() && !part.part.empty()) c.marks.push_back({part.part, from - 1});
    }
    return c;
}

std::optional<Figures> replayed(const Replay& replay, const RecordedRun& run, const CapPlan& plan, double share,
                                std::array<double, 2> stretch) {
    const auto played = play(replay, run, plan, share, stretch);
    auto figures = figuresOf(recordingOf(played, run), plan, replay.panel, replay.brief);
    if (!figures || !replay.lanes) return figures;
    figures->latencyMs = meanLatencyMs(played.frames);
    double busy = 0;
    for (const auto& frame : played.frames) busy += frame.gpuEnd - frame.gpuStart;
    figures->gpuBusy = std::min(1.0, busy / (played.frames.back().gpuEnd - played.frames.front().gpuStart));
    return figures;
}

} // namespace impasto::pace
