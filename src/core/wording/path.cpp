// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/path.h>

#include <algorithm>
#include <cmath>
#include <impasto/path/perform.h>
#include <impasto/wording/conditions.h>
#include <impasto/wording/generation.h>
#include <impasto/wording/layers.h>
#include <impasto/wording/limits.h>
#include <impasto/wording/names.h>
#include <impasto/wording/numbers.h>
#include <impasto/wording/pace.h>
#include <impasto/wording/proof.h>
#include <impasto/wording/runs.h>
#include <impasto/wording/walk.h>

namespace impasto::wording {

using path::Action;
using path::Reason;

namespace {

std::size_t testRunsMade(const results::Results& results) {
    return results::countOf<results::CostRuns, results::ReadCosts>(results);
}

std::string capReason(const Words& w, const document::Session& session, const results::Results& results) {
    if (const auto* best = results::bestGeneration(results))
        return w.say("{}. It is a prediction until it is run.", generationLine(w, *best));
    const auto* view = results.get<results::CapView>();
    if (view == nullptr || view->offers.empty())
        return w.say("No frames of the choice were recorded that a cap could be tried on: it is the target, {}.",
                     capPlan(w, path::capToTake(session, results).plan, session.panel()));
    const auto& offer = view->offers.front();
    return w.say("{}: {}. It is a prediction until it is run.", capRule(w, offer.school),
                 capPlan(w, offer.plan, session.panel()));
}

std::string nothingFits(const Words& w, const results::Results& results, const std::string& target) {
    const auto reaches = results::reachableOf(results);
    if (!reaches) return w.say("No combination of the settings fits {} fps in every part.", target);
    const auto* proposed = results.get<results::Proposed>();
    if (proposed != nullptr && proposed->instead && proposed->less && proposed->lessReaches)
        return w.say("No combination of the settings fits {} fps in every part. {} of the picture fits {} fps, "
                     "{} of it {} fps.",
                     target, percent(proposed->instead->picture), wishFps(*reaches), percent(proposed->less->picture),
                     wishFps(*proposed->lessReaches));
    return w.say("No combination of the settings fits {} fps in every part. The most that fits is {} fps.", target,
                 wishFps(*reaches));
}

/// Which part missed the target, by which figure, and what limits it.
std::string proofMissed(const Words& w, const document::Session& session, const results::Results& results) {
    const auto* proof = results.get<proof::Proof>();
    const auto* worst = proof == nullptr ? nullptr : proof->worst();
    if (worst == nullptr || !session.edits->goal.brief) return {};
    for (const auto& wish : proof->wishes)
        if (wish.wish == proof::Wish::LowestLow && proof->wishes.front().state != proof::WishState::NotMet &&
            wish.state != proof::WishState::Met)
            return w.say("{}: {} fps.", goal(w, wish), plusMinus(wish.after.estimate, wish.after.halfWidth, 1));
    if (proof->wishes.front().state == proof::WishState::Met)
        for (const auto& wish : proof->wishes)
            if (wish.wish == proof::Wish::Bound && wish.state != proof::WishState::Met) return goalShort(w, wish);
    const std::string target = wishFps(session.edits->goal.brief->target);
    std::string limit;
    for (const auto& v : results::verdictsOf(results))
        if (v.part == worst->part) limit = " " + bottleneck(w, v) + ".";
    if (worst->state == proof::WishState::NotEnoughRuns)
        return w.say("{} fps in {} is still open after {} runs: {}.", target, part(w, worst->part), proof->after,
                     heldFigure(w, *worst)) +
               limit;
    return w.say("{} fps was not held in {}: {}.", target, part(w, worst->part), heldFigure(w, *worst)) + limit;
}

/// What the next test run changes, and why that.
std::string testRun(const Words& w, const document::Session& session, const results::Results& results) {
    const auto* next = results.get<results::NextRun>();
    if (next == nullptr || !next->values || session.game() == nullptr) return {};
    if (results.get<results::Walking>() != nullptr) return stride(w, session, results);
    std::vector<std::string> list;
    for (const auto& line : changes(*session.game(), session.edits->settings.baseline, *next->values))
        list.push_back(w.say("{} {}", line.setting, line.after));
    const std::string what = list.empty() ? w.say("The settings in use once more.") : w.say("{}.", listed(w, list));
    if (next->ladder)
        return w.say("{} The least rendered size tells CPU and GPU apart, which frame times alone do not.", what);
    std::vector<std::string> asks;
    for (const auto& setting : next->asks)
        if (const auto* s = session.game()->setting(setting); s != nullptr && asks.size() < 3) asks.push_back(s->label);
    if (asks.empty()) return w.say("{} It shows whether these limits can be kept.", what);
    const std::string why = w.say("{} Of all sets it tells most about what is still open: {}.", what, listed(w, asks));
    constexpr double doubted = 0.3;
    constexpr std::size_t enough = 3; // runs, before which little speaks for it; frame times alone tell too little
    const auto& costs = *results.get<results::Costs>();
    if (costs.earlier == results::Earlier::FitsNoMore) return why + " " + earlierRuns(w, session, results);
    if (costs.hidden || costs.runs < enough || costs.ground.belief().flat() < doubted) return why;
    return why + " " + w.say("What settings usually cost does not fit this game: its own runs count for more.");
}

std::string uneven(const Words& w, const document::Session& session, const results::Results& results,
                   const path::NextStep& step) {
    const auto& evenness = results.get<results::Siblings>()->evenness;
    if (!step.run)
        return w.say("The baseline runs differ by {}, and none of them is the odd one. One more shows more; look for a "
                     "changing scene, heat or another program.",
                     percent(evenness.spread));
    const auto& average = results.of<results::RunFigures>(*step.run)->summary.average;
    return w.say("The baseline runs differ by {}: run {} with {} fps is unlike the others. Leave it out and make "
                 "another, or count it all the same.",
                 percent(evenness.spread), session.numberOf(*step.run), fps(average.value()));
}

} // namespace

std::string action(const Words& w, const document::Session& session, const results::Results& results,
                   const path::NextStep& step, const std::optional<OrderId>& picked) {
    const bool hand = session.edits->subject.rig == document::RigKind::Hand;
    if (const auto open = hand && step.runs > 0 ? path::openOrders(session) : std::vector<run::Order>();
        !open.empty()) {
        const auto it = std::find_if(open.begin(), open.end(), [&](const run::Order& o) { return picked == o.id; });
        return w.say("Waiting for {}", orderName(w, session, it == open.end() ? open.front() : *it));
    }
    switch (step.action) {
    case Action::Begin:
        return w.say("Start practising");
    case Action::SayMachine:
        return w.say("Describe the machine");
    case Action::SayGame:
        return w.say("Describe the game");
    case Action::SayBrief:
        if (step.reason == Reason::ShownBeyondPanel) return w.say("Change the shown rate");
        return step.reason == Reason::NoBrief ? w.say("Set a goal") : w.say("Lower the target");
    case Action::LowerTarget:
        return w.say("Try {} fps instead", wishFps(*step.target));
    case Action::RecordWarmUp:
        return hand ? w.say("Order the warm-up run") : w.say("Record the warm-up run");
    case Action::RecordBaseline:
        if (results::idsOf<results::BaselineRuns>(results).empty())
            return hand ? w.say("Order the baseline run") : w.say("Record the baseline run");
        if (step.runs == 1) return hand ? w.say("Order 1 more baseline run") : w.say("Record 1 more baseline run");
        return hand ? w.say("Order {} more baseline runs", step.runs)
                    : w.say("Record {} more baseline runs", step.runs);
    case Action::RecordCosts:
        return hand ? w.say("Order test run {}", testRunsMade(results) + 1)
                    : w.say("Record test run {}", testRunsMade(results) + 1);
    case Action::SayStart:
        return w.say("These are my settings");
    case Action::LeaveOutRun:
        return w.say("Leave out run {}", session.numberOf(*step.run));
    case Action::AcceptChoice:
        return step.reason == Reason::ProposalReady ? w.say("Accept the proposed settings")
                                                    : w.say("Accept the new settings");
    case Action::RecordCheck:
        if (step.runs == 1) return hand ? w.say("Order 1 check run") : w.say("Record 1 check run");
        return hand ? w.say("Order {} check runs", step.runs) : w.say("Record {} check runs", step.runs);
    case Action::ChooseCap: {
        const auto plan = path::capToTake(session, results).plan;
        if (plan.generation && plan.cap)
            return w.say("Base cap {}, shown {}", wishFps(*plan.cap), generationTimes(w, *plan.generation));
        if (plan.cap) return w.say("Cap at {} fps", wishFps(*plan.cap));
        if (const auto panel = session.panel(); panel && panel->headset && !plan.cap)
            return w.say("Let the headset pace it");
        return plan.pacedTo() ? w.say("Let sync hold {} fps", wishFps(*plan.pacedTo())) : w.say("Go without a cap");
    }
    case Action::RecordProof:
        return hand ? w.say("Order {} proof runs", step.runs) : w.say("Record {} proof runs", step.runs);
    case Action::KeepResult:
        return saveAs(w, results.get<proof::Proof>());
    case Action::Done:
        // A step may be a moment older than the session: what it kept may be undone already.
        return savedAs(w, session.edits->record.kept.value_or(document::KeptResult{}));
    }
    return {};
}

std::string reason(const Words& w, const document::Session& session, const results::Results& results,
                   const path::NextStep& step) {
    const auto* brief = session.edits->goal.brief ? &*session.edits->goal.brief : nullptr;
    const std::string target = brief == nullptr ? std::string() : wishFps(brief->target);
    switch (step.reason) {
    case Reason::NothingYet:
        return w.say("Nothing has been measured yet. There are three ways to start; all lead to the same picture.");
    case Reason::NoMachine:
        return w.say("The panel and the memory of the machine limit every choice.");
    case Reason::NoGame:
        return w.say("The game's settings are what can be lowered or raised.");
    case Reason::NoBrief:
        return w.say("With a target rate, every figure can be called met or not met.");
    case Reason::StartOpen:
        return w.say("Costs are measured from the levels that the game has now. Give each setting its level, with Up "
                     "and Down.");
    case Reason::ShadersFirst:
        return w.say("The first run compiles shaders and spoils the lows. It is kept but does not count.");
    case Reason::NeedRepeats:
        if (game::ruleOf(session.scene()).baselineRuns > 1)
            return w.say("{}: {} Several runs show how far they differ.", sceneKind(w, session.scene()),
                         sceneMeaning(w, session.scene()));
        return session.edits->settings.earlier
                   ? w.say("The first run shows what the settings in use come to. {}", earlierRuns(w, session, results))
                   : w.say("The first run shows what the settings in use come to, and how large the usual costs are "
                           "here.");
    case Reason::Uneven:
        return uneven(w, session, results, step);
    case Reason::NeedCosts:
        return testRun(w, session, results);
    case Reason::ProposalReady:
        if (const auto* proposed = results.get<results::Proposed>(); proposed != nullptr && proposed->walked)
            return w.say("The walk is at its end: no step up from these settings held, or seems to hold.");
        return w.say("These settings keep the most picture that fits the budget in every part.");
    case Reason::ChoiceStale:
        return w.say("The choice is based on figures that have changed ({}).", stale(w, step.stale));
    case Reason::MoreFits:
        return w.say("The settings held when run, with room to spare: more of the picture fits.");
    case Reason::CheckMissed:
        return w.say("The chosen settings exceeded their safe limit when run. With those runs counted, other settings "
                     "fit.");
    case Reason::CheckOpen:
        return w.say(
            "The chosen settings exceeded their safe limit when run, and still seem the best. Runs differ: one "
            "more tells.");
    case Reason::NeedFrames:
        return w.say("The cap is chosen from frames recorded with the chosen settings.");
    case Reason::CapReady:
        return capReason(w, session, results);
    case Reason::CapStale:
        return w.say("The cap is based on figures that have changed ({}).", stale(w, step.stale));
    case Reason::NeedProof:
        return w.say("Before and after in turn, with new runs: is the difference larger than the error?");
    case Reason::ProofOpen:
        return w.say("One goal is still within the error. Two more runs narrow it.");
    case Reason::ProofReady: {
        const auto* proof = results.get<proof::Proof>();
        const std::span<const proof::WishOutcome> goals(proof == nullptr ? std::span<const proof::WishOutcome>()
                                                                         : std::span(proof->wishes));
        const auto met =
            std::count_if(goals.begin(), goals.end(), [](const auto& g) { return g.state == proof::WishState::Met; });
        return w.say("{} of {} goals are met. Settings, figures and runs go into the logbook together.", met,
                     goals.size());
    }
    case Reason::AllKept:
        if (const auto& kept = session.edits->record.kept; kept && !kept->held())
            return w.say("{}: {} of {} goals met. A lower goal may hold.", savedAs(w, *kept), kept->met, kept->goals);
        return w.say("The result is valid until the game, the machine or the goal changes.");
    case Reason::NothingFits:
        return nothingFits(w, results, target);
    case Reason::PictureFloor: {
        const auto* proposed = results.get<results::Proposed>();
        const std::string most = w.say("{} fps fits with {} of the picture, not with the {} that you ask for.", target,
                                       percent(proposed->proposal->picture), percent(*brief->pictureFloor));
        if (!proposed->reaches) return most;
        return most + " " + w.say("With that much, {} fps is the most.", wishFps(*proposed->reaches));
    }
    case Reason::BeyondPanel:
        return w.say("This panel shows at most {} fps, so {} fps cannot be held.", wishFps(*step.target), target);
    case Reason::ShownBeyondPanel:
        if (session.panel() && session.panel()->headset)
            return w.say("A headset's runtime invents frames itself: its target is all it shows. Take the shown rate "
                         "back.");
        return w.say("This panel shows at most {} fps, so {} fps shown can never be seen. Say less, or take it back.",
                     wishFps(Fps(pace::modesOf(session.panel()).back().value())), wishFps(*brief->shown));
    case Reason::CapMissed:
        return w.say("{} Another cap is expected to serve the goals better.", proofMissed(w, session, results));
    case Reason::ProofMissed:
        return w.say("{} With the limits drawn tighter, other settings fit.", proofMissed(w, session, results));
    case Reason::ProofFailed:
        return w.say("{} Lower the goal, or save the result as it is.", proofMissed(w, session, results));
    }
    return {};
}

std::string stale(const Words& w, const results::Stale& what) {
    if (what.empty()) return {};
    std::vector<std::string> said;
    for (const auto& name : what) said.push_back(w.say(name.c_str()));
    return w.say("stale: {}", listed(w, said));
}

std::string edit(const Words& w, std::string_view name) {
    struct Named {
        std::string_view key;
        const char* words;
    };
    static constexpr Named names[]{{"use-machine", "machine"},
                                   {"use-game", "game"},
                                   {"weigh", "what matters"},
                                   {"use-rig", "way to record"},
                                   {"set-route", "route"},
                                   {"set-scene", "kind of scene"},
                                   {"set-state", "state that is played in"},
                                   {"set-title", "title"},
                                   {"set-name", "name of the session"},
                                   {"set-baseline", "baseline settings"},
                                   {"say-start", "start values"},
                                   {"stop-measuring", "stopping the test runs"},
                                   {"measure-on", "more test runs"},
                                   {"set-good-enough", "what is good enough"},
                                   {"take-walk", "the way to walk"},
                                   {"begin-with-earlier", "runs of an earlier session"},
                                   {"begin-as-usual", "usual costs to begin with"},
                                   {"set-brief", "goal"},
                                   {"set-target", "target"},
                                   {"set-shares", "safe limits"},
                                   {"lock-setting", "lock of a setting"},
                                   {"cannot-set", "a level that cannot be set"},
                                   {"can-set", "a level that can be set"},
                                   {"leave-out", "leaving a run out"},
                                   {"count-run", "counting a run"},
                                   {"hide-run", "deleting a run"},
                                   {"answer-order", "the order a run answers"},
                                   {"name-variant", "what a run is of"},
                                   {"trim-run", "trimming a run"},
                                   {"trim-runs", "trimming several runs"},
                                   {"use-reading", "reading a log another way"},
                                   {"add-runs", "adding runs"},
                                   {"set-hitch-rule", "what a hitch is"},
                                   {"set-part-column", "what names the parts"},
                                   {"withdraw-order", "skipping an order"},
                                   {"set-follow-rest", "when a followed log ends"},
                                   {"set-follow-sensors", "whether sensors are read beside a log"},
                                   {"accept-choice", "accepted settings"},
                                   {"change-choice", "change of a level"},
                                   {"choose-cap", "cap"},
                                   {"keep-result", "saving the result"},
                                   {"write-note", "note"},
                                   {"tick-point", "a point of the checklist"},
                                   {"start", "starting a session"}};
    for (const auto& named : names)
        if (named.key == name) return w.say(named.words);
    return std::string(name);
}

std::vector<std::string> orderSteps(const Words& w, const document::Session& session, const run::Order& order) {
    std::vector<std::string> steps;
    if (const auto* game = session.game()) {
        std::vector<std::string> list;
        for (const auto& line : changes(*game, session.edits->settings.baseline, order.variant.values)) // in menu order
            list.push_back(w.say("{}: {}", line.setting, line.after));
        steps.push_back(list.empty() ? w.say("Use the baseline settings.")
                                     : w.say("Use the baseline settings, except {}.", listed(w, list)));
    }
    for (auto& step : conditionSteps(w, order)) steps.push_back(std::move(step));
    steps.push_back(
        w.say("Play \"{}\", {} seconds, with the log running; then stop it.", order.route, std::lround(order.seconds)));
    steps.push_back(w.say("Drop the log on this window."));
    return steps;
}

} // namespace impasto::wording
