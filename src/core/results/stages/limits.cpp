// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/limits.h>

namespace impasto::results {
namespace {

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
    return std::make_shared<const Limits>(Limits{std::move(parts)});
}

} // namespace

const std::vector<limits::PartVerdict>& verdictsOf(const Results& results) {
    static const std::vector<limits::PartVerdict> none;
    const auto* limits = results.get<Limits>();
    return limits == nullptr ? none : limits->parts;
}

std::vector<Stage> limitStages() {
    return {stage("limits", {Part::Answers, Part::Machine, Part::Target, Part::Shares},
                  {use<BaselineRuns>(), use<ShownRuns>(), useOf<RunFrames, ShownRuns>()}, judge)};
}

} // namespace impasto::results
