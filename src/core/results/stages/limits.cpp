// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <impasto/game/size.h>
#include <impasto/limits/tested.h>
#include <impasto/results/baseline.h>
#include <impasto/results/limits.h>

namespace impasto::results {
namespace {

/// So many of them, spread over all: more baseline runs say nothing new of what limits a part, and their frames are
/// held together.
std::vector<RunId> spread(const std::vector<RunId>& ids) {
    constexpr std::size_t most = 60;
    if (ids.size() <= most) return ids;
    std::vector<RunId> out;
    for (std::size_t i = 0; i < most; ++i) out.push_back(ids[i * (ids.size() - 1) / (most - 1)]);
    return out;
}

/// What the deciding runs say, a test each.
std::vector<limits::Tested> testedOf(const Inputs& in,
                                     std::span<const std::shared_ptr<const capture::Capture>> baseline) {
    std::map<limits::DecidingTest, std::vector<std::shared_ptr<const capture::Capture>>> runs;
    const auto& session =
        in.session({Part::Answers, Part::Machine, Part::State, Part::Target, Part::Baseline, Part::Game});
    for (const auto& id : in.get<DecidingRuns>()->ids) {
        const auto* order = in.orderOf(id);
        const auto* frames = in.of<RunFrames>(id);
        if (order == nullptr || frames == nullptr) continue;
        if (const auto test = decidedBy(session, *order)) runs[test.value()].push_back(frames->capture);
    }
    std::vector<limits::Tested> out;
    for (const auto& [test, after] : runs)
        for (auto& tested : limits::compareTested(test, baseline, after)) out.push_back(std::move(tested));
    return out;
}

/// What a frame of the part takes of CPU or GPU, whichever is longer.
double longest(const limits::PartVerdict& part) {
    if (!part.cpu && !part.gpu) return part.frame.meanMs;
    return std::max(part.cpu ? part.cpu->meanMs : 0.0, part.gpu ? part.gpu->meanMs : 0.0);
}

/// A frame over the time of the route.
double frameMean(const std::vector<limits::PartVerdict>& parts) {
    double sum = 0, seconds = 0;
    for (const auto& part : parts) {
        sum += part.seconds * part.frame.meanMs;
        seconds += part.seconds;
    }
    return seconds > 0 ? sum / seconds : 0;
}

using Captures = std::vector<std::shared_ptr<const capture::Capture>>;

Captures framesOf(const Inputs& in, const std::vector<RunId>& ids) {
    Captures out;
    for (const auto& id : spread(ids))
        if (const auto* frames = in.of<RunFrames>(id)) out.push_back(frames->capture);
    return out;
}

/// The order of the baseline's first run, where there is one.
const run::Order* baselineOrder(const Inputs& in) {
    const auto& ids = in.get<BaselineRuns>()->ids;
    return ids.empty() ? nullptr : in.orderOf(ids.front());
}

/// How the baseline meets the panel; without a cap, whatever a dropped log had.
run::Variant shownAs(const run::Order* like) {
    run::Variant variant;
    if (like == nullptr) return variant;
    variant.refresh = like->variant.refresh;
    variant.sync = like->variant.sync;
    variant.direct = like->variant.direct;
    return variant;
}

/// What the baseline draws without a cap; nothing where its runs tell none.
std::optional<pace::Power> drawnBy(const Inputs& in, const Captures& captures, const run::Order* like) {
    if (captures.empty()) return std::nullopt;
    const auto& brief = in.session({Part::Wishes}).edits->goal.brief;
    const auto clocks = pace::clocksOf(*captures.back(), like == nullptr ? run::Conditions() : like->conditions,
                                       brief ? brief->style : run::Style::Cinematic);
    return pace::uncappedPower(captures, clocks, pace::batteryOf(in.machine()));
}

/// What is asked of watts, and of what follows from them, as a share of the budget in every part: by how far it fills a
/// frame now, so that all of the route together keeps it.
void addAsked(const Inputs& in, Limits& out) {
    if (!out.power) return;
    out.fill = pace::fillFor(in.bounds(), *out.power, in.capRules().power);
    const double mean = frameMean(out.parts);
    if (out.fill.value_or(1) >= 1 || mean <= 0) return;
    for (const auto& part : out.parts) out.askedShares[part.part] = *out.fill * longest(part) / mean;
}

Maybe<Limits> judge(const Inputs& in, const Context&) {
    const auto& ids = in.get<BaselineRuns>()->ids;
    const auto captures = framesOf(in, ids);
    const auto target = in.target();
    const auto* like = baselineOrder(in);
    const auto variant = shownAs(like);
    limits::Around around{in.machine(), {}};
    for (const auto& id : in.get<ShownRuns>()->ids) {
        const auto* order = in.orderOf(id);
        const bool alike = like != nullptr && order != nullptr && order->machine == like->machine &&
                           order->variant == like->variant && run::comparable(order->conditions, like->conditions);
        if (alike && std::find(ids.begin(), ids.end(), id) == ids.end())
            if (const auto* frames = in.of<RunFrames>(id)) around.others.push_back(frames->capture);
    }
    auto parts = target ? limits::judge(captures, variant, in.panel(), target->onTimeShare, target->rate, around)
                        : limits::judge(captures, variant, in.panel(), 0.97, {}, around);
    for (auto& part : parts) {
        if (part.cpu) part.cpu->safeShare = in.shares().cpu.value_or(part.cpu->safeShare);
        if (part.gpu) part.gpu->safeShare = in.shares().gpu.value_or(part.gpu->safeShare);
        if (part.gpu) part.gpu->safeShare = std::min(part.gpu->safeShare, in.bounds()[run::Bound::GpuLoad].value_or(1));
        part.frame.safeShare = in.shares().frame.value_or(part.frame.safeShare);
    }
    applyTested(parts, testedOf(in, captures));
    std::vector<std::vector<limits::WhatIf>> whatIfs;
    for (const auto& part : parts) whatIfs.push_back(limits::whatIfsOf(part, captures));
    Limits out{std::move(parts), std::move(whatIfs), drawnBy(in, captures, like)};
    addAsked(in, out);
    return std::make_shared<const Limits>(std::move(out));
}

Maybe<NamedStates> namedStates(const Inputs& in, const Context& context) {
    const auto& session = in.session({Part::Runs, Part::Answers, Part::Machine});
    std::map<std::string, std::vector<RunId>> named;
    for (const auto& id : in.get<ShownRuns>()->ids) {
        const auto& run = in.runOf(id);
        if (const auto name = session.variantName(run); !name.empty() && session.counts(run)) named[name].push_back(id);
    }
    const auto before = framesOf(in, in.get<BaselineRuns>()->ids);
    NamedStates out;
    for (const auto& [name, ids] : named) {
        if (context.cancelled()) return fail(ErrorCode::Cancelled);
        const auto after = framesOf(in, ids);
        const bool alike = !before.empty() && std::all_of(after.begin(), after.end(), [&](const auto& capture) {
            return capture::alike(capture->kind, before.front()->kind);
        });
        if (!alike) continue;
        const auto found = limits::heldAgainst(before, after, shownAs(baselineOrder(in)), in.panel(), in.machine());
        for (const auto& id : ids) out.ofRun[id] = found;
    }
    return std::make_shared<const NamedStates>(std::move(out));
}

/// The pixels that the variant renders, where it differs from the baseline in them alone.
std::optional<Megapixels> renderedBy(const game::Game* game, const run::Variant& baseline, run::Variant variant) {
    double scale = 1;
    const auto full = game == nullptr ? std::nullopt : game::fullOutputOf(*game);
    const auto resolution = full.value_or(variant.resolution);
    if (game != nullptr)
        for (const auto& setting : game->settings) {
            const auto it = variant.values.find(setting.id);
            const auto level = it == variant.values.end() ? std::nullopt : setting.levelIndex(it->second);
            if (!level || !setting.levels[*level].scale) continue;
            scale *= *setting.levels[*level].scale;
            const auto usual = baseline.values.find(setting.id);
            if (usual == baseline.values.end()) continue;
            const auto before = setting.levelIndex(usual->second);
            if (before && setting.levels[*before].upscaler == setting.levels[*level].upscaler)
                it->second = usual->second;
        }
    variant.resolution = baseline.resolution;
    if (variant != baseline || resolution.widthPx == 0) return std::nullopt;
    return display::megapixelsOf(resolution) * (scale * scale);
}

Maybe<Ladders> ladder(const Inputs& in, const Context&) {
    const auto& session = in.session(
        {Part::Runs, Part::Answers, Part::Route, Part::Machine, Part::State, Part::Target, Part::Baseline, Part::Game});
    const auto baseline = session.baselineVariant();
    const auto& baselineRuns = in.get<BaselineRuns>()->ids;
    std::vector<limits::Rung> rungs;
    for (const auto& id : in.get<ShownRuns>()->ids) {
        const auto& run = in.runOf(id);
        const auto* order = in.orderOf(id);
        const auto* frames = in.of<RunFrames>(id);
        if (frames == nullptr || !session.counts(run)) continue;
        std::optional<Megapixels> rendered;
        if (std::find(baselineRuns.begin(), baselineRuns.end(), id) != baselineRuns.end())
            rendered = renderedBy(session.game(), baseline, baseline);
        else if (order != nullptr && order->route == session.edits->subject.route && session.onThisMachine(*order) &&
                 session.inThisState(*order) && order->variant != baseline)
            rendered = renderedBy(session.game(), baseline, order->variant);
        if (!rendered) continue;
        auto it = std::find_if(rungs.begin(), rungs.end(), [&](const auto& r) { return r.rendered == *rendered; });
        if (it == rungs.end()) it = rungs.insert(rungs.end(), {*rendered, {}});
        it->runs.push_back(frames->capture);
    }
    if (baselineRuns.empty() || rungs.size() < 2) return std::shared_ptr<const Ladders>();
    return std::make_shared<const Ladders>(Ladders{limits::laddersOf(rungs)});
}

} // namespace

const std::vector<limits::PartVerdict>& verdictsOf(const Results& results) {
    static const std::vector<limits::PartVerdict> none;
    const auto* limits = results.get<Limits>();
    return limits == nullptr ? none : limits->parts;
}

const limits::PartVerdict* slowestOf(const Results& results) {
    const auto& parts = verdictsOf(results);
    const auto it = std::min_element(parts.begin(), parts.end(),
                                     [](const auto& a, const auto& b) { return a.rate.value() < b.rate.value(); });
    return it == parts.end() ? nullptr : &*it;
}

std::optional<Fps> estimatedLow(const Results& results, const run::Brief& brief, Fps rate) {
    const auto* family = results.get<BaselineFamily>();
    const auto* slowest = slowestOf(results);
    if (!brief.floor() || brief.floorOf != run::FloorOf::OnePercentLow || family == nullptr || slowest == nullptr ||
        !family->figures.contains(frames::onePercentLowFps))
        return std::nullopt;
    return rate * (family->figures.at(frames::onePercentLowFps).mean.estimate / slowest->rate.value());
}

std::vector<Stage> limitStages() {
    return {stage("limits",
                  {Part::Answers, Part::Machine, Part::Target, Part::Wishes, Part::Shares, Part::State, Part::Baseline,
                   Part::Game, Part::CapRules},
                  {use<BaselineRuns>(), use<ShownRuns>(), use<DecidingRuns>(), useOf<RunFrames, ShownRuns>()}, judge),
            stage("ladder",
                  {Part::Runs, Part::Answers, Part::Route, Part::Machine, Part::State, Part::Target, Part::Baseline,
                   Part::Game},
                  {use<BaselineRuns>(), use<ShownRuns>(), useOf<RunFrames, ShownRuns>()}, ladder),
            stage("named states", {Part::Runs, Part::Answers, Part::Machine},
                  {use<BaselineRuns>(), use<ShownRuns>(), useOf<RunFrames, ShownRuns>()}, namedStates)};
}

} // namespace impasto::results
