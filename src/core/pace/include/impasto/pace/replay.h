// SPDX-License-Identifier: GPL-3.0-or-later
// Uncapped runs of one set of values, ready to be replayed in time under another cap, and the figures of a replay.
#pragma once

#include <impasto/base/context.h>
#include <impasto/frames/held.h>
#include <impasto/pace/pipeline.h>
#include <impasto/pace/plan.h>
#include <impasto/stats/stats.h>

namespace impasto::pace {

/// How far the clocks can move while a cap leaves time idle. Small: a machine whose CPU and GPU share a few watts, with
/// a governor that saves.
enum class Clocks { Held, Free, Small };

/// By what was recorded and played in: a small machine draws under 32 W, and where nothing tells, is one on battery.
Clocks clocksOf(const capture::Capture& capture, const run::Conditions& conditions, run::Style style);

/// Work that came at its time, whatever the rate.
struct WorkEvent {
    double atMs = 0, ms = 0;
    bool deferrable = false; // nothing was idle before it, so that it may be work that idle time would have served
};
struct LaneWork {
    std::vector<double> ms; // of each frame, without the events
    std::vector<WorkEvent> events;
    double meanMs = 0; // with the events
};
struct RecordedRun {
    std::vector<double> frameMs;
    std::vector<double> startMs; // of each frame, from the first one's
    double durationMs = 0;
    std::vector<capture::PartRange> parts;
    LaneWork cpu, gpu;            // without lane times: the whole frame is the GPU's
    std::optional<Hertz> refresh; // of a headset, while it was recorded
};

/// What a replay and a recording are compared by.
enum class Figure { Average, LeastPart, OnePercentLow, TenthPercentLow, SlowestSecond, OnTime };
inline constexpr std::size_t figureCount = 6;
inline constexpr std::array<Figure, figureCount> allFigures{Figure::Average,       Figure::LeastPart,
                                                            Figure::OnePercentLow, Figure::TenthPercentLow,
                                                            Figure::SlowestSecond, Figure::OnTime};
/// fps, OnTime a share. LeastPart: the average of the slowest part; SlowestSecond and OnTime: of the part where it is
/// least.
struct Figures {
    std::array<double, figureCount> values{};
    double lowerLow = 0, upperLow = 0; // 1% low at 0.6% and 1.6% of the frames instead, fps
    double shown = 0;                  // fps, invented frames among them
    std::optional<double> latencyMs, gpuBusy;
    [[nodiscard]] double of(Figure figure) const { return values[static_cast<std::size_t>(figure)]; }
    double& of(Figure figure) { return values[static_cast<std::size_t>(figure)]; }
};
/// Of shown frames, as they would be recorded; nothing without any. Latency is not in it.
std::optional<Figures> figuresOf(const capture::Capture& capture, const CapPlan& plan,
                                 const std::optional<display::Panel>& panel, const run::Brief& brief);

/// What inventing one frame a rendered one takes (multiplier 2), ms; each further one takes 0.8 of it.
struct GenerationCosts {
    double builtInMs = 0, outsideMs = 0; // on the GPU that renders
    double secondGpuMs = 0, linkMs = 0;  // on a second one, and on the way there
    bool measured = false;               // on the GPU that renders; else, and on a second one, as is usual
};
struct InventedWork {
    double gpuMs = 0, copyMs = 0, secondGpuMs = 0; // a rendered frame
};
/// `shown`: frames a rendered one, on average; the multiplier, unless generation is adaptive.
InventedWork inventedWork(const GenerationCosts& costs, const run::Generation& generation, double shown);
InventedWork inventedWork(const GenerationCosts& costs, const run::Generation& generation);

/// A cap that was run, and by how much its figures lay off what had been predicted, in widths of the prediction.
struct ProvenCap {
    CapPlan plan;
    Figures measured;
    std::array<double, figureCount> offBy{};
};

struct Replay {
    std::vector<RecordedRun> runs;
    bool lanes = false; // CPU and GPU work apart
    // Else the CPU's reading was a wait: a frame that came late without the GPU's fault is the CPU's, by as much as it
    // can have been; of the others nothing is known.
    bool cpuTold = true;
    int framesInFlight = 3;                                // fitted to the runs
    double overlap = 0;                                    // of Pipeline, fitted where one frame is in flight
    run::LimiterPlace limiter = run::LimiterPlace::Engine; // where a cap holds frames back: as in the runs' state
    double copyMs = 0; // a stage after the GPU, where the runs are longer than without
    Clocks clocks = Clocks::Free;
    double deferred = 0.78, deferredSd = 0.18; // share of the deferrable work that idle time serves
    std::optional<display::Panel> panel;
    run::Brief brief;
    std::vector<ProvenCap> proven = {};
    GenerationCosts generation = {};
    std::optional<double> measuredLateness = {}; // of the limiter, ms, by runs with a cap
    std::vector<double> latenessMs =
        {}; // of a limiter, frame by frame, the same in every replay; over again at its end
    [[nodiscard]] Fps average() const;
};
/// How late the limiter was in a run with a cap, ms, on average: by how much frames that nothing else held (CPU and GPU
/// under 85% of the interval) took longer than it. Nothing without lane times, of under 200 such frames, and where a
/// refresh or invented frames pace what is shown.
std::optional<double> limiterLateness(const capture::Capture& capture, const CapPlan& plan);
/// The limiter is so late on average, ms, in every replay from now on.
void setLateness(Replay& replay, double meanMs);
struct UncappedRun {
    const capture::Capture* capture = nullptr;
    run::Variant variant;
};
/// `clocks`: as far as the caller knows. Runs under three frames are not taken; without any left, no replay.
std::optional<Replay> replayOf(std::span<const UncappedRun> runs, const std::optional<display::Panel>& panel,
                               const run::Brief& brief, Clocks clocks);

/// Work of every frame with its events.
std::vector<double> wholeWork(const RecordedRun& run, const LaneWork& lane);

/// Frames of a replay that were shown, and the recorded frame that each took its work from.
struct Played {
    std::vector<Stages> frames;
    std::vector<std::size_t> source;
    std::vector<double> invented;        // when invented frames were shown
    std::vector<std::size_t> inventedTo; // by frame: of `invented`, those before it
    [[nodiscard]] std::size_t inventedFrom(std::size_t frame) const { return frame == 0 ? 0 : inventedTo[frame - 1]; }
    [[nodiscard]] std::size_t inventedUpTo(std::size_t frame) const { return inventedTo[frame]; }
};
/// Replays a run in time: a frame that starts at s has the work recorded at s, and every event since the frame before.
/// `share`: of the deferrable events that become background work, served by idle time; `stretch`: of the work on CPU
/// and GPU. The limiter is as late as limiters are; `limiter`: elsewhere than in the replay.
Played play(const Replay& replay, const RecordedRun& run, const CapPlan& plan, double share,
            std::array<double, 2> stretch = {1, 1}, std::optional<run::LimiterPlace> limiter = {});
/// As a recording would hold them.
capture::Capture recordingOf(const Played& played, const RecordedRun& run);
/// Figures of a replay; nothing where it has under three frames.
std::optional<Figures> replayed(const Replay& replay, const RecordedRun& run, const CapPlan& plan, double share,
                                std::array<double, 2> stretch = {1, 1});

} // namespace impasto::pace
