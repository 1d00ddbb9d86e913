// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/pace/cap.h>

#include <cmath>
#include <impasto/base/keys.h>
#include <impasto/description/description.h>
#include <numeric>

namespace impasto::pace {
namespace {

constexpr Keys<CapSchool, 6> schools{{{CapSchool::Steady, "steady"},
                                      {CapSchool::Headroom, "headroom"},
                                      {CapSchool::BottomOfRange, "bottom-of-range"},
                                      {CapSchool::Even, "even"},
                                      {CapSchool::Window, "window"},
                                      {CapSchool::None, "none"}}};

std::vector<double> gapless(const std::vector<double>& column) {
    std::vector<double> out = column;
    double last = 0;
    for (double& v : out) {
        if (!std::isfinite(v)) v = last;
        last = v;
    }
    return out;
}

/// Trailing means of `width` values.
std::vector<double> smoothed(const std::vector<double>& values, int width) {
    std::vector<double> out;
    double sum = 0;
    const auto w = static_cast<std::size_t>(width);
    for (std::size_t i = 0; i < values.size(); ++i) {
        sum += values[i];
        if (i >= w) sum -= values[i - w];
        if (i + 1 >= w) out.push_back(sum / width);
    }
    return out;
}

/// Frames per second of every whole second.
std::vector<double> secondRates(const std::vector<double>& frameMs) {
    std::vector<double> rates;
    double span = 0;
    int frames = 0;
    for (const double v : frameMs) {
        span += v;
        ++frames;
        if (span < 1000) continue;
        rates.push_back(1000.0 * frames / span);
        span = 0;
        frames = 0;
    }
    return rates;
}

double averageOf(const std::vector<double>& frameMs) {
    return 1000.0 * static_cast<double>(frameMs.size()) / std::accumulate(frameMs.begin(), frameMs.end(), 0.0);
}

/// One lane with its slow frames levelled: their excess is background work that grows steadily, is served by the lane's
/// idle time, and falls into a frame as a usual lump where idle time does not reach it.
class DeferredLane {
  public:
    DeferredLane(std::span<const double> work, double durationMs, double switchLossMs)
        : m_work(work.begin(), work.end()), m_switchLossMs(switchLossMs) {
        double taken = 0;
        std::vector<double> lumps;
        for (const auto& hitch : frames::hitches(work)) {
            lumps.push_back(hitch.frameMs - hitch.medianMs);
            taken += lumps.back();
            m_work[hitch.frame] = hitch.medianMs;
        }
        m_perMs = taken / durationMs;
        m_lump = stats::quantile(lumps, 0.5).value_or(0.0);
    }
    double work(std::size_t frame, double elapsedMs, double gapMs) {
        m_backlog += m_perMs * elapsedMs;
        m_backlog -= std::min(m_backlog, std::max(0.0, gapMs - m_switchLossMs));
        return m_work[frame] + (m_lump > 0 && m_backlog > m_lump ? std::exchange(m_backlog, 0.0) : 0.0);
    }

  private:
    std::vector<double> m_work;
    double m_switchLossMs, m_perMs = 0, m_lump = 0, m_backlog = 0;
};

std::vector<double> deferredIntervals(const Replay& replay, std::optional<Fps> cap, const CapRules& rules) {
    const double duration = std::accumulate(replay.frameMs.begin(), replay.frameMs.end(), 0.0);
    DeferredLane cpu(replay.cpuMs, duration, rules.switchLossMs), gpu(replay.gpuMs, duration, rules.switchLossMs);
    Pipeline pipeline = replay.pipeline;
    if (cap) pipeline.limiterMs = 1000 / cap->value();
    FramePipeline frames(pipeline);
    std::vector<Stages> shown;
    shown.reserve(replay.cpuMs.size());
    for (std::size_t i = 0; i < replay.cpuMs.size(); ++i) {
        const Stages before = frames.previous();
        const double start = frames.start(), elapsed = start - before.cpuStart;
        const double gpuStart = frames.cpu(cpu.work(i, elapsed, start - before.cpuEnd));
        shown.push_back(frames.gpu(gpu.work(i, elapsed, gpuStart - before.gpuEnd)));
    }
    return shownIntervals(shown);
}

Band bandOf(const std::vector<double>& stiff, const std::vector<double>& soft, double share, stats::LowRule rule) {
    const double a = stats::low(stiff, share, rule)->rate.value(), b = stats::low(soft, share, rule)->rate.value();
    return {std::min(a, b), std::max(a, b)};
}

std::optional<Fps> headroomCap(const Replay& replay, const CapRules& rules) {
    if (replay.gpuMs.empty()) return Fps(rules.headroomShare * averageOf(replay.frameMs));
    const auto level = stats::quantile(smoothed(replay.gpuMs, rules.smoothingFrames), rules.headroomQuantile);
    const auto cpuLevel = stats::quantile(smoothed(replay.cpuMs, rules.smoothingFrames), rules.headroomQuantile);
    if (!level || !cpuLevel) return std::nullopt;
    return Fps(1000 / (std::max(*level, *cpuLevel) + rules.switchLossMs));
}

std::optional<Fps> evenCap(const Replay& replay, const std::optional<display::Panel>& panel, const CapRules& rules) {
    if (!panel) return std::nullopt;
    const double most = rules.evenShare * averageOf(replay.frameMs);
    for (const Fps cap : display::evenCaps(panel->refresh, Fps(10)))
        if (cap.value() <= most) return cap;
    return std::nullopt;
}

/// The lowest cap from the target up beyond which the middle of the 1% low's band rises by less than 1 fps; caps up to
/// the average are tried.
std::optional<Fps> steadyCap(const Replay& replay, Fps target, const CapRules& rules, const Context& context) {
    if (replay.gpuMs.empty()) return target;
    std::optional<Fps> best;
    double top = 0;
    const double last = std::max(target.value(), averageOf(replay.frameMs));
    for (double cap = std::ceil(target.value()); cap <= last + 0.5 && !context.cancelled();
         cap += std::max(1.0, std::ceil((last - target.value()) / 24))) {
        const auto p = predict(replay, Fps(cap), rules);
        const double low = 0.5 * (p.onePercentLow->low + p.onePercentLow->high);
        if (low < top + 1) continue;
        top = low;
        best = Fps(cap);
    }
    return best;
}

std::optional<Fps> rounded(std::optional<Fps> cap) {
    if (!cap) return cap;
    return Fps(std::floor(cap->value() + 1e-9));
}

} // namespace

std::string_view keyOf(CapSchool school) {
    return keyIn(schools, school);
}
std::optional<CapSchool> capSchoolOf(std::string_view key) {
    return valueIn(schools, key);
}

Result<CapRules> parseCapRules(std::string_view text, std::string fileName) {
    const auto document = description::Document::parse(text, std::move(fileName));
    if (!document) return tl::unexpected(document.error());
    const auto root = document->root();
    CapRules r;
    r.headroomShare = root.number("headroom_share", 0.1, 1, r.headroomShare);
    r.headroomQuantile = root.number("headroom_quantile", 0.5, 1, r.headroomQuantile);
    r.switchLossMs = root.number("switch_loss_ms", 0, 5, r.switchLossMs);
    r.smoothingFrames = static_cast<int>(root.number("smoothing_frames", 1, 1000, r.smoothingFrames));
    r.bottomQuantile = root.number("bottom_quantile", 0, 0.5, r.bottomQuantile);
    r.evenShare = root.number("even_share", 0.1, 1, r.evenShare);
    r.limiterErrorMs = root.number("limiter_error_ms", 0, 5, r.limiterErrorMs);
    if (const auto sound = document->check(); !sound) return tl::unexpected(sound.error());
    return r;
}

Replay replayOf(const capture::Capture& capture, const std::optional<display::Panel>& panel, run::Sync sync,
                stats::LowRule lowRule) {
    Replay replay;
    replay.lowRule = lowRule;
    replay.frameMs = capture.framesMs;
    if (panel) replay.pipeline.display = displayOf(*panel, sync);
    const auto parts = frames::partMeans(capture);
    const bool bothLanes = !parts.empty() && parts.front().cpuMs && parts.front().gpuMs && capture.frames() >= 100;
    if (!bothLanes) return replay;
    replay.cpuMs = gapless(*capture.cpuWorkMs);
    replay.gpuMs = gapless(*capture.gpuWorkMs);
    return replay;
}

std::vector<Stages> replayedFrames(const Replay& replay, std::optional<Fps> cap) {
    Pipeline pipeline = replay.pipeline;
    if (cap) pipeline.limiterMs = 1000 / cap->value();
    return simulate(pipeline, replay.cpuMs, replay.gpuMs);
}

CapPrediction predict(const Replay& replay, std::optional<Fps> cap, const CapRules& rules) {
    CapPrediction p;
    p.cap = cap;
    const double recorded = averageOf(replay.frameMs);
    p.average = Fps(cap ? std::min(cap->value(), recorded) : recorded);
    if (replay.gpuMs.empty()) return p;
    const auto frames = replayedFrames(replay, cap);
    const auto stiff = shownIntervals(frames);
    const auto soft = deferredIntervals(replay, cap, rules);
    p.average = Fps(averageOf(stiff));
    p.onePercentLow = bandOf(stiff, soft, 0.01, replay.lowRule);
    p.tenthPercentLow = bandOf(stiff, soft, 0.001, replay.lowRule);
    p.latencyMs = meanLatencyMs(frames);
    p.gpuBusy = std::accumulate(replay.gpuMs.begin(), replay.gpuMs.end(), 0.0) /
                (frames.back().gpuEnd - frames.front().gpuStart);
    return p;
}

std::vector<CapOffer> offers(const Replay& replay, Fps target, const std::optional<display::Panel>& panel,
                             const CapRules& rules, const Context& context) {
    std::vector<CapOffer> out;
    const auto add = [&](CapSchool school, std::optional<Fps> cap) {
        const bool applies = cap.has_value() || school == CapSchool::None;
        out.push_back({school, cap, applies, applies ? predict(replay, cap, rules) : CapPrediction{}});
    };
    add(CapSchool::Steady, steadyCap(replay, target, rules, context));
    add(CapSchool::Headroom, rounded(headroomCap(replay, rules)));
    const auto bottom = stats::quantile(secondRates(replay.frameMs), rules.bottomQuantile);
    add(CapSchool::BottomOfRange, bottom ? rounded(Fps(*bottom)) : std::nullopt);
    add(CapSchool::Even, evenCap(replay, panel, rules));
    add(CapSchool::Window, panel && panel->variable
                               ? rounded(display::windowCap(*panel->variable, Milliseconds(rules.limiterErrorMs)))
                               : std::nullopt);
    add(CapSchool::None, std::nullopt);
    // A headset's runtime paces the frames already: a limiter beside it makes each of them late.
    if (panel && panel->headset) std::rotate(out.begin(), out.end() - 1, out.end());
    return out;
}

std::vector<CapPrediction> curve(const Replay& replay, Fps from, Fps to, std::size_t points, const CapRules& rules,
                                 const Context& context) {
    std::vector<CapPrediction> out;
    for (std::size_t i = 0; i < points && !context.cancelled(); ++i) {
        const double share = points > 1 ? static_cast<double>(i) / static_cast<double>(points - 1) : 0;
        out.push_back(predict(replay, Fps(from.value() + share * (to.value() - from.value())), rules));
    }
    return out;
}

} // namespace impasto::pace
