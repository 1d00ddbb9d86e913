// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/path/next_step.h>

#include <cmath>
#include <impasto/frames/figures.h>

namespace impasto::path {
namespace {

using document::Session;
using results::Results;

constexpr std::size_t baselineMost = 8; // then they are taken as uneven as they are
constexpr std::size_t oddMost = 3;      // after so many left out the others are not thought odd
constexpr double byHandSeconds = 40;    // to set the levels of a run; common practice, no source
constexpr std::size_t checkWanted = 1;
constexpr std::size_t checkMost = 3;         // of one choice, where they do not hold and it still seems the best
constexpr std::size_t proofsMost = 2;        // after so many sets whose proof failed another target is offered
constexpr std::size_t earlierChecksMost = 8; // after so many check runs of earlier choices the proof decides

double minutesFor(const Session& session, std::size_t runs) {
    const auto* route = session.route();
    return static_cast<double>(runs) * (route == nullptr ? 60 : route->seconds()) / 60;
}

NextStep recording(const Session& session, Action action, Reason reason, std::size_t runs) {
    double before = session.edits->subject.state.conditions.warmUpSeconds; // of each run
    if (action == Action::RecordProof) before = std::max(before, settlingSeconds(session));
    // By hand the levels are set first, save where the last run is made again.
    const bool same = action == Action::RecordBaseline || action == Action::RecordWarmUp;
    if (session.edits->subject.rig == document::RigKind::Hand && !same) before += byHandSeconds;
    return {action, reason, runs, minutesFor(session, runs) + static_cast<double>(runs) * before / 60, {}};
}

NextStep lower(const Session& session, Reason reason, std::optional<Fps> to) {
    // A headset shows its modes and nothing between; where not even half of one was held, the next slower one.
    if (const auto panel = session.panel(); panel && panel->headset) {
        const auto modes = pace::modesOf(panel);
        const double target = session.edits->goal.brief->target.value();
        const auto reached = std::upper_bound(modes.begin(), modes.end(), Hertz(to ? to->value() : 0));
        const auto slower = std::lower_bound(modes.begin(), modes.end(), Hertz(target));
        const auto next = reached != modes.begin() ? reached : slower;
        to = next == modes.begin() ? std::nullopt : std::optional(Fps(std::prev(next)->value()));
    }
    // A person says what else may give way where no rate is known.
    return {to && to->value() >= 10 ? Action::LowerTarget : Action::SayBrief, reason, 0, 0, {}, to};
}

std::optional<NextStep> proofStep(const Session& session, const Results& r) {
    const auto* proof = r.get<proof::Proof>();
    const std::size_t before = proof == nullptr ? 0 : proof->before, after = proof == nullptr ? 0 : proof->after;
    const auto missing = [](std::size_t have, std::size_t want) { return have < want ? want - have : 0; };
    const std::size_t first = missing(before, proof::firstLook) + missing(after, proof::firstLook);
    if (first > 0) return recording(session, Action::RecordProof, Reason::NeedProof, first);
    if (proof->wantsRuns() && after < proof::lastLook)
        return recording(session, Action::RecordProof, Reason::ProofOpen, 2);
    return std::nullopt;
}

/// A proof run of the chosen settings was made with the plan.
bool wasProven(const Session& session, const pace::CapPlan& plan) {
    return std::any_of(session.facts->runs.begin(), session.facts->runs.end(), [&](const run::Run& run) {
        const auto* order = session.orderOf(run);
        return order != nullptr && order->purpose == run::Purpose::ProofAfter && session.shown(run) &&
               order->variant.values == session.edits->settings.choice->values && order->variant.cap == plan.cap &&
               order->variant.generation == plan.generation &&
               (!plan.limiter || order->variant.limiter == *plan.limiter);
    });
}

/// What a proof that missed a goal leads to: other settings, a higher cap, a lower target; else it can be kept as not
/// held, since only a person can say which other goal is to give way.
NextStep missedStep(const Session& session, const Results& r, const proof::Proof& proof) {
    const auto& choice = *session.edits->settings.choice;
    const auto& cap = *session.edits->pacing.cap;
    const auto* proposal = results::proposalOf(r);
    const auto* caps = r.get<results::CapView>();
    const bool target = proof.wishes.front().state == proof::WishState::NotMet;
    const auto* costs = r.get<results::Costs>();
    const bool others =
        proposal != nullptr && proposal->values != choice.values && !choice.byHand && costs->missedSets <= proofsMost;
    if (target && others) return {Action::AcceptChoice, Reason::ProofMissed, 0, 0, {}};
    const auto* offer = caps == nullptr ? nullptr : results::otherCap(*caps);
    const bool other = offer != nullptr && offer->plan != cap.plan && cap.school != pace::CapSchool::Own;
    const auto* generation = results::bestGeneration(r);
    if (generation != nullptr && cap.school == pace::CapSchool::Generation && !wasProven(session, generation->plan))
        return {Action::ChooseCap, Reason::CapMissed, 0, 0, {}};
    if (other && !cap.plan.generation) return {Action::ChooseCap, Reason::CapMissed, 0, 0, {}};
    // What is asked besides the rate: a lower cap costs nothing of the picture and went before.
    if (others && costs->askedMissed) return {Action::AcceptChoice, Reason::ProofMissed, 0, 0, {}};
    if (target) return lower(session, Reason::ProofFailed, heldInstead(session, proof));
    return {Action::KeepResult, Reason::ProofFailed, 0, 0, {}};
}

/// What an uneven baseline leads to before anything is measured against it: the odd run is left out, or another is
/// made; nothing where a person counts the odd one all the same.
std::optional<NextStep> unevenStep(const Session& session, const Results& r, std::size_t runs) {
    const auto* siblings = r.get<results::Siblings>();
    if (siblings == nullptr || siblings->evenness.even()) return std::nullopt;
    const auto& marks = session.edits->runs;
    if (!siblings->odd)
        return runs < baselineMost ? std::optional(recording(session, Action::RecordBaseline, Reason::Uneven, 1))
                                   : std::nullopt;
    const auto odd = std::count_if(marks.leftOut.begin(), marks.leftOut.end(),
                                   [](const auto& mark) { return mark.second == document::LeftOut::Odd; });
    if (marks.counted.contains(*siblings->odd) || odd >= static_cast<std::ptrdiff_t>(oddMost)) return std::nullopt;
    return NextStep{Action::LeaveOutRun, Reason::Uneven, 0, 0, {}, {}, siblings->odd};
}

/// Whether the lowest low that is asked for stays where the frame grows as the proposal says: the check's own low
/// falls with it. Nothing recorded tells no low.
bool keepsLow(const Session& session, const Results& r, const choose::Proposal& proposal) {
    const auto& brief = *session.edits->goal.brief;
    if (!brief.floor()) return true;
    double grows = 1;
    for (const auto& before : r.get<results::Check>()->measured)
        for (const auto& after : proposal.lanes)
            if (after.lane == before.lane && before.meanMs > 0) grows = std::max(grows, after.meanMs / before.meanMs);
    const auto& low =
        frames::figure(brief.floorOf == run::FloorOf::SlowestSecond ? "slowest_second_fps" : frames::onePercentLowFps);
    const auto& ids = results::idsOf<results::CheckRuns>(r);
    return !ids.empty() && std::all_of(ids.begin(), ids.end(), [&](const RunId& id) {
        const auto* figures = r.of<results::RunFigures>(id);
        const auto value = figures == nullptr ? std::nullopt : low.of(figures->summary, brief.lowRule);
        return value && *value / grows >= brief.floor()->value();
    });
}

/// Whether what the check of a choice taught lets a set fit that shows more than is good enough to leave. The other
/// styles would rather have the room: for lows, heat or noise.
bool moreFits(const Session& session, const Results& r, const choose::Proposal& proposal) {
    const auto& settings = session.edits->settings;
    if (session.edits->goal.brief->style != run::Style::Cinematic || settings.enough || settings.choice->byHand ||
        !r.get<results::Check>()->holds)
        return false;
    if (results::countOf<results::EarlierChecks, results::ReadEarlier>(r) >= earlierChecksMost) return false;
    const double now = game::pictureValue(*session.game(), settings.choice->values);
    return game::pictureValue(*session.game(), proposal.values) >
               now * (1 + settings.goodEnough.value_or(results::goodEnough)) &&
           keepsLow(session, r, proposal);
}

NextStep decisionStep(const Session& session, const Results& r) {
    const auto& choice = session.edits->settings.choice;
    const auto& cap = session.edits->pacing.cap;
    const auto* proposed = r.get<results::Proposed>();
    const auto* proposal = results::proposalOf(r);
    const auto& standing = results::standingOf(r);
    const auto* check = r.get<results::Check>();
    const auto checks = results::countOf<results::CheckRuns, results::ReadChecks>(r);
    // What cannot be held is said first, whatever was chosen for another target; but what was chosen for this one is
    // tried, and runs that reach it say more than a sum of costs.
    const bool tried =
        choice && standing.choice.empty() && (checks < checkWanted || (check != nullptr && check->reaches));
    if (proposed != nullptr && proposed->error && proposed->error->code == ErrorCode::NothingFits && !tried)
        return lower(session, Reason::NothingFits, results::reachableOf(r));
    if (proposal != nullptr && !proposed->keepsPicture && !tried)
        return lower(session, Reason::PictureFloor, results::reachableOf(r));
    if (proposal == nullptr && !choice) return recording(session, Action::RecordBaseline, Reason::NeedRepeats, 1);
    if (!choice) return {Action::AcceptChoice, Reason::ProposalReady, 0, 0, {}};
    if (!standing.choice.empty() && proposal != nullptr)
        return {Action::AcceptChoice, Reason::ChoiceStale, 0, 0, standing.choice};
    if (checks < checkWanted) return recording(session, Action::RecordCheck, Reason::NeedFrames, checkWanted - checks);
    const bool better = check != nullptr && !check->holds &&
                        results::countOf<results::EarlierChecks, results::ReadEarlier>(r) < earlierChecksMost &&
                        proposal != nullptr && proposal->values != choice->values && !choice->byHand;
    if (better) {
        const auto* proof = r.get<proof::Proof>();
        const auto* costs = r.get<results::Costs>();
        const bool byProof =
            costs->tighter * costs->tighterGpu > 1 && proof != nullptr && proof->met() < proof->wishes.size();
        return {Action::AcceptChoice, byProof ? Reason::ProofMissed : Reason::CheckMissed, 0, 0, {}};
    }
    if (proposal != nullptr && check != nullptr && !cap && moreFits(session, r, *proposal))
        return {Action::AcceptChoice, Reason::MoreFits, 0, 0, {}};
    if (check != nullptr && !check->holds && checks < checkMost && !choice->byHand && !better && !cap)
        return recording(session, Action::RecordCheck, Reason::CheckOpen, 1);
    if (!cap) return {Action::ChooseCap, Reason::CapReady, 0, 0, {}};
    if (!standing.cap.empty()) return {Action::ChooseCap, Reason::CapStale, 0, 0, standing.cap};
    if (auto step = proofStep(session, r)) return *step;
    const bool kept = session.edits->record.kept && standing.kept.empty();
    if (const auto* proof = r.get<proof::Proof>(); !kept && proof != nullptr && proof->met() < proof->wishes.size())
        return missedStep(session, r, *proof);
    if (!session.edits->record.kept || !standing.kept.empty())
        return {Action::KeepResult, Reason::ProofReady, 0, 0, standing.kept};
    return {Action::Done, Reason::AllKept, 0, 0, {}};
}

} // namespace

std::optional<Fps> heldInstead(const Session& session, const proof::Proof& proof) {
    const auto* worst = proof.worst();
    if (worst == nullptr || !session.edits->goal.brief) return std::nullopt;
    const double target = session.edits->goal.brief->target.value();
    double share = 1;
    for (const auto& part : proof.parts)
        for (const auto& figure : part.figures)
            if (figure.least > 0)
                share = std::min(share, (figure.after.estimate - figure.after.halfWidth.value_or(0)) / figure.least);
    const double rate = std::floor(share * target);
    return rate >= 10 && rate < target ? std::optional(Fps(rate)) : std::nullopt;
}

double settlingSeconds(const Session& session) {
    const bool tells = std::any_of(session.facts->runs.begin(), session.facts->runs.end(), [&](const run::Run& run) {
        return run.capture && session.shown(run) &&
               std::any_of(run.capture->tracks.begin(), run.capture->tracks.end(),
                           [](const capture::Track& track) { return capture::isClock(track.sensor); });
    });
    return tells ? 45 : 0;
}

bool warmUpMade(const Session& session) {
    const auto& runs = session.facts->runs;
    if (session.edits->subject.state.conditions.driverUpdated)
        return std::any_of(runs.begin(), runs.end(), [&](const run::Run& run) {
            const auto* order = session.orderOf(run);
            return !run.interrupted && order != nullptr && session.shown(run) && session.ofThisPair(*order) &&
                   order->conditions.driverUpdated;
        });
    if (session.edits->subject.rig == document::RigKind::Hand)
        return std::any_of(runs.begin(), runs.end(), [](const run::Run& run) { return !run.interrupted; });
    return std::any_of(runs.begin(), runs.end(), [&](const run::Run& run) {
        const auto* order = session.orderOf(run);
        return !run.interrupted && order != nullptr && session.ofThisPair(*order);
    });
}

NextStep nextStep(const Session& session, const Results& r) {
    if (session.game() == nullptr && session.machine() == nullptr && session.facts->runs.empty()) return {};
    if (!session.edits->goal.brief) return {Action::SayBrief, Reason::NoBrief, 0, 0, {}};
    if (session.game() == nullptr) return {Action::SayGame, Reason::NoGame, 0, 0, {}};
    if (session.machine() == nullptr) return {Action::SayMachine, Reason::NoMachine, 0, 0, {}};
    if (session.edits->settings.startOpen) return {Action::SayStart, Reason::StartOpen, 0, 0, {}};
    // Nothing is shown between a headset's refreshes: more than its highest one cannot be held.
    if (const auto panel = session.panel(); panel && panel->headset)
        if (const auto fastest = pace::beyondPanel(panel, session.edits->goal.brief->target))
            return lower(session, Reason::BeyondPanel, Fps(fastest->value()));
    if (const auto& shown = session.edits->goal.brief->shown)
        if (const auto panel = session.panel(); panel && (panel->headset || pace::beyondPanel(panel, *shown)))
            return {Action::SayBrief, Reason::ShownBeyondPanel, 0, 0, {}};
    if (!warmUpMade(session)) return recording(session, Action::RecordWarmUp, Reason::ShadersFirst, 1);
    const auto baseline = results::countOf<results::BaselineRuns, results::ReadBaseline>(r);
    const auto baselineWanted = game::ruleOf(session.scene()).baselineRuns;
    if (baseline < baselineWanted)
        return recording(session, Action::RecordBaseline, Reason::NeedRepeats, baselineWanted - baseline);
    const bool measured = results::countOf<results::CostRuns, results::ReadCosts>(r) > 0;
    if (const auto step = measured ? std::nullopt : unevenStep(session, r, baseline)) return *step;
    const auto* next = r.get<results::NextRun>();
    if (next != nullptr && next->values && !session.edits->settings.enough)
        return recording(session, Action::RecordCosts, Reason::NeedCosts, 1);
    return decisionStep(session, r);
}

} // namespace impasto::path
