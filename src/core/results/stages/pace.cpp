// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/parts.h>
#include <impasto/game/size.h>
#include <impasto/pace/generate.h>
#include <impasto/proof/proof.h>
#include <impasto/results/pace.h>

namespace impasto::results {
namespace {

/// Mean GPU work of a recording; nothing where it is not told.
std::optional<double> gpuWork(const capture::Capture& capture) {
    double ms = 0;
    std::size_t frames = 0;
    for (const auto& part : frames::partMeans(capture)) {
        if (!part.gpuMs) return std::nullopt;
        ms += *part.gpuMs * static_cast<double>(part.frames);
        frames += part.frames;
    }
    return frames > 0 ? std::optional(ms / static_cast<double>(frames)) : std::nullopt;
}

/// What inventing frames takes: as is usual, until a proof with it on the GPU that renders measured it.
pace::GenerationCosts generationCosts(const Inputs& in, const pace::Replay& replay, const run::Variant& variant) {
    const auto* game = in.game();
    const auto said = game == nullptr ? std::nullopt : game::outputOf(*game, variant.values);
    const auto output = said                             ? *said
                        : variant.resolution.widthPx > 0 ? variant.resolution
                        : replay.panel                   ? replay.panel->native
                                                         : display::Resolution{1920, 1080};
    auto costs = pace::usualCosts(output, in.machine());
    if (!replay.lanes || !replay.cpuTold) return costs;
    for (const auto& id : in.get<AfterRuns>()->ids) {
        const auto& with = in.orderOf(id)->variant;
        if (costs.measured || !with.generation || with.values != variant.values) continue;
        if (const auto work = gpuWork(*in.of<RunFrames>(id)->capture))
            costs = pace::measuredCosts(costs, *with.generation, *work, replay.runs.front().gpu.meanMs);
    }
    return costs;
}

/// What a run was paced by; `usual`: where the limiter is while measuring.
pace::CapPlan planOf(const run::Variant& variant, run::LimiterPlace usual) {
    pace::CapPlan plan{variant.cap, variant.sync, variant.refresh, variant.generation};
    if (variant.cap && variant.limiter != usual) plan.limiter = variant.limiter;
    return plan;
}

/// Caps that were proven with the same settings.
void learnProofs(const Inputs& in, pace::Replay& replay, const game::Values& values) {
    struct Proven {
        pace::CapPlan plan;
        pace::Figures mean;
        std::size_t runs = 0;
    };
    std::vector<Proven> all;
    std::vector<double> late; // by run
    for (const auto& id : in.get<AfterRuns>()->ids) {
        const auto& variant = in.orderOf(id)->variant;
        if (variant.values != values || variant.generation) continue;
        const auto plan = planOf(variant, replay.limiter);
        // Above what the panel or the frames reach, something else holds them.
        const bool limited = plan.cap && *plan.cap < replay.average() &&
                             !pace::conflictOf(plan, replay.panel, in.capRules().limiterErrorMs);
        if (const auto ms = pace::limiterLateness(*in.of<RunFrames>(id)->capture, plan); ms && limited && !plan.limiter)
            late.push_back(*ms);
        const auto figures = pace::figuresOf(*in.of<RunFrames>(id)->capture, plan, replay.panel, replay.brief);
        if (!figures) continue;
        auto it = std::find_if(all.begin(), all.end(), [&](const Proven& p) { return p.plan == plan; });
        if (it == all.end()) it = all.insert(all.end(), {plan, {}, 0});
        ++it->runs;
        for (const auto figure : pace::allFigures)
            it->mean.of(figure) += (figures->of(figure) - it->mean.of(figure)) / static_cast<double>(it->runs);
    }
    if (const auto mean = stats::finiteMean(late); mean && late.size() >= proof::firstLook)
        pace::setLateness(replay, *mean);
    for (const auto& [plan, mean, runs] : all)
        if (runs >= proof::firstLook) pace::learn(replay, plan, mean);
}

void addProven(const Inputs& in, pace::Power& power, const game::Values& values, run::LimiterPlace usual) {
    std::vector<std::pair<pace::CapPlan, std::vector<pace::Drawn>>> all;
    for (const auto& id : in.get<AfterRuns>()->ids) {
        const auto& variant = in.orderOf(id)->variant;
        if (variant.values != values) continue;
        const auto drawn = pace::drawnIn(*in.of<RunFrames>(id)->capture);
        if (!drawn || drawn->of != power.uncapped().of) continue;
        const auto plan = planOf(variant, usual);
        auto it = std::find_if(all.begin(), all.end(), [&](const auto& each) { return each.first == plan; });
        if (it == all.end()) it = all.insert(all.end(), {plan, {}});
        it->second.push_back(*drawn);
    }
    for (const auto& [plan, drawn] : all) power.points.push_back({plan, *pace::meanOf(drawn)});
}

/// What the values drew without a cap, and with those that were proven; nothing where their runs tell none.
std::optional<pace::Power> powerOf(const Inputs& in, const pace::Replay& replay, const game::Values& values) {
    std::vector<std::shared_ptr<const capture::Capture>> uncapped;
    for (const auto& id : in.get<CheckRuns>()->ids) uncapped.push_back(in.of<RunFrames>(id)->capture);
    auto power = pace::uncappedPower(uncapped, replay.clocks, pace::batteryOf(in.machine()));
    if (power) addProven(in, *power, values, replay.limiter);
    return power;
}

Maybe<CapView> capView(const Inputs& in, const Context& context) {
    const auto& ids = in.get<CheckRuns>()->ids;
    const auto& brief = in.brief();
    if (ids.empty() || !brief) return std::shared_ptr<const CapView>();
    std::vector<pace::UncappedRun> runs;
    for (const auto& id : ids) runs.push_back({in.of<RunFrames>(id)->capture.get(), in.orderOf(id)->variant});
    const auto& order = *in.orderOf(ids.back());
    auto replay =
        pace::replayOf(runs, in.panel(), *brief, pace::clocksOf(*runs.back().capture, order.conditions, brief->style));
    if (!replay) return std::shared_ptr<const CapView>();
    learnProofs(in, *replay, order.variant.values);
    replay->generation = generationCosts(in, *replay, order.variant);
    auto power = powerOf(in, *replay, order.variant.values);
    CapView view{std::move(*replay), ids.back(), std::move(power), {}, {}, {}};
    auto offers = pace::offers(view.replay, in.capRules(), context, view.power);
    view.offers = std::move(offers.all);
    view.gain = offers.gain;
    const double average = view.replay.average().value();
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
        own.offer = pace::ownOffer(view->replay, cap->plan, in.capRules(), view->power);
    if (view != nullptr && cap) own.invented = pace::ownGeneration(view->replay, cap->plan);
    return std::make_shared<const OwnCap>(std::move(own));
}

} // namespace

const pace::CapOffer* otherCap(const CapView& caps) {
    constexpr std::size_t most = 4;
    const bool any = !caps.offers.empty() && caps.gain && *caps.gain > pace::worthAProof &&
                     caps.replay.proven.size() < most && caps.offers.front().held && !caps.offers.front().measured;
    return any ? &caps.offers.front() : nullptr;
}

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
    std::size_t frames = 0;
    for (const auto& run : view.replay.runs) frames += run.frameMs.size();
    return 4 * sizeof(double) * frames + (view.offers.size() + view.curve.size()) * sizeof(pace::CapOffer);
}

std::vector<Stage> paceStages() {
    return {stage("caps",
                  {Part::Answers, Part::Machine, Part::Game, Part::Target, Part::LowRule, Part::Wishes, Part::CapRules},
                  {use<CheckRuns>(), use<AfterRuns>(), useOf<RunFrames, CheckRuns>(), useOf<RunFrames, AfterRuns>()},
                  capView),
            stage("own cap", {Part::Cap, Part::CapRules}, {use<CapView>()}, ownCap)};
}

} // namespace impasto::results
