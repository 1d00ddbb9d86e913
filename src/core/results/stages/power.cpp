// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/costs.h>
#include <impasto/results/limits.h>
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

/// What a frame of the set takes of CPU or GPU, whichever is longer, over the time of the route.
double workOf(const choose::Chooser& chooser, const std::vector<limits::PartVerdict>& route, const cost::Set& set) {
    const auto& belief = chooser.belief();
    double sum = 0, seconds = 0;
    for (std::size_t p = 0; p < belief.layout().parts.size(); ++p) {
        double longest = 0;
        for (std::size_t k = 0; k < belief.resources().size(); ++k)
            if (belief.resources()[k] != cost::Resource::GpuMemory)
                longest = std::max(longest, chooser.takes(k, p, set).mean);
        const auto part =
            std::find_if(route.begin(), route.end(), [&](const auto& v) { return v.part == belief.layout().parts[p]; });
        const double lasts = part == route.end() ? 0 : part->seconds;
        sum += lasts * longest;
        seconds += lasts;
    }
    return seconds > 0 ? sum / seconds : 0;
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

std::optional<pace::Draws> drawsOf(const Results& results, const game::Values& values, Fps cap,
                                   const pace::PowerRules& rules) {
    const auto* limits = results.get<Limits>();
    const auto ground = groundOf(results);
    if (limits == nullptr || !limits->power || !ground) return std::nullopt;
    const auto& belief = ground->belief();
    const auto set = belief.layout().setOf(values), now = belief.layout().setOf(ground->baseline);
    if (!set || !now) return std::nullopt;
    const double work = workOf(*ground->chooser, limits->parts, *set),
                 usual = workOf(*ground->chooser, limits->parts, *now);
    if (!(work > 0) || !(usual > 0)) return std::nullopt;
    const Fps alike = cap * (work / usual), free = limits->power->uncapped().rate; // of the settings in use
    return pace::drawsAt(*limits->power, std::min(alike, free), rules);
}

std::vector<Stage> powerStages() {
    return {stage("power", {},
                  {use<CapView>(), use<BaselineRuns>(), use<CheckRuns>(), useOf<RunFrames, BaselineRuns>(),
                   useOf<RunFrames, CheckRuns>()},
                  powerView)};
}

} // namespace impasto::results
