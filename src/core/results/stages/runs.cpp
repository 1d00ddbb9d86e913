// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/runs.h>

#include <impasto/base/fingerprint.h>
#include <impasto/capture/parts.h>
#include <impasto/limits/tested.h>

#include "kept.h"

namespace impasto::results {
namespace {

using document::Session;

/// Runs whose order, or its absence, is as wished.
template <class List>
std::shared_ptr<const List> listOf(const Session& session,
                                   const std::function<bool(const run::Run&, const run::Order*)>& wanted,
                                   bool (Session::*counts)(const run::Run&) const = &Session::counts) {
    List out;
    for (const auto& run : session.facts->runs) {
        const auto* order = session.orderOf(run);
        // What was measured before a driver was updated is not compared with what comes after.
        if (order != nullptr && order->conditions.driverUpdated && session.shown(run) && session.onThisMachine(*order))
            out.ids.clear();
        if (!(session.*counts)(run)) continue;
        const bool here = order == nullptr || (order->route == session.edits->subject.route &&
                                               session.onThisMachine(*order) && session.inThisState(*order));
        if (here && wanted(run, order)) out.ids.push_back(run.id);
    }
    return std::make_shared<const List>(std::move(out));
}

Maybe<ShownRuns> shown(const Inputs& in, const Context&) {
    ShownRuns out;
    const auto& session = in.session({Part::Runs});
    for (const auto& run : session.facts->runs)
        if (run.capture && run.capture->frames() > 0 && session.shown(run)) out.ids.push_back(run.id);
    return std::make_shared<const ShownRuns>(std::move(out));
}

Maybe<BaselineRuns> baseline(const Inputs& in, const Context&) {
    const auto& session =
        in.session({Part::Runs, Part::Answers, Part::Route, Part::Machine, Part::State, Part::Target, Part::Baseline});
    const auto variant = session.baselineVariant();
    // A dropped log counts as a run of the baseline, and so does a warm-up that was counted by hand. Frame times of
    // unlike kinds are never taken together: those of the first run's kind stand.
    std::optional<capture::IntervalKind> kind;
    return listOf<BaselineRuns>(session, [&](const run::Run& run, const run::Order* order) {
        if (!session.variantName(run).empty()) return false;
        const bool mine =
            order == nullptr || ((order->purpose == run::Purpose::Baseline || order->purpose == run::Purpose::WarmUp) &&
                                 order->variant == variant);
        if (!mine) return false;
        if (!kind) kind = run.capture->kind;
        return capture::alike(*kind, run.capture->kind);
    });
}

Maybe<CostRuns> cost(const Inputs& in, const Context&) {
    const auto& session =
        in.session({Part::Runs, Part::Answers, Part::Route, Part::Machine, Part::State, Part::Target, Part::Baseline});
    const auto variant = session.baselineVariant();
    return listOf<CostRuns>(session, [&](const run::Run&, const run::Order* order) {
        return order != nullptr && order->purpose == run::Purpose::Cost &&
               order->variant.resolution == variant.resolution;
    });
}

Maybe<AfterRuns> after(const Inputs& in, const Context&) {
    const auto& session =
        in.session({Part::Runs, Part::Answers, Part::Route, Part::Machine, Part::State, Part::Target, Part::Baseline});
    const auto resolution = session.baselineVariant().resolution;
    return listOf<AfterRuns>(session, [&](const run::Run&, const run::Order* order) {
        return order != nullptr && order->purpose == run::Purpose::ProofAfter &&
               order->variant.resolution == resolution;
    });
}

template <class List>
std::shared_ptr<const List> checks(const Inputs& in, bool ofThisChoice,
                                   bool (Session::*counts)(const run::Run&) const = &Session::counts) {
    const auto& session = in.session({Part::Runs, Part::Answers, Part::Route, Part::Machine, Part::State, Part::Target,
                                      Part::Baseline, Part::Choice});
    const auto resolution = session.baselineVariant().resolution;
    const auto chosen = session.chosenVariant(false);
    return listOf<List>(
        session,
        [&](const run::Run&, const run::Order* order) {
            if (order == nullptr || order->purpose != run::Purpose::Check) return false;
            const bool current = chosen && order->variant == *chosen;
            return ofThisChoice ? current : !current && order->variant.resolution == resolution;
        },
        counts);
}

Maybe<CheckRuns> checked(const Inputs& in, const Context&) {
    return checks<CheckRuns>(in, true);
}
Maybe<EarlierChecks> earlier(const Inputs& in, const Context&) {
    return checks<EarlierChecks>(in, false);
}

Maybe<ReadBaseline> readBaseline(const Inputs& in, const Context&) {
    const auto& session =
        in.session({Part::Runs, Part::Answers, Part::Route, Part::Machine, Part::State, Part::Target, Part::Baseline});
    const auto variant = session.baselineVariant();
    return listOf<ReadBaseline>(
        session,
        [&](const run::Run&, const run::Order* order) {
            return order == nullptr || (order->purpose == run::Purpose::Baseline && order->variant == variant);
        },
        &Session::readOff);
}

Maybe<ReadCosts> readCosts(const Inputs& in, const Context&) {
    const auto& session =
        in.session({Part::Runs, Part::Answers, Part::Route, Part::Machine, Part::State, Part::Target, Part::Baseline});
    const auto resolution = session.baselineVariant().resolution;
    return listOf<ReadCosts>(
        session,
        [&](const run::Run&, const run::Order* order) {
            return order != nullptr && order->purpose == run::Purpose::Cost && order->variant.resolution == resolution;
        },
        &Session::readOff);
}

/// A run of the proof's, on either side.
bool ofProof(const Session& session, const run::Order* order) {
    if (order == nullptr) return false;
    if (order->purpose == run::Purpose::ProofBefore) return order->variant == session.baselineVariant();
    const auto after = session.chosenVariant(true);
    return order->purpose == run::Purpose::ProofAfter && after && order->variant == *after;
}

Maybe<ReadChecks> readChecks(const Inputs& in, const Context&) {
    return checks<ReadChecks>(in, true, &Session::readOff);
}
Maybe<ReadEarlier> readEarlier(const Inputs& in, const Context&) {
    return checks<ReadEarlier>(in, false, &Session::readOff);
}

Maybe<ProofRuns> proof(const Inputs& in, const Context&) {
    const auto& session = in.session({Part::Runs, Part::Answers, Part::Route, Part::Machine, Part::State, Part::Target,
                                      Part::Baseline, Part::Choice, Part::Cap});
    return listOf<ProofRuns>(session,
                             [&](const run::Run&, const run::Order* order) { return ofProof(session, order); });
}

Maybe<ReadProofs> readProofs(const Inputs& in, const Context&) {
    const auto& session = in.session({Part::Runs, Part::Answers, Part::Route, Part::Machine, Part::State, Part::Target,
                                      Part::Baseline, Part::Choice, Part::Cap});
    return listOf<ReadProofs>(
        session, [&](const run::Run&, const run::Order* order) { return ofProof(session, order); }, &Session::readOff);
}

/// They are played in another state, or with another setting, on purpose.
Maybe<DecidingRuns> deciding(const Inputs& in, const Context&) {
    const auto& session = in.session(
        {Part::Runs, Part::Answers, Part::Route, Part::Machine, Part::State, Part::Target, Part::Baseline, Part::Game});
    DecidingRuns out;
    for (const auto& run : session.facts->runs) {
        const auto* order = session.orderOf(run);
        if (order != nullptr && session.counts(run) && order->route == session.edits->subject.route &&
            session.onThisMachine(*order) && decidedBy(session, *order))
            out.ids.push_back(run.id);
    }
    return std::make_shared<const DecidingRuns>(std::move(out));
}

std::vector<capture::PartMark> marksFor(const Inputs& in, const capture::Capture& recorded) {
    const auto& named = in.partColumn();
    for (const auto& column : recorded.others)
        if (!named.empty() && column.name == named) return capture::marksByColumn(column);
    std::vector<capture::NamedSeconds> parts;
    if (const auto* route = in.route())
        for (const auto& part : route->parts) parts.push_back({part.name, part.seconds});
    return recorded.marks.empty() ? capture::marksByTime(recorded, parts) : std::vector<capture::PartMark>();
}

Maybe<RunParts> partsOfRun(const Inputs& in, const Context&) {
    auto recorded = in.runOf(in.run()).capture;
    auto marks = marksFor(in, *recorded);
    if (marks.empty()) return std::make_shared<const RunParts>(RunParts{std::move(recorded), true});
    capture::Capture marked = *recorded;
    marked.marks = std::move(marks);
    return std::make_shared<const RunParts>(
        RunParts{std::make_shared<const capture::Capture>(std::move(marked)), false});
}

Maybe<RunFrames> framesOf(const Inputs& in, const Context&) {
    const auto whole = in.of<RunParts>(in.run())->capture;
    const auto trims = in.trimsOf(in.run());
    if (trims.empty()) return std::make_shared<const RunFrames>(RunFrames{whole, false});
    auto rest = std::make_shared<const capture::Capture>(capture::without(*whole, trims));
    if (rest->frames() == 0) return std::make_shared<const RunFrames>(RunFrames{whole, false}); // nothing is left
    return std::make_shared<const RunFrames>(RunFrames{std::move(rest), true});
}

Maybe<RunShape> shapeOf(const Inputs& in, const Context& context) {
    const auto whole = in.of<RunParts>(in.run())->capture;
    auto seconds = frames::secondsOf(whole->framesMs);
    if (context.cancelled()) return fail(ErrorCode::Cancelled);
    return std::make_shared<const RunShape>(
        RunShape{whole, capture::Pyramid(whole->framesMs), std::move(seconds), frames::pollutionOf(*whole)});
}

Maybe<ExpectedCuts> expectedCuts(const Inputs& in, const Context&) {
    ExpectedCuts out;
    std::vector<std::vector<capture::Span>> proposed;
    for (const auto& id : in.get<ShownRuns>()->ids) {
        const auto* order = in.orderOf(id);
        if (order != nullptr && in.route() != nullptr && order->route != in.route()->name)
            out.elsewhere.push_back(id);
        else if (const auto* shape = in.of<RunShape>(id))
            proposed.push_back(shape->pollution);
    }
    out.ends = frames::expectedIn(proposed);
    return std::make_shared<const ExpectedCuts>(std::move(out));
}

Maybe<RunCuts> cutsOf(const Inputs& in, const Context&) {
    const auto* shape = in.of<RunShape>(in.run());
    const auto* expected = in.get<ExpectedCuts>();
    if (shape == nullptr) return std::shared_ptr<const RunCuts>();
    const auto elsewhere = [&] {
        return std::find(expected->elsewhere.begin(), expected->elsewhere.end(), in.run()) != expected->elsewhere.end();
    };
    if (expected == nullptr || expected->ends == frames::Ends() || elsewhere())
        return std::make_shared<const RunCuts>(RunCuts{shape->pollution});
    return std::make_shared<const RunCuts>(RunCuts{frames::pollutionOf(*shape->whole, expected->ends)});
}

/// Asked between pieces, so that the figures of a run of a million frames can be stopped within a tenth of a second.
Maybe<RunFigures> figuresOf(const Inputs& in, const Context& context) {
    const auto* frames = in.of<RunFrames>(in.run());
    auto shape = in.sharedOf<RunShape>(in.run());
    if (frames == nullptr || !shape) return std::shared_ptr<const RunFigures>();
    const auto& capture = *frames->capture;
    const auto target = in.target();
    const auto* order = in.orderOf(in.run());
    const auto onTime = target ? std::optional(frames::onTimeOf(target->rate, target->tolerance, in.panel(),
                                                                order == nullptr ? nullptr : &order->variant))
                               : std::nullopt;
    const auto ranges = capture::partsOf(capture);
    auto summary = frames::summarize(capture.framesMs, onTime, in.hitchRule(), ranges);
    if (context.cancelled()) return fail(ErrorCode::Cancelled);
    auto parts =
        frames::partMeans(capture, frames::pacedMsOf(in.panel(), order == nullptr ? nullptr : &order->variant));
    auto held = onTime ? frames::heldParts(capture, *onTime) : std::vector<frames::PartHeld>();
    if (context.cancelled()) return fail(ErrorCode::Cancelled);
    auto examined = frames::examine(capture);
    if (context.cancelled()) return fail(ErrorCode::Cancelled);
    return std::make_shared<const RunFigures>(
        RunFigures{in.run(), std::move(*summary), std::move(parts), std::move(held), std::move(examined),
                   frames::Distribution(capture.framesMs), frames::measuredOf(capture), std::move(shape)});
}

} // namespace

std::optional<limits::DecidingTest> decidedBy(const Session& session, const run::Order& order) {
    if (order.purpose != run::Purpose::Test) return std::nullopt;
    return limits::testIn(order, session.baselineVariant(), session.edits->subject.state.conditions, session.machine(),
                          session.game());
}

std::uint64_t markOf(const std::vector<RunId>& ids) {
    Fingerprint f;
    for (const auto& id : ids) f.add(id.hex());
    return f.value();
}

std::optional<std::uint64_t> contentOf(const ExpectedCuts& cuts) {
    return Fingerprint()
        .add(std::uint64_t{cuts.ends.begin})
        .add(std::uint64_t{cuts.ends.end})
        .add(markOf(cuts.elsewhere))
        .value();
}

std::size_t bytesOf(const RunParts& parts) {
    return parts.own ? 0 : capture::bytesOf(*parts.capture); // else it is the fact's
}

std::optional<std::uint64_t> contentOf(const RunParts& parts) {
    Fingerprint f;
    for (const auto& mark : parts.capture->marks) f.add(mark.part).add(std::uint64_t{mark.firstFrame});
    return f.value();
}

std::size_t bytesOf(const RunFrames& frames) {
    return frames.trimmed ? capture::bytesOf(*frames.capture) : 0; // else it is the fact's
}

std::size_t bytesOf(const RunShape& shape) {
    return shape.whole->frames() / 2 + shape.seconds.size() * sizeof(frames::Second);
}

std::size_t bytesOf(const RunFigures& figures) {
    return sizeof(RunFigures) + figures.summary.hitches.size() * sizeof(frames::Hitch) + frames::Distribution::bytes();
}

std::optional<frames::Summary> spanSummary(const Session& session, const RunId& id, capture::Span span) {
    const auto* run = session.facts->run(id);
    if (run == nullptr || !run->capture) return std::nullopt;
    const auto trims = session.trimsOf(id);
    std::vector<double> inside;
    double at = 0;
    for (const double ms : run->capture->framesMs) {
        at += ms;
        if (at > span.toMs) break;
        const auto holds = [at](const capture::Span& t) { return at > t.fromMs && at <= t.toMs; };
        if (at >= span.fromMs && std::none_of(trims.begin(), trims.end(), holds)) inside.push_back(ms);
    }
    const auto& brief = session.edits->goal.brief;
    const auto* order = session.orderOf(*run);
    const auto* variant = order == nullptr ? nullptr : &order->variant;
    return frames::summarize(
        inside,
        brief ? std::optional(frames::onTimeOf(brief->target, brief->tolerated(), session.panel(), variant))
              : std::nullopt,
        session.edits->runs.hitchRule);
}

std::vector<Stage> runStages() {
    const std::vector<Part> start{Part::Runs,  Part::Answers, Part::Route,   Part::Machine,
                                  Part::State, Part::Target,  Part::Baseline};
    const auto with = [&start](std::initializer_list<Part> more) {
        auto all = start;
        all.insert(all.end(), more);
        return all;
    };
    return {
        stage("shown runs", {Part::Runs}, {}, shown),
        stage("baseline runs", start, {}, baseline),
        stage("cost runs", start, {}, cost),
        stage("runs after", start, {}, after),
        stage("check runs", with({Part::Choice}), {}, checked),
        stage("earlier checks", with({Part::Choice}), {}, earlier),
        stage("proof runs", with({Part::Choice, Part::Cap}), {}, proof),
        stage("baseline read off", start, {}, readBaseline),
        stage("costs read off", start, {}, readCosts),
        stage("checks read off", with({Part::Choice}), {}, readChecks),
        stage("earlier checks read off", with({Part::Choice}), {}, readEarlier),
        stage("proofs read off", with({Part::Choice, Part::Cap}), {}, readProofs),
        stage("deciding runs", with({Part::Game}), {}, deciding),
        stage("parts of a run", {Part::Game, Part::Route, Part::PartColumn}, {}, partsOfRun, typeid(ShownRuns)),
        stage("frames of a run", {Part::Trims}, {use<RunParts>()}, framesOf, typeid(ShownRuns)),
        keptStage(stage("shape of a run", {}, {use<RunParts>()}, shapeOf, typeid(ShownRuns)), packShape, unpackShape),
        stage("expected cuts", {Part::Answers, Part::Game, Part::Route},
              {use<ShownRuns>(), useOf<RunShape, ShownRuns>()}, expectedCuts),
        stage("cuts of a run", {}, {use<ExpectedCuts>(), use<RunShape>()}, cutsOf, typeid(ShownRuns)),
        keptStage(stage("figures of a run", {Part::Answers, Part::Target, Part::HitchRule, Part::Machine},
                        {use<RunFrames>(), use<RunShape>()}, figuresOf, typeid(ShownRuns)),
                  packFigures, unpackFigures)};
}

} // namespace impasto::results
