// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/pace.h>

namespace impasto::results {
namespace {

Maybe<CapView> capView(const Inputs& in, const Context& context) {
    const auto& ids = in.get<CheckRuns>()->ids;
    const auto target = in.target();
    if (ids.empty() || !target) return std::shared_ptr<const CapView>();
    const RunId run = ids.back();
    const auto panel = in.panel();
    const auto sync = panel && panel->variable ? run::Sync::Variable : run::Sync::None;
    CapView view{pace::replayOf(*in.of<RunFrames>(run)->capture, panel, sync, in.lowRule()), run, {}, {}};
    view.offers = pace::offers(view.replay, *target, panel, in.capRules(), context);
    const double average = in.of<RunFigures>(run)->summary.average.value();
    const double from = 0.66 * target->value(), to = std::max(1.2 * average, 1.3 * target->value());
    view.curve = pace::curve(view.replay, Fps(from), Fps(to), 29, in.capRules(), context);
    if (context.cancelled()) return fail(ErrorCode::Cancelled);
    return std::make_shared<const CapView>(std::move(view));
}

} // namespace

std::size_t bytesOf(const CapView& view) {
    return 8 * (view.replay.frameMs.size() + view.replay.cpuMs.size() + view.replay.gpuMs.size()) +
           (view.offers.size() + view.curve.size()) * sizeof(pace::CapOffer);
}

std::vector<Stage> paceStages() {
    return {stage("caps", {Part::Machine, Part::Target, Part::LowRule, Part::CapRules},
                  {use<CheckRuns>(), useOf<RunFrames, CheckRuns>(), useOf<RunFigures, CheckRuns>()}, capView)};
}

} // namespace impasto::results
