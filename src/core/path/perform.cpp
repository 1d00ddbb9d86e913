// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/path/perform.h>

#include <impasto/base/random.h>
#include <impasto/limits/tested.h>

namespace impasto::path {
namespace {

using document::Session;
using results::Results;

run::Order makeOrder(const Session& session, std::size_t index, run::Purpose purpose, run::Variant variant,
                     const IdSource& ids) {
    run::Order order;
    order.id = {ids()};
    order.variant = std::move(variant);
    if (session.machine() != nullptr) order.machine = session.machine()->name;
    if (session.game() != nullptr) order.game = session.game()->name;
    order.route = session.edits->subject.route;
    order.seconds = session.route() == nullptr ? 60 : session.route()->seconds();
    order.purpose = purpose;
    order.conditions = session.edits->subject.state.conditions;
    if (purpose != run::Purpose::WarmUp) order.conditions.driverUpdated = false; // the first run alone
    const bool proof = purpose == run::Purpose::ProofBefore || purpose == run::Purpose::ProofAfter;
    if (proof) order.conditions.warmUpSeconds = std::max(order.conditions.warmUpSeconds, settlingSeconds(session));
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
        out.assign(step.runs, {run::Purpose::WarmUp, baseline});
        break;
    case Action::RecordBaseline:
        out.assign(step.runs, {run::Purpose::Baseline, baseline});
        break;
    case Action::RecordCosts: {
        run::Variant v = baseline;
        v.values = *r.get<results::NextRun>()->values;
        out.push_back({run::Purpose::Cost, std::move(v)});
        break;
    }
    case Action::RecordCheck:
        out.assign(step.runs, {run::Purpose::Check, *session.chosenVariant(false)});
        break;
    case Action::RecordProof: {
        // In turn, starting with the side that has fewer.
        const auto* proof = r.get<proof::Proof>();
        std::size_t before = proof == nullptr ? 0 : proof->before, after = proof == nullptr ? 0 : proof->after;
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

/// What a deciding run is played with; nothing where this machine or game has no such change to make, or the change is
/// to a level that cannot be set.
std::optional<limits::TestPlan> decidingPlan(const Session& session, limits::DecidingTest test) {
    const auto usual = session.baselineVariant();
    auto plan = limits::planOf(test, usual, session.edits->subject.state.conditions, session.machine(), session.game());
    if (!plan) return plan;
    const auto changed = cost::changedLevels(usual.values, plan->variant.values);
    const bool barred = std::any_of(changed.begin(), changed.end(), [&](const cost::LevelKey& key) {
        return session.edits->settings.cannot.contains({key.setting, key.level});
    });
    return barred ? std::nullopt : plan;
}

} // namespace

std::vector<run::Order> openOrders(const Session& session) {
    std::vector<run::Order> out;
    for (const auto& order : session.facts->orders)
        if (session.wantedNow(order) && !session.answered(order) &&
            (order.purpose != run::Purpose::Test || results::decidedBy(session, order)))
            out.push_back(order);
    return out;
}

std::vector<run::Order> ordersFor(const Session& session, const Results& r, const NextStep& step, const IdSource& ids) {
    std::vector<run::Order> open = openOrders(session), out;
    std::size_t index = session.facts->orders.size();
    for (auto& want : wantedRuns(session, r, step)) {
        // A test run that waits is made first: it tells, whatever else would tell more by now.
        const auto fits = [&](const run::Order& o) {
            return o.purpose == want.purpose && (o.variant == want.variant || o.purpose == run::Purpose::Cost) &&
                   o.route == session.edits->subject.route;
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

run::Order testOrder(const Session& session, game::Values values, const IdSource& ids) {
    run::Variant variant = session.baselineVariant();
    variant.values = std::move(values);
    return makeOrder(session, session.facts->orders.size(), run::Purpose::Cost, std::move(variant), ids);
}

std::optional<run::Order> decidingOrder(const Session& session, limits::DecidingTest test, const IdSource& ids) {
    const auto plan = decidingPlan(session, test);
    if (!plan) return std::nullopt;
    // The same once more, or without a cap that nobody told: a baseline run that counts like the others.
    const bool again = plan->variant == session.baselineVariant() &&
                       run::comparable(plan->conditions, session.edits->subject.state.conditions);
    for (const auto& order : openOrders(session))
        if (again ? order.purpose == run::Purpose::Baseline : results::decidedBy(session, order) == test) return order;
    auto order = makeOrder(session, session.facts->orders.size(), again ? run::Purpose::Baseline : run::Purpose::Test,
                           plan->variant, ids);
    order.conditions = plan->conditions;
    order.conditions.driverUpdated = false;
    return order;
}

std::vector<limits::DecidingTest> offeredTests(const Session& session, const Results& results) {
    constexpr double worthARun = 0.3; // how sure a suspicion is
    std::vector<limits::DecidingTest> out;
    const auto offer = [&](const limits::PartVerdict& v, limits::DecidingTest test) {
        const auto answered = [&](const limits::Tested& t) {
            return t.test == test && t.answer != limits::Answer::Unclear;
        };
        if (std::any_of(v.tested.begin(), v.tested.end(), answered) ||
            std::find(out.begin(), out.end(), test) != out.end())
            return;
        if (decidingPlan(session, test)) out.push_back(test);
    };
    const auto& verdicts = results::verdictsOf(results);
    for (const auto& v : verdicts) offer(v, v.test());
    for (const auto& v : verdicts)
        for (const auto& s : v.suspicions)
            if (s.sure >= worthARun) offer(v, limits::testOf(s.cause));
    for (const auto& v : verdicts)
        if (v.brake == limits::Brake::Gpu || v.brake == limits::Brake::Cpu)
            offer(v, limits::DecidingTest::LowerResolution);
    return out;
}

pace::CapOffer capToTake(const Session& session, const Results& r) {
    if (const auto* best = results::bestGeneration(r)) return {pace::CapSchool::Generation, best->plan};
    if (const auto* caps = r.get<results::CapView>(); caps != nullptr && !caps->offers.empty())
        return caps->offers.front();
    const auto& brief = *session.edits->goal.brief;
    pace::CapOffer offer;
    offer.school = pace::CapSchool::Target;
    offer.plan = pace::planFor(brief.target, session.panel(), brief.style, pace::CapRules{}.limiterErrorMs);
    return offer;
}

Result<Performed> perform(document::SessionStore& store, const Results& r, const NextStep& step, const IdSource& ids,
                          const Clock& clock) {
    const Session& session = store.session();
    const auto edited = [&](const document::Edit& edit) -> Result<Performed> {
        if (const auto done = store.apply(edit); !done) return tl::unexpected(done.error());
        return Performed{};
    };
    const auto& standing = results::standingOf(r);
    switch (step.action) {
    case Action::Begin:
    case Action::SayGame:
        return fail(ErrorCode::LacksGame);
    case Action::SayMachine:
        return fail(ErrorCode::LacksMachine);
    case Action::SayBrief:
        if (step.reason == Reason::NothingFits) return fail(ErrorCode::NothingFits);
        return fail(ErrorCode::LacksBrief);
    case Action::SayStart:
        return edited(document::askStart(false));
    case Action::LeaveOutRun:
        return edited(document::leaveOut(*step.run, document::LeftOut::Odd));
    case Action::AcceptChoice:
        return edited(document::acceptChoice({results::proposalOf(r)->values, false, standing.ofChoice()}));
    case Action::ChooseCap: {
        const auto offer = capToTake(session, r);
        return edited(document::chooseCap({offer.school, offer.plan, standing.ofCap()}));
    }
    case Action::LowerTarget:
        return edited(document::setTarget(*step.target));
    case Action::KeepResult: {
        const auto* proof = r.get<proof::Proof>();
        document::KeptResult kept{clock().time_since_epoch().count(), standing.ofKept()};
        if (proof != nullptr) {
            kept.met = proof->met();
            kept.goals = proof->wishes.size();
            kept.open = proof->open();
        }
        return edited(document::keepResult(kept));
    }
    case Action::Done:
        return Performed{};
    default:
        break;
    }
    Performed performed{ordersFor(session, r, step, ids)};
    std::vector<run::Order> fresh;
    for (const auto& order : performed.toRecord)
        if (session.facts->order(order.id) == nullptr) fresh.push_back(order);
    store.addOrders(std::move(fresh));
    return performed;
}

} // namespace impasto::path
