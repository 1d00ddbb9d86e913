// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/pace.h>

#include <impasto/results/costs.h>

namespace impasto::results {
namespace {

Maybe<CapView> capView(const Inputs& in, const Context& context) {
    const auto& ids = in.get<CheckRuns>()->ids;
    const auto& brief = in.brief();
    if (ids.empty() || !brief) return std::shared_ptr<const CapView>();
    const RunId run = ids.back();
    CapView view{pace::replayOf(*in.of<RunFrames>(run)->capture, in.panel(), *brief), run, {}, {}};
    const auto& refuted = in.get<Learnt>()->refuted;
    if (const auto it = refuted.find(in.orderOf(run)->variant.values); it != refuted.end())
        view.replay.refuted = it->second;
    view.offers = pace::offers(view.replay, in.capRules(), context);
    const double average = in.of<RunFigures>(run)->summary.average.value();
    const double from = 0.66 * brief->target.value(), to = std::max(1.2 * average, 1.3 * brief->target.value());
    view.curve = pace::curve(view.replay, Fps(from), Fps(to), 29, in.capRules(), context);
    if (context.cancelled()) return fail(ErrorCode::Cancelled);
    return std::make_shared<const CapView>(std::move(view));
}

Maybe<OwnCap> ownCap(const Inputs& in, const Context&) {
    OwnCap own;
    const auto* view = in.get<CapView>();
    const auto& cap = in.cap();
    if (view != nullptr && cap && cap->school == pace::CapSchool::Own)
        own.offer = pace::ownOffer(view->replay, cap->plan.pacedTo(), in.capRules());
    return std::make_shared<const OwnCap>(std::move(own));
}

} // namespace

const pace::CapOffer* shownOffer(const document::Session& session, const Results& results) {
    const auto* own = results.get<OwnCap>();
    if (own != nullptr && own->offer) return &*own->offer;
    const auto* view = results.get<CapView>();
    if (view == nullptr || view->offers.empty()) return nullptr;
    const auto& cap = session.edits->pacing.cap;
    const auto it = std::find_if(view->offers.begin(), view->offers.end(),
                                 [&](const pace::CapOffer& o) { return cap && o.school == cap->school; });
    return it == view->offers.end() ? &view->offers.front() : &*it;
}

std::size_t bytesOf(const CapView& view) {
    return 8 * (view.replay.frameMs.size() + view.replay.cpuMs.size() + view.replay.gpuMs.size()) +
           (view.offers.size() + view.curve.size()) * sizeof(pace::CapOffer);
}

std::vector<Stage> paceStages() {
    return {stage("caps", {Part::Answers, Part::Machine, Part::Target, Part::LowRule, Part::Wishes, Part::CapRules},
                  {use<CheckRuns>(), use<Learnt>(), useOf<RunFrames, CheckRuns>(), useOf<RunFigures, CheckRuns>()},
                  capView),
            stage("own cap", {Part::Cap, Part::CapRules}, {use<CapView>()}, ownCap)};
}

} // namespace impasto::results
