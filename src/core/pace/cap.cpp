// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/pace/cap.h>

#include <cmath>
#include <impasto/base/keys.h>
#include <impasto/description/description.h>
#include <impasto/frames/shape.h>
#include <numeric>

namespace impasto::pace {
namespace {

constexpr Keys<CapSchool, 8> schools{{{CapSchool::Target, "target"},
                                      {CapSchool::Own, "own"},
                                      {CapSchool::Steady, "steady"},
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

/// What a limiter adds to its interval on average: the mean of |N(0, sd)| whose p99 is the rules' error.
double latenessOf(const CapRules& rules) {
    return 0.31 * rules.limiterErrorMs;
}

Pipeline pipelineOf(const Replay& replay, const CapPlan& plan) {
    Pipeline pipeline;
    if (replay.panel) pipeline.display = displayOf(*replay.panel, plan.sync, plan.refresh);
    if (plan.cap) pipeline.limiterMs = 1000 / plan.cap->value();
    return pipeline;
}

std::vector<Stages> stiffFrames(const Replay& replay, const CapPlan& plan, double latenessMs) {
    FramePipeline frames(pipelineOf(replay, plan));
    std::vector<Stages> out;
    out.reserve(replay.cpuMs.size());
    for (std::size_t i = 0; i < replay.cpuMs.size(); ++i) {
        frames.start(latenessMs);
        frames.cpu(replay.cpuMs[i]);
        out.push_back(frames.gpu(replay.gpuMs[i]));
    }
    return out;
}

std::vector<double> deferredIntervals(const Replay& replay, const CapPlan& plan, const CapRules& rules) {
    const double duration = std::accumulate(replay.frameMs.begin(), replay.frameMs.end(), 0.0);
    DeferredLane cpu(replay.cpuMs, duration, rules.switchLossMs), gpu(replay.gpuMs, duration, rules.switchLossMs);
    FramePipeline frames(pipelineOf(replay, plan));
    std::vector<Stages> shown;
    shown.reserve(replay.cpuMs.size());
    for (std::size_t i = 0; i < replay.cpuMs.size(); ++i) {
        const Stages before = frames.previous();
        const double start = frames.start(latenessOf(rules)), elapsed = start - before.cpuStart;
        const double gpuStart = frames.cpu(cpu.work(i, elapsed, start - before.cpuEnd));
        shown.push_back(frames.gpu(gpu.work(i, elapsed, gpuStart - before.gpuEnd)));
    }
    return shownIntervals(shown);
}

/// Frames without lane times: each lasts its own time or the cap's; a fixed panel shows whole refreshes.
std::vector<double> cappedIntervals(const Replay& replay, const CapPlan& plan, const CapRules& rules) {
    const double least = plan.cap ? 1000 / plan.cap->value() + latenessOf(rules) : 0;
    const bool fixed = plan.sync == run::Sync::Fixed && plan.refresh;
    std::vector<double> out = replay.frameMs;
    for (double& ms : out) {
        ms = std::max(ms, least);
        if (fixed)
            ms = std::max(1.0, std::ceil(ms * plan.refresh->value() / 1000 - 0.01)) * 1000 / plan.refresh->value();
    }
    return out;
}

/// The first interval of a replay is that of the second frame.
bool wouldHold(const Replay& replay, const std::vector<double>& intervals, const CapPlan& plan) {
    run::Variant variant;
    variant.sync = plan.sync;
    variant.refresh = plan.refresh;
    capture::Capture capture;
    capture.framesMs = intervals;
    const std::size_t missing = replay.frameMs.size() - intervals.size();
    for (const auto& part : replay.parts)
        if (!part.part.empty()) capture.marks.push_back({part.part, part.first > missing ? part.first - missing : 0});
    const auto& brief = replay.brief;
    const auto rule = frames::onTimeOf(brief.target, brief.tolerated(), replay.panel, &variant);
    return frames::isHeld(frames::heldParts(capture, rule), brief.target, brief.wishedOnTime());
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

/// The lowest even rate of any mode that reaches the target and that the run reaches; else the highest one under its
/// average.
std::optional<CapPlan> evenOffer(const Replay& replay, const CapRules& rules) {
    if (modesOf(replay.panel).empty() || replay.panel->headset) return std::nullopt;
    const double average = averageOf(replay.frameMs), target = replay.brief.target.value();
    std::optional<CapPlan> under;
    for (auto plan : evenPlans(*replay.panel, Fps(10))) {
        double rate = plan.pacedTo()->value();
        if (replay.panel->variable) { // it follows the even rate itself
            rate = plan.cap ? rate / aboveEven : rate;
            plan = planFor(Fps(rate), replay.panel, replay.brief.style, rules.limiterErrorMs);
        }
        if (rate <= average && rate >= frames::heldAverage * target) return plan;
        if (rate <= rules.evenShare * average) under = plan;
    }
    return under;
}

/// The lowest cap from the target up beyond which the middle of the 1% low rises by less than 1.5%, a style's latency
/// weighed against it; caps up to the average, and to what the panel allows, are tried.
std::optional<Fps> steadyCap(const Replay& replay, const CapRules& rules, const Context& context) {
    const double target = replay.brief.target.value();
    if (replay.gpuMs.empty()) return replay.brief.target;
    std::optional<Fps> best;
    double top = 0;
    double last = std::max(target, averageOf(replay.frameMs));
    if (const auto fastest = fastestCap(replay.panel, rules.limiterErrorMs))
        last = std::max(std::min(last, fastest->value()), std::min(target, fastest->value()));
    const double weight = run::ruleOf(replay.brief.style).latencyWeight,
                 step = std::max(1.0, std::ceil((last - target) / 24));
    for (double cap = std::min(std::ceil(target), last); cap <= last + 0.5 && !context.cancelled(); cap += step) {
        const Fps rate(std::min(cap, last));
        const auto p = predict(replay, planFor(rate, replay.panel, replay.brief.style, rules.limiterErrorMs), rules);
        const double score =
            std::log(p.onePercentLow->expected()) - weight * std::log(std::max(1.0, p.latencyMs.value_or(1)));
        if (best && score < top + 0.015) continue;
        top = score;
        best = rate;
    }
    return best;
}

/// The target, or as little above it as makes up for late and slow frames.
CapPlan targetPlan(const Replay& replay, const CapRules& rules) {
    const auto fastest = fastestCap(replay.panel, rules.limiterErrorMs);
    const auto plan = [&](double factor) {
        return planFor(Fps(std::round(100 * factor * replay.brief.target.value()) / 100), replay.panel,
                       replay.brief.style, rules.limiterErrorMs);
    };
    for (const double factor : {1.0, 1.02, 1.04, 1.06, 1.08, 1.10, 1.12, 1.15, 1.20}) {
        const auto tried = plan(factor);
        if (replay.refuted && tried.cap && tried.cap->value() < 1.015 * replay.refuted->value()) continue;
        if (fastest && factor * replay.brief.target.value() > fastest->value() && factor > 1) break;
        if (const auto p = predict(replay, tried, rules); p.held && keepsFloor(replay.brief, p)) return tried;
    }
    return plan(1);
}

std::optional<Fps> rounded(std::optional<Fps> cap) {
    if (!cap) return cap;
    return Fps(std::floor(cap->value() + 1e-9));
}

} // namespace

bool keepsFloor(const run::Brief& brief, const CapPrediction& p) {
    const auto& low = brief.floorOf == run::FloorOf::SlowestSecond ? p.slowestSecond : p.onePercentLow;
    return !brief.floor() || !low || low->expected() >= brief.floor()->value();
}

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

Replay replayOf(const capture::Capture& capture, const std::optional<display::Panel>& panel, const run::Brief& brief) {
    Replay replay{capture.framesMs, {}, {}, capture::partsOf(capture), panel, brief};
    const auto parts = frames::partMeans(capture, frames::pacedMsOf(panel, nullptr));
    const bool bothLanes = !parts.empty() && parts.front().cpuMs && parts.front().gpuMs && capture.frames() >= 100;
    if (!bothLanes) return replay;
    replay.cpuMs = gapless(*capture.cpuWorkMs);
    replay.gpuMs = gapless(*capture.gpuWorkMs);
    return replay;
}

std::vector<Stages> replayedFrames(const Replay& replay, const CapPlan& plan) {
    return stiffFrames(replay, plan, 0);
}

CapPrediction predict(const Replay& replay, const CapPlan& plan, const CapRules& rules) {
    CapPrediction p;
    p.plan = plan;
    if (replay.gpuMs.empty()) {
        const auto intervals = cappedIntervals(replay, plan, rules);
        p.average = Fps(averageOf(intervals));
        p.held = wouldHold(replay, intervals, plan);
        return p;
    }
    const auto frames = stiffFrames(replay, plan, latenessOf(rules));
    const auto stiff = shownIntervals(frames);
    const auto soft = deferredIntervals(replay, plan, rules);
    const auto slowest = [](const std::vector<double>& intervals) {
        double least = averageOf(intervals);
        for (const auto& second : frames::secondsOf(intervals)) least = std::min(least, second.average.value());
        return least;
    };
    p.average = Fps(averageOf(stiff));
    p.onePercentLow = bandOf(stiff, soft, 0.01, replay.brief.lowRule);
    p.tenthPercentLow = bandOf(stiff, soft, 0.001, replay.brief.lowRule);
    const double a = slowest(stiff), b = slowest(soft);
    p.slowestSecond = Band{std::min(a, b), std::max(a, b)};
    p.latencyMs = meanLatencyMs(frames);
    p.gpuBusy = std::accumulate(replay.gpuMs.begin(), replay.gpuMs.end(), 0.0) /
                (frames.back().gpuEnd - frames.front().gpuStart);
    p.held = wouldHold(replay, stiff, plan);
    return p;
}

namespace {

std::span<const CapSchool> orderOf(const Replay& replay) {
    static constexpr std::array calm{CapSchool::Even,          CapSchool::Target,   CapSchool::Steady,
                                     CapSchool::BottomOfRange, CapSchool::Headroom, CapSchool::Window,
                                     CapSchool::None};
    static constexpr std::array fast{CapSchool::Steady, CapSchool::None,     CapSchool::Window,
                                     CapSchool::Target, CapSchool::Headroom, CapSchool::BottomOfRange,
                                     CapSchool::Even};
    static constexpr std::array worn{CapSchool::None,     CapSchool::Target,        CapSchool::Steady, CapSchool::Even,
                                     CapSchool::Headroom, CapSchool::BottomOfRange, CapSchool::Window};
    if (replay.panel && replay.panel->headset) return worn;
    // On a panel that follows every rate in its range an even one is no better than the target.
    static constexpr std::array follows{CapSchool::Target,        CapSchool::Even,     CapSchool::Steady,
                                        CapSchool::BottomOfRange, CapSchool::Headroom, CapSchool::Window,
                                        CapSchool::None};
    if (!run::ruleOf(replay.brief.style).pacesToTarget) return fast;
    const bool inRange =
        replay.panel && replay.panel->variable && replay.brief.target.value() >= replay.panel->variable->lowest.value();
    return inRange ? std::span<const CapSchool>(follows) : std::span<const CapSchool>(calm);
}

/// What speaks against an offer, the gravest first; the least is taken.
std::array<bool, 5> against(const Replay& replay, const CapOffer& offer) {
    const bool refuted = replay.refuted && offer.plan.cap && *offer.plan.cap <= *replay.refuted;
    const bool reaches = offer.prediction.average.value() >= frames::heldAverage * replay.brief.target.value();
    return {!offer.applies || offer.conflict.has_value(), refuted, !reaches,
            !keepsFloor(replay.brief, offer.prediction), !offer.prediction.held};
}

CapOffer offerOf(const Replay& replay, CapSchool school, const CapPlan& plan, const CapRules& rules) {
    return {school, plan, true, conflictOf(plan, replay.panel, rules.limiterErrorMs), predict(replay, plan, rules)};
}

} // namespace

CapOffer ownOffer(const Replay& replay, std::optional<Fps> cap, const CapRules& rules) {
    return offerOf(replay, CapSchool::Own, planFor(cap, replay.panel, replay.brief.style, rules.limiterErrorMs), rules);
}

std::vector<CapOffer> offers(const Replay& replay, const CapRules& rules, const Context& context) {
    const auto capped = [&](std::optional<Fps> cap) {
        return cap ? std::optional(planFor(cap, replay.panel, replay.brief.style, rules.limiterErrorMs)) : std::nullopt;
    };
    const auto bottom = stats::quantile(secondRates(replay.frameMs), rules.bottomQuantile);
    const bool variable = replay.panel && replay.panel->variable;
    const auto planOf = [&](CapSchool school) -> std::optional<CapPlan> {
        switch (school) {
        case CapSchool::Target:
            return targetPlan(replay, rules);
        case CapSchool::Even:
            return evenOffer(replay, rules);
        case CapSchool::Steady:
            return capped(steadyCap(replay, rules, context));
        case CapSchool::Headroom:
            return capped(rounded(headroomCap(replay, rules)));
        case CapSchool::BottomOfRange:
            return capped(bottom ? rounded(Fps(*bottom)) : std::nullopt);
        case CapSchool::Window:
            return capped(variable ? rounded(fastestCap(replay.panel, rules.limiterErrorMs)) : std::nullopt);
        case CapSchool::None:
            return planFor(std::nullopt, replay.panel, replay.brief.style, rules.limiterErrorMs);
        case CapSchool::Own:
            break;
        }
        return std::nullopt;
    };
    std::vector<CapOffer> out;
    for (const CapSchool school : orderOf(replay)) {
        if (context.cancelled()) return out;
        const auto plan = planOf(school);
        out.push_back(plan ? offerOf(replay, school, *plan, rules) : CapOffer{school, {}, false, {}, {}});
    }
    // On a fixed panel an uneven cap, or none, is no choice where an even one reaches the target.
    const bool fixed = !variable && !modesOf(replay.panel).empty() && run::ruleOf(replay.brief.style).pacesToTarget;
    const auto even =
        std::find_if(out.begin(), out.end(), [](const CapOffer& o) { return o.school == CapSchool::Even; });
    if (fixed && even->applies && even->prediction.average.value() >= frames::heldAverage * replay.brief.target.value())
        for (auto& offer : out)
            if (offer.applies && !offer.conflict && offer.plan.sync == run::Sync::None)
                offer.conflict = CapConflict::Uneven;
    std::stable_sort(out.begin(), out.end(),
                     [&](const CapOffer& a, const CapOffer& b) { return against(replay, a) < against(replay, b); });
    return out;
}

std::vector<CapPrediction> curve(const Replay& replay, Fps from, Fps to, std::size_t points, const CapRules& rules,
                                 const Context& context) {
    std::vector<CapPrediction> out;
    for (std::size_t i = 0; i < points && !context.cancelled(); ++i) {
        const double share = points > 1 ? static_cast<double>(i) / static_cast<double>(points - 1) : 0;
        const Fps cap(from.value() + share * (to.value() - from.value()));
        auto plan = planFor(cap, replay.panel, replay.brief.style, rules.limiterErrorMs);
        if (plan.sync == run::Sync::Fixed) plan = {cap, run::Sync::None, plan.refresh};
        out.push_back(predict(replay, plan, rules));
    }
    return out;
}

} // namespace impasto::pace
