// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/power.h>

#include <cmath>

namespace impasto::results {
namespace {

PowerView::Side sideOf(const Inputs& in, const std::vector<RunId>& ids, const pace::Replay& replay) {
    PowerView::Side side;
    std::vector<pace::Drawn> drawn;
    for (const auto& id : ids) {
        const auto& capture = *in.of<RunFrames>(id)->capture;
        const auto figures = pace::figuresOf(capture, {}, replay.panel, replay.brief);
        if (!figures) continue;
        ++side.runs;
        for (const auto figure : pace::allFigures)
            side.figures.of(figure) += (figures->of(figure) - side.figures.of(figure)) / static_cast<double>(side.runs);
        if (const auto watts = pace::drawnIn(capture)) drawn.push_back(*watts);
    }
    side.drawn = pace::meanOf(drawn);
    return side;
}

Maybe<PowerView> powerView(const Inputs& in, const Context&) {
    const auto* caps = in.get<CapView>();
    if (caps == nullptr) return std::shared_ptr<const PowerView>();
    PowerView view{sideOf(in, in.get<BaselineRuns>()->ids, caps->replay),
                   sideOf(in, in.get<CheckRuns>()->ids, caps->replay), pace::restingCap(caps->replay.panel)};
    return std::make_shared<const PowerView>(std::move(view));
}

} // namespace

const pace::CapPrediction* predictionOf(const Results& results, const pace::CapPlan& plan) {
    const auto* view = results.get<CapView>();
    if (view == nullptr) return nullptr;
    if (const auto* own = results.get<OwnCap>(); own != nullptr && own->offer && own->offer->plan == plan)
        return &own->offer->prediction;
    for (const auto& offer : view->offers)
        if (offer.applies && offer.plan == plan) return &offer.prediction;
    const auto rate = plan.pacedTo();
    if (!rate || view->curve.empty()) return nullptr;
    return &*std::min_element(view->curve.begin(), view->curve.end(), [&](const auto& a, const auto& b) {
        return std::abs(a.plan.cap->value() - rate->value()) < std::abs(b.plan.cap->value() - rate->value());
    });
}

std::vector<Stage> powerStages() {
    return {stage("power", {},
                  {use<CapView>(), use<BaselineRuns>(), use<CheckRuns>(), useOf<RunFrames, BaselineRuns>(),
                   useOf<RunFrames, CheckRuns>()},
                  powerView)};
}

} // namespace impasto::results
