// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/pace/pipeline.h>

#include <cmath>

namespace impasto::pace {

Display displayOf(const display::Panel& panel, run::Sync sync, std::optional<Hertz> mode) {
    const double refreshMs = 1000.0 / mode.value_or(panel.refresh).value();
    Display d{sync, refreshMs, refreshMs, panel.headset};
    const bool follows = sync == run::Sync::Variable || sync == run::Sync::VariableTearing;
    if (follows && panel.variable) {
        d.shortestMs = std::max(1000.0 / panel.variable->highest.value(), mode ? refreshMs : 0.0);
        d.longestMs = 1000.0 / panel.variable->lowest.value();
    }
    return d;
}

FramePipeline::FramePipeline(const Pipeline& pipeline) : m_pipeline(pipeline) {
    const bool generates = pipeline.multiplier > 1 || pipeline.generationTargetMs;
    m_pipeline.framesInFlight = std::clamp(pipeline.framesInFlight, 1, static_cast<int>(ringSize) - 1);
    m_pipeline.images = std::clamp(pipeline.images + (generates ? 2 : 0), 2, static_cast<int>(ringSize) - 1);
}

int FramePipeline::multiplier() const {
    if (!m_pipeline.generationTargetMs) return m_pipeline.multiplier;
    const double wanted = std::round(m_basePeriodMs / *m_pipeline.generationTargetMs);
    return static_cast<int>(std::clamp(wanted, 1.0, static_cast<double>(run::mostMultiplier)));
}

/// With a limiter at the place: not before one interval after the frame before was there.
double FramePipeline::heldUntil(run::LimiterPlace place, double since) const {
    if (m_frame == 0 || !m_pipeline.limiterMs || m_pipeline.limiterPlace != place) return 0;
    return since + *m_pipeline.limiterMs + m_latenessMs;
}

double FramePipeline::start(double latenessMs) {
    const auto flight = static_cast<std::size_t>(m_pipeline.framesInFlight);
    m_latenessMs = latenessMs;
    m_now = {};
    if (m_frame > 0) m_now.cpuStart = back(1).cpuEnd;
    if (m_frame >= flight) m_now.cpuStart = std::max(m_now.cpuStart, back(flight).gpuEnd);
    m_now.cpuStart = std::max(m_now.cpuStart, heldUntil(run::LimiterPlace::Engine, back(1).cpuStart));
    if (m_pipeline.display.headset) {
        const double refresh = m_pipeline.display.shortestMs;
        m_now.cpuStart = std::ceil(m_now.cpuStart / refresh - 1e-9) * refresh;
    }
    return m_now.cpuStart;
}

double FramePipeline::cpu(double workMs) {
    m_now.cpuEnd = std::max(m_now.cpuStart + workMs, heldUntil(run::LimiterPlace::Present, back(1).cpuEnd));
    const double handed = m_pipeline.overlap > 0 ? m_now.cpuStart + (1 - m_pipeline.overlap) * workMs : m_now.cpuEnd;
    m_now.gpuStart = std::max(handed, heldUntil(run::LimiterPlace::Driver, back(1).gpuStart));
    const auto images = static_cast<std::size_t>(m_pipeline.images);
    if (m_frame > 0) m_now.gpuStart = std::max(m_now.gpuStart, back(1).gpuEnd);
    // An image must be free: shown and replaced where frames wait for the panel, copied out where they do not.
    const run::Sync sync = m_pipeline.display.sync;
    const bool waits = m_pipeline.display.headset || sync == run::Sync::Fixed || sync == run::Sync::Variable ||
                       m_pipeline.limiterPlace == run::LimiterPlace::Compositor;
    if (waits) {
        if (m_frame >= images - 1) m_now.gpuStart = std::max(m_now.gpuStart, back(images - 1).shown);
    } else if (m_frame >= images) {
        m_now.gpuStart = std::max(m_now.gpuStart, back(images).ready);
    }
    return m_now.gpuStart;
}

Stages FramePipeline::gpu(double workMs, double copyMs, double secondGpuMs) {
    m_now.gpuEnd = std::max(m_now.gpuStart + workMs, m_now.cpuEnd); // the last of it is handed over there
    m_now.copyStart = copyMs > 0 ? std::max(m_now.gpuEnd, back(1).copied) : m_now.gpuEnd;
    m_now.copied = m_now.copyStart + copyMs;
    m_now.generateStart = secondGpuMs > 0 ? std::max(m_now.copied, back(1).ready) : m_now.copied;
    m_now.ready = m_now.generateStart + secondGpuMs;
    show();
    m_ring[m_frame % ringSize] = m_now;
    ++m_frame;
    return m_now;
}

void FramePipeline::show() {
    m_invented.clear();
    if (m_frame == 0) {
        const bool onTicks = m_pipeline.display.headset || m_pipeline.display.sync == run::Sync::Fixed ||
                             m_pipeline.display.sync == run::Sync::Latest;
        m_now.shown = onTicks ? shownAt(m_now.ready, 0) : m_now.ready;
        return;
    }
    const double period = m_now.ready - back(1).ready;
    m_basePeriodMs += (m_basePeriodMs > 0 ? 0.1 : 1) * (period - m_basePeriodMs);
    const int shownFrames = multiplier();
    double last = back(1).shown;
    for (int i = 0; i + 1 < shownFrames; ++i) {
        last = shownAt(m_now.ready + i * m_basePeriodMs / shownFrames, last);
        m_invented.push_back(last);
    }
    // The rendered frame is held back behind what was invented from it, and by a limiter at the panel.
    const double held = m_now.ready + (shownFrames - 1) * m_basePeriodMs / shownFrames;
    m_now.shown = shownAt(std::max(held, heldUntil(run::LimiterPlace::Compositor, back(1).shown)), last);
    if (!m_pipeline.display.headset) return;
    // The runtime fills every refresh that no frame was ready for.
    const double refresh = m_pipeline.display.shortestMs;
    for (double at = last + refresh; at < m_now.shown - refresh / 2; at += refresh) m_invented.push_back(at);
}

double FramePipeline::shownAt(double readyMs, double previousShownMs) const {
    const Display& d = m_pipeline.display;
    const auto tick = [&d](double ms) { return std::ceil(ms / d.shortestMs - 1e-9) * d.shortestMs; };
    if (d.headset) return std::max(tick(readyMs), previousShownMs + d.shortestMs);
    switch (d.sync) {
    case run::Sync::None:
        return std::max(readyMs, previousShownMs);
    case run::Sync::Fixed:
        // Ticks lie at whole multiples of the refresh; one frame a tick.
        return std::max(tick(readyMs), previousShownMs + d.shortestMs);
    case run::Sync::Latest:
        return std::max(tick(readyMs), previousShownMs);
    case run::Sync::Variable:
    case run::Sync::VariableTearing: {
        const double gap = readyMs - previousShownMs;
        const double repeats = std::floor(gap / d.longestMs);
        // A repeated frame keeps the panel busy for its shortest refresh; inside the range it follows at once.
        if (repeats >= 1) return std::max(readyMs, previousShownMs + repeats * d.longestMs + d.shortestMs);
        if (d.sync == run::Sync::VariableTearing) return std::max(readyMs, previousShownMs);
        return std::max(readyMs, previousShownMs + d.shortestMs);
    }
    }
    return readyMs;
}

std::vector<Stages> simulate(const Pipeline& pipeline, std::span<const double> cpuMs, std::span<const double> gpuMs) {
    FramePipeline frames(pipeline);
    std::vector<Stages> out;
    out.reserve(cpuMs.size());
    for (std::size_t i = 0; i < cpuMs.size(); ++i) {
        frames.start();
        frames.cpu(cpuMs[i]);
        out.push_back(frames.gpu(gpuMs[i]));
    }
    return out;
}

std::vector<double> shownIntervals(std::span<const Stages> frames) {
    std::vector<double> out;
    out.reserve(frames.size());
    for (std::size_t i = 1; i < frames.size(); ++i) out.push_back(frames[i].shown - frames[i - 1].shown);
    return out;
}

std::optional<double> meanLatencyMs(std::span<const Stages> frames) {
    if (frames.empty()) return std::nullopt;
    double sum = 0;
    for (const auto& f : frames) sum += f.shown - f.cpuStart;
    return sum / static_cast<double>(frames.size());
}

} // namespace impasto::pace
