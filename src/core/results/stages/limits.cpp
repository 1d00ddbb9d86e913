// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/limits.h>

namespace impasto::results {
namespace {

Maybe<Limits> judge(const Inputs& in, const Context&) {
    std::vector<std::shared_ptr<const capture::Capture>> captures;
    for (const auto& id : in.get<BaselineRuns>()->ids)
        if (const auto* frames = in.of<RunFrames>(id)) captures.push_back(frames->capture);
    return std::make_shared<const Limits>(Limits{limits::judge(captures, run::Variant{}, in.panel())});
}

} // namespace

const std::vector<limits::PartVerdict>& verdictsOf(const Results& results) {
    static const std::vector<limits::PartVerdict> none;
    const auto* limits = results.get<Limits>();
    return limits == nullptr ? none : limits->parts;
}

std::vector<Stage> limitStages() {
    return {stage("limits", {Part::Machine}, {use<BaselineRuns>(), useOf<RunFrames, BaselineRuns>()}, judge)};
}

} // namespace impasto::results
