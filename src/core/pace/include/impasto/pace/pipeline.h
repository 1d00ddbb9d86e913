// SPDX-License-Identifier: GPL-3.0-or-later
// The life of a frame: CPU, GPU, copy, a second GPU, display, with frames in flight, images, a limiter and frames that
// are invented in between, as a recurrence over arrays. For constant work the period is max(c, g, r, L, (c + g) / Q)
// (cycle means of the event graph, max-plus theory).
#pragma once

#include <impasto/run/run.h>
#include <span>

namespace impasto::pace {

struct Display {
    run::Sync sync = run::Sync::None;
    double shortestMs = 1000.0 / 60; // one refresh; the shortest one of a variable panel
    double longestMs = 1000.0 / 60;  // beyond it a variable panel repeats the frame
    bool headset = false;            // frames start and are shown on refreshes; a late one is filled in for
};
/// The panel in one of its modes; none: as it is set.
Display displayOf(const display::Panel& panel, run::Sync sync, std::optional<Hertz> mode = {});

struct Pipeline {
    int framesInFlight = 3; // Q: the CPU starts frame n when the GPU ended frame n - Q
    int images = 3;         // B, at least 2; generation holds two more
    std::optional<double> limiterMs;
    run::LimiterPlace limiterPlace = run::LimiterPlace::Engine;
    double overlap = 0; // of a frame's CPU work, the last share: the GPU is at the frame already
    double copyMs = 0;  // a serial stage after the GPU, 0 for none
    int multiplier = 1; // shown frames a rendered one
    std::optional<double> generationTargetMs{}; // instead of a multiplier: as many as bring the shown interval near it
    Display display;
};

/// When a frame was where, ms from the first frame's CPU start.
struct Stages {
    double cpuStart = 0, cpuEnd = 0, gpuStart = 0, gpuEnd = 0, copyStart = 0, copied = 0, generateStart = 0, ready = 0,
           shown = 0;
};

/// Steps one frame at a time, for work that depends on when it starts: start, then cpu, then gpu, then again.
class FramePipeline {
  public:
    explicit FramePipeline(const Pipeline& pipeline);
    /// CPU start of the next frame; lateness (>= 0) is the limiter's error, used only with a limiter.
    double start(double latenessMs = 0);
    /// Work on the CPU; gives the GPU start.
    double cpu(double workMs);
    /// Work on the GPU; gives the whole frame.
    Stages gpu(double workMs) { return gpu(workMs, m_pipeline.copyMs, 0); }
    /// The same where the stages after it vary; those on a second GPU come after the copy.
    Stages gpu(double workMs, double copyMs, double secondGpuMs);
    [[nodiscard]] const Stages& previous() const { return back(1); }
    /// When the frames were shown that came, invented, between the latest two rendered ones.
    [[nodiscard]] std::span<const double> invented() const { return m_invented; }
    /// Shown frames a rendered one, now.
    [[nodiscard]] int multiplier() const;
    /// From the next frame on.
    void setLimiter(std::optional<double> ms) { m_pipeline.limiterMs = ms; }

  private:
    [[nodiscard]] const Stages& back(std::size_t frames) const {
        return m_ring[(m_frame + ringSize - frames) % ringSize];
    }
    [[nodiscard]] double heldUntil(run::LimiterPlace place, double since) const;
    [[nodiscard]] double shownAt(double readyMs, double previousShownMs) const;
    void show();

    static constexpr std::size_t ringSize = 16;
    Pipeline m_pipeline;
    std::array<Stages, ringSize> m_ring{};
    Stages m_now;
    std::size_t m_frame = 0;
    double m_latenessMs = 0;
    double m_basePeriodMs = 0; // between rendered frames, smoothed
    std::vector<double> m_invented;
};

/// All frames of two arrays of equal length.
std::vector<Stages> simulate(const Pipeline& pipeline, std::span<const double> cpuMs, std::span<const double> gpuMs);
/// Intervals between displayed frames: one less than frames.
std::vector<double> shownIntervals(std::span<const Stages> frames);
/// Mean of shown - cpuStart.
std::optional<double> meanLatencyMs(std::span<const Stages> frames);

} // namespace impasto::pace
