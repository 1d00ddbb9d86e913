// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/session/next_step.h>

#include <impasto/base/random.h>
#include <set>

namespace impasto::session {
namespace {

constexpr std::size_t baselineWanted = 4;
constexpr std::size_t checkWanted = 2;
constexpr std::size_t earlierChecksMost = 8; // after so many check runs of earlier choices the proof decides
constexpr std::size_t proofWantedASide = 3;
constexpr std::size_t proofMostASide = 6;

double minutesFor(const Session& session, std::size_t runs) {
    const auto* route = session.route();
    return static_cast<double>(runs) * (route == nullptr ? 60 : route->seconds()) / 60;
}

NextStep recording(const Session& session, Action action, Reason reason, std::size_t runs, Stale stale = {}) {
    return {action, reason, runs, minutesFor(session, runs), std::move(stale)};
}

bool warmUpMade(const Session& session) {
    if (session.edits->rig == RigKind::Hand) {
        // Logs that were dropped before stand for a game that runs already.
        return !session.facts->runs.empty();
    }
    return std::any_of(session.facts->runs.begin(), session.facts->runs.end(), [&](const run::Run& run) {
        const auto* order = session.facts->orderOf(run);
        return order != nullptr && session.ofThisPair(*order);
    });
}

std::optional<NextStep> proofStep(const Session& session, const Results& r) {
    const std::size_t before = r.proof ? r.proof->before : 0, after = r.proof ? r.proof->after : 0;
    const auto missing = [](std::size_t have, std::size_t want) { return have < want ? want - have : 0; };
    const std::size_t first = missing(before, proofWantedASide) + missing(after, proofWantedASide);
    if (first > 0) return recording(session, Action::RecordProof, Reason::NeedProof, first);
    const bool open = std::any_of(r.proof->wishes.begin(), r.proof->wishes.end(),
                                  [](const WishOutcome& w) { return w.state == WishState::NotEnoughRuns; });
    if (open && after < proofMostASide) return recording(session, Action::RecordProof, Reason::ProofOpen, 2);
    return std::nullopt;
}

NextStep decisionStep(const Session& session, const Results& r) {
    const Edits& e = *session.edits;
    if (!r.proposal) {
        if (r.proposalError && !e.choice) return {Action::SayBrief, Reason::NothingFits, 0, 0, {}};
        if (!e.choice) return recording(session, Action::RecordBaseline, Reason::NeedRepeats, 1);
    }
    if (!e.choice) return {Action::AcceptChoice, Reason::ProposalReady, 0, 0, {}};
    if (!r.choiceStale.empty() && r.proposal) return {Action::AcceptChoice, Reason::ChoiceStale, 0, 0, r.choiceStale};
    if (r.checkRuns.size() < checkWanted)
        return recording(session, Action::RecordCheck, Reason::NeedFrames, checkWanted - r.checkRuns.size());
    const bool better = r.check && !r.check->holds && r.earlierChecks.size() < earlierChecksMost && r.proposal &&
                        r.proposal->values != e.choice->values && !e.choice->byHand;
    if (better) return {Action::AcceptChoice, Reason::CheckMissed, 0, 0, {}};
    if (!e.cap) return {Action::ChooseCap, Reason::CapReady, 0, 0, {}};
    if (!r.capStale.empty()) return {Action::ChooseCap, Reason::CapStale, 0, 0, r.capStale};
    if (auto step = proofStep(session, r)) return *step;
    if (!e.kept || !r.keptStale.empty()) return {Action::KeepResult, Reason::ProofReady, 0, 0, r.keptStale};
    return {Action::Done, Reason::AllKept, 0, 0, {}};
}

run::Order makeOrder(const Session& session, std::size_t index, run::Purpose purpose, run::Variant variant,
                     const IdSource& ids) {
    run::Order order;
    order.id = {ids()};
    order.variant = std::move(variant);
    if (session.machine() != nullptr) order.machine = session.machine()->name;
    if (session.game() != nullptr) order.game = session.game()->name;
    order.route = session.edits->route;
    order.seconds = session.route() == nullptr ? 60 : session.route()->seconds();
    order.purpose = purpose;
    order.seed = deriveSeed(session.facts->seed, fmt::format("order {}", index));
    return order;
}

struct Wanted {
    run::Purpose purpose;
    run::Variant variant;
};

std::vector<Wanted> wantedRuns(const Session& session, const Results& r, const NextStep& step) {
    std::vector<Wanted> out;
    const run::Variant baseline = session.baselineVariant();
    switch (step.action) {
    case Action::RecordWarmUp:
    case Action::RecordBaseline:
        out.assign(step.runs, {run::Purpose::Baseline, baseline});
        break;
    case Action::RecordCosts:
        for (const auto& key : r.costs->toMeasure) {
            run::Variant v = baseline;
            v.values[key.setting] = key.level;
            out.push_back({run::Purpose::Cost, std::move(v)});
        }
        break;
    case Action::RecordCheck:
        out.assign(step.runs, {run::Purpose::Check, *session.chosenVariant(false)});
        break;
    case Action::RecordProof: {
        // In turn, starting with the side that has fewer.
        std::size_t before = r.proof ? r.proof->before : 0, after = r.proof ? r.proof->after : 0;
        for (std::size_t i = 0; i < step.runs; ++i) {
            const bool isAfter = after < before;
            ++(isAfter ? after : before);
            out.push_back({isAfter ? run::Purpose::ProofAfter : run::Purpose::ProofBefore,
                           isAfter ? *session.chosenVariant(true) : baseline});
        }
        break;
    }
    default:
        break;
    }
    return out;
}

} // namespace

NextStep nextStep(const Session& session, const Results& r) {
    const Edits& e = *session.edits;
    if (session.game() == nullptr && session.machine() == nullptr && session.facts->runs.empty()) return {};
    if (!e.brief) return {Action::SayBrief, Reason::NoBrief, 0, 0, {}};
    if (session.game() == nullptr) return {Action::SayGame, Reason::NoGame, 0, 0, {}};
    if (session.machine() == nullptr) return {Action::SayMachine, Reason::NoMachine, 0, 0, {}};
    if (!warmUpMade(session)) return recording(session, Action::RecordWarmUp, Reason::ShadersFirst, 1);
    if (r.baselineRuns.size() < baselineWanted)
        return recording(session, Action::RecordBaseline, Reason::NeedRepeats, baselineWanted - r.baselineRuns.size());
    if (r.costs && !r.costs->toMeasure.empty())
        return recording(session, Action::RecordCosts, Reason::NeedCosts, r.costs->toMeasure.size());
    return decisionStep(session, r);
}

std::vector<run::Order> openOrders(const Session& session) {
    std::set<OrderId> answered;
    for (const auto& run : session.facts->runs)
        if (run.order) answered.insert(*run.order);
    std::vector<run::Order> out;
    for (const auto& order : session.facts->orders)
        if (!answered.contains(order.id) && session.onThisMachine(order)) out.push_back(order);
    return out;
}

std::vector<run::Order> ordersFor(const Session& session, const Results& results, const NextStep& step,
                                  const IdSource& ids) {
    std::vector<run::Order> open = openOrders(session), out;
    std::size_t index = session.facts->orders.size();
    for (auto& want : wantedRuns(session, results, step)) {
        const auto fits = [&](const run::Order& o) {
            return o.purpose == want.purpose && o.variant == want.variant && o.route == session.edits->route;
        };
        const auto it = std::find_if(open.begin(), open.end(), fits);
        if (it == open.end()) {
            out.push_back(makeOrder(session, index++, want.purpose, std::move(want.variant), ids));
        } else {
            out.push_back(*it);
            open.erase(it);
        }
    }
    return out;
}

Result<Performed> perform(SessionStore& store, const Results& results, const NextStep& step, const IdSource& ids,
                          const Clock& clock) {
    const Session& session = store.session();
    const auto edited = [&](const Edit& edit) -> Result<Performed> {
        if (const auto done = store.apply(edit); !done) return tl::unexpected(done.error());
        return Performed{};
    };
    switch (step.action) {
    case Action::Begin:
    case Action::SayGame:
        return fail(ErrorCode::LacksGame);
    case Action::SayMachine:
        return fail(ErrorCode::LacksMachine);
    case Action::SayBrief:
        if (step.reason == Reason::NothingFits) return fail(ErrorCode::NothingFits);
        return fail(ErrorCode::LacksBrief);
    case Action::AcceptChoice:
        return edited(acceptChoice({results.proposal->values, false, results.choiceBasis()}));
    case Action::ChooseCap: {
        const auto& offer = results.cap->offers.front();
        return edited(chooseCap({offer.school, offer.cap, results.capBasis()}));
    }
    case Action::KeepResult:
        return edited(keepResult({clock().time_since_epoch().count(), results.keptBasis()}));
    case Action::Done:
        return Performed{};
    default:
        break;
    }
    Performed performed{ordersFor(session, results, step, ids)};
    std::vector<run::Order> fresh;
    for (const auto& order : performed.toRecord)
        if (session.facts->order(order.id) == nullptr) fresh.push_back(order);
    store.addOrders(std::move(fresh));
    return performed;
}

run::Run runOf(const run::Order& order, RunId id, rig::Recording recording, const Clock& clock) {
    run::Run run;
    run.id = id;
    run.order = order.id;
    run.maker = run::Maker::SimulatedRig;
    run.interrupted = recording.cancelled || recording.crashed;
    run.rigState = rig::textOf(recording.next);
    run.made = clock();
    run.capture = std::make_shared<const capture::Capture>(std::move(recording.capture));
    return run;
}

rig::RigState rigStateOf(const Session& session) {
    rig::RigState out;
    bool machineKnown = false;
    for (auto it = session.facts->runs.rbegin(); it != session.facts->runs.rend(); ++it) {
        const auto* order = session.facts->orderOf(*it);
        if (it->rigState.empty() || (order != nullptr && !session.onThisMachine(*order))) continue;
        const auto state = rig::stateOf(it->rigState).value_or(rig::RigState{});
        // Another game leaves the machine warm; what it compiled and applied is its own.
        if (!machineKnown) out.power = state.power;
        machineKnown = true;
        if (order != nullptr && !session.ofThisPair(*order)) continue;
        out.shadersMet = state.shadersMet;
        out.applied = state.applied;
        break;
    }
    return out;
}

void attach(SessionStore& store, run::Run run) {
    const RunId id = run.id;
    const bool interrupted = run.interrupted;
    const bool answered = run.order.has_value();
    const bool warmUp = answered && !warmUpMade(store.session());
    std::vector<run::Run> runs;
    runs.push_back(std::move(run));
    store.addRuns(std::move(runs));
    if (interrupted)
        static_cast<void>(store.apply(leaveOut(id, LeftOut::Interrupted)).has_value());
    else if (warmUp)
        static_cast<void>(store.apply(leaveOut(id, LeftOut::WarmUp)).has_value());
}

Result<void> recordAll(rig::Rig& rig, std::span<const run::Order> orders, rig::RigState state, const RecordHooks& hooks,
                       const Context& context, const IdSource& ids, const Clock& clock) {
    for (std::size_t i = 0; i < orders.size(); ++i) {
        const Context part{context.stop, [&](double share) {
                               context.report((static_cast<double>(i) + share) / static_cast<double>(orders.size()));
                           }};
        const RunId id{ids()};
        if (hooks.onStart) hooks.onStart(orders[i], id);
        auto recording = rig.record(orders[i], state, hooks.onFrame, part);
        if (!recording) return tl::unexpected(recording.error());
        const bool cancelled = recording->cancelled, crashed = recording->crashed;
        state = recording->next;
        if (hooks.onRun) hooks.onRun(runOf(orders[i], id, std::move(*recording), clock));
        if (cancelled) return fail(ErrorCode::Cancelled, {}, {}, Kept::FramesUntilHere);
        if (crashed) return fail(ErrorCode::GameCrashed, {}, {}, Kept::FramesUntilHere);
    }
    return {};
}

std::optional<Error> mismatch(const run::Order& order, const capture::Capture& capture) {
    const double seconds = capture::durationMs(capture) / 1000;
    const double wanted = order.seconds;
    if (seconds >= 0.6 * wanted && seconds <= 1.6 * wanted) return std::nullopt;
    return Error{ErrorCode::OrderMismatch, fmt::format("{:.0f}/{:.0f}", seconds, wanted), {}, Kept::AllAsBefore};
}

} // namespace impasto::session
