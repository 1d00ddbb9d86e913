// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/limits/tested.h>
#include <impasto/results/limits.h>

namespace impasto::results {
namespace {

/// What the deciding runs say, a test each.
std::vector<limits::Tested> testedOf(const Inputs& in,
                                     std::span<const std::shared_ptr<const capture::Capture>> baseline) {
    std::map<limits::DecidingTest, std::vector<std::shared_ptr<const capture::Capture>>> runs;
    const auto& session =
        in.session({Part::Answers, Part::Machine, Part::State, Part::Target, Part::Baseline, Part::Game});
    for (const auto& id : in.get<DecidingRuns>()->ids) {
        const auto* order = in.orderOf(id);
        const auto test = order == nullptr ? std::nullopt : decidedBy(session, *order);
        const auto* frames = in.of<RunFrames>(id);
        if (test && frames != nullptr) runs[*test].push_back(frames->capture);
    }
    std::vector<limits::Tested> out;
    for (const auto& [test, after] : runs)
        for (auto& tested : limits::compareTested(test, baseline, after)) out.push_back(std::move(tested));
    return out;
}

Maybe<Limits> judge(const Inputs& in, const Context&) {
    std::vector<std::shared_ptr<const capture::Capture>> captures;
    for (const auto& id : in.get<BaselineRuns>()->ids)
        if (const auto* frames = in.of<RunFrames>(id)) captures.push_back(frames->capture);
    const auto target = in.target();
    run::Variant variant; // without a cap, whatever a dropped log had
    const auto& ids = in.get<BaselineRuns>()->ids;
    const auto* like = ids.empty() ? nullptr : in.orderOf(ids.front());
    if (like != nullptr) {
        variant.refresh = like->variant.refresh;
        variant.sync = like->variant.sync;
        variant.direct = like->variant.direct;
    }
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
        part.frame.safeShare = in.shares().frame.value_or(part.frame.safeShare);
    }
    applyTested(parts, testedOf(in, captures));
    return std::make_shared<const Limits>(Limits{std::move(parts)});
}

} // namespace

const std::vector<limits::PartVerdict>& verdictsOf(const Results& results) {
    static const std::vector<limits::PartVerdict> none;
    const auto* limits = results.get<Limits>();
    return limits == nullptr ? none : limits->parts;
}

std::vector<Stage> limitStages() {
    return {stage("limits",
                  {Part::Answers, Part::Machine, Part::Target, Part::Shares, Part::State, Part::Baseline, Part::Game},
                  {use<BaselineRuns>(), use<ShownRuns>(), use<DecidingRuns>(), useOf<RunFrames, ShownRuns>()}, judge)};
}

} // namespace impasto::results
