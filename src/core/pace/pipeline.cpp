// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/pace/pipeline.h>

#include <cmath>

namespace impasto::pace {

Display displayOf(const display::Panel& panel, run::Sync sync) {
    Display d{sync, 1000.0 / panel.refresh.value(), 1000.0 / panel.refresh.value()};
    if (sync == run::Sync::Variable && panel.variable) {
        d.shortestMs = 1000.0 / panel.variable->highest.value();
        d.longestMs = 1000.0 / panel.variable->lowest.value();
    }
    return d;
}

FramePipeline::FramePipeline(const Pipeline& pipeline) : m_pipeline(pipeline) {
    m_pipeline.framesInFlight = std::clamp(pipeline.framesInFlight, 1, static_cast<int>(ringSize) - 1);
    m_pipeline.images = std::clamp(pipeline.images, 2, static_cast<int>(ringSize) - 1);
}

double FramePipeline::start(double latenessMs) {
    const auto flight = static_cast<std::size_t>(m_pipeline.framesInFlight);
    m_now = {};
    if (m_frame > 0) m_now.cpuStart = back(1).cpuEnd;
    if (m_frame >= flight) m_now.cpuStart = std::max(m_now.cpuStart, back(flight).gpuEnd);
    if (m_frame > 0 && m_pipeline.limiterMs)
        m_now.cpuStart = std::max(m_now.cpuStart, back(1).cpuStart + *m_pipeline.limiterMs + latenessMs);
    return m_now.cpuStart;
}

double FramePipeline::cpu(double workMs) {
    m_now.cpuEnd = m_now.cpuStart + workMs;
    m_now.gpuStart = m_now.cpuEnd;
    const auto images = static_cast<std::size_t>(m_pipeline.images);
    if (m_frame > 0) m_now.gpuStart = std::max(m_now.gpuStart, back(1).gpuEnd);
    // An image must be free: shown and replaced under sync, copied out otherwise.
    if (m_pipeline.display.sync == run::Sync::Fixed) {
        if (m_frame >= images - 1) m_now.gpuStart = std::max(m_now.gpuStart, back(images - 1).shown);
    } else if (m_frame >= images) {
        m_now.gpuStart = std::max(m_now.gpuStart, back(images).ready);
    }
    return m_now.gpuStart;
}

Stages FramePipeline::gpu(double workMs) {
    m_now.gpuEnd = m_now.gpuStart + workMs;
    m_now.ready = m_now.gpuEnd;
    if (m_pipeline.copyMs > 0)
        m_now.ready = std::max(m_now.gpuEnd, m_frame > 0 ? back(1).ready : 0.0) + m_pipeline.copyMs;
    m_now.shown = m_frame > 0 ? shownAt(m_now.ready, back(1).shown) : m_now.ready;
    m_ring[m_frame % ringSize] = m_now;
    ++m_frame;
    return m_now;
}

double FramePipeline::shownAt(double readyMs, double previousShownMs) const {
    const Display& d = m_pipeline.display;
    switch (d.sync) {
    case run::Sync::None:
        return std::max(readyMs, previousShownMs);
    case run::Sync::Fixed: {
        // Ticks lie at whole multiples of the refresh; one frame a tick.
        const double tick = std::ceil(readyMs / d.shortestMs - 1e-9) * d.shortestMs;
        return std::max(tick, previousShownMs + d.shortestMs);
    }
    case run::Sync::Variable: {
        const double gap = readyMs - previousShownMs;
        const double repeats = std::floor(gap / d.longestMs);
        // A repeated frame keeps the panel busy for its shortest refresh; inside the range it follows at once.
        if (repeats >= 1) return std::max(readyMs, previousShownMs + repeats * d.longestMs + d.shortestMs);
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
