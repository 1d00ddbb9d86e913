// SPDX-License-Identifier: GPL-3.0-or-later
// What to do next, and what was found.
#include <algorithm>
#include <cmath>
#include <impasto/base/text.h>
#include <impasto/report/wording.h>

namespace impasto::report {

using session::Action;
using session::Reason;

std::string Wording::action(const session::Session& session, const session::Results& results,
                            const session::NextStep& step) const {
    const bool hand = session.edits->rig == session::RigKind::Hand;
    switch (step.action) {
    case Action::Begin:
        return say("Start the practice rig");
    case Action::SayMachine:
        return say("Describe the machine");
    case Action::SayGame:
        return say("Describe the game");
    case Action::SayBrief:
        return step.reason == Reason::NothingFits ? say("Lower the target") : say("Say what is wanted");
    case Action::RecordWarmUp:
        return hand ? say("Order the warm-up run") : say("Record the warm-up run");
    case Action::RecordBaseline:
        if (step.runs == 1) return hand ? say("Order 1 more baseline run") : say("Record 1 more baseline run");
        return hand ? say("Order {} baseline runs", step.runs) : say("Record {} baseline runs", step.runs);
    case Action::RecordCosts:
        if (step.runs == 1) return hand ? say("Order 1 cost run") : say("Record 1 cost run");
        return hand ? say("Order {} cost runs", step.runs) : say("Record {} cost runs", step.runs);
    case Action::AcceptChoice:
        return step.reason == Reason::ProposalReady ? say("Take the proposed choice") : say("Take the new choice");
    case Action::RecordCheck:
        return hand ? say("Order {} runs of the choice", step.runs) : say("Record {} runs of the choice", step.runs);
    case Action::ChooseCap: {
        const auto cap = results.cap && !results.cap->offers.empty() ? results.cap->offers.front().cap : std::nullopt;
        return cap ? say("Cap at {} fps", wishFps(*cap)) : say("Go without a cap");
    }
    case Action::RecordProof:
        return hand ? say("Order {} proof runs", step.runs) : say("Record {} proof runs", step.runs);
    case Action::KeepResult:
        return say("Keep this in the logbook");
    case Action::Done:
        return say("All is kept");
    }
    return {};
}

std::string Wording::reason(const session::Session& session, const session::Results& results,
                            const session::NextStep& step) const {
    const auto* brief = session.edits->brief ? &*session.edits->brief : nullptr;
    switch (step.reason) {
    case Reason::NothingYet:
        return say("Nothing has been measured yet. Three ways to begin; all of them lead to the same picture.");
    case Reason::NoMachine:
        return say("The panel and the memory of the machine set the limits of every choice.");
    case Reason::NoGame:
        return say("The settings of the game are what can be scraped off or added.");
    case Reason::NoBrief:
        return say("A rate to hold turns every figure into met or not met.");
    case Reason::ShadersFirst:
        return say("The first run compiles shaders and spoils the lows. It is kept, and left out.");
    case Reason::NeedRepeats:
        return say("Runs differ by themselves. Four of the same show by how much.");
    case Reason::NeedCosts:
        return say("One run for each level tells what it costs on each lane. The next choice rests on them.");
    case Reason::ProposalReady:
        return say("It keeps the most picture that fits the budget in every part.");
    case Reason::ChoiceStale:
        return say("The choice rests on figures that have changed ({}).", stale(step.stale));
    case Reason::CheckMissed:
        return say("The chosen set missed its usable share when run; with those runs counted, another one fits.");
    case Reason::NeedFrames:
        return say("A cap is chosen from the frames of the chosen set itself.");
    case Reason::CapReady:
        return say("It has the highest low that still holds {} fps. It is a prediction until it is run.",
                   brief == nullptr ? "" : wishFps(brief->target));
    case Reason::CapStale:
        return say("The cap rests on figures that have changed ({}).", stale(step.stale));
    case Reason::NeedProof:
        return say("Before and after in turn, with fresh runs: is the difference larger than the error?");
    case Reason::ProofOpen:
        return say("A wish lies inside the error. Two more runs narrow it.");
    case Reason::ProofReady: {
        const auto met = results.proof ? std::count_if(results.proof->wishes.begin(), results.proof->wishes.end(),
                                                       [](const auto& w) { return w.state == session::WishState::Met; })
                                       : 0;
        return say("{} of {} wishes are met. Values, figures and runs go into the logbook together.", met,
                   results.proof ? results.proof->wishes.size() : 0);
    }
    case Reason::AllKept:
        return say("The result stands until the game, the machine or the brief changes.");
    case Reason::NothingFits:
        return say("No set of measured levels fits {} fps in every part.",
                   brief == nullptr ? "" : wishFps(brief->target));
    }
    return {};
}

std::string Wording::brakeTitle(const limits::PartVerdict& v) const {
    const char* text = "";
    switch (v.brake) {
    case limits::Brake::Gpu:
        text = "GPU limits";
        break;
    case limits::Brake::Cpu:
        text = "CPU limits";
        break;
    case limits::Brake::Cap:
        text = "The cap limits";
        break;
    case limits::Brake::Refresh:
        text = "The refresh limits";
        break;
    case limits::Brake::CannotTell:
        return v.cpu && v.gpu ? say("Cannot tell: neither lane fills the frame")
                              : say("Cannot tell CPU from GPU from this log");
    }
    return say(v.certainty == limits::Certainty::Sure ? "{}, sure" : "{}, likely", m_tr(text));
}

std::string Wording::brakeEvidence(const limits::PartVerdict& v, Fps target, const choose::UsableShares& shares) const {
    const double budget = budgetOf(target).value();
    if (!v.cpu || !v.gpu) {
        const double usable = shares.frame * budget;
        const std::string frame = say("A frame takes {} ms on average; {} ms are usable.", ms(v.periodMs), ms(usable));
        return frame + " " +
               (v.periodMs > usable ? say("{} ms to save.", ms(v.periodMs - usable))
                                    : say("{} ms are free.", ms(usable - v.periodMs)));
    }
    const bool gpu = v.gpu->meanMs >= v.cpu->meanMs;
    const auto& brake = gpu ? *v.gpu : *v.cpu;
    const auto& other = gpu ? *v.cpu : *v.gpu;
    const auto lane = gpu ? run::Lane::Gpu : run::Lane::Cpu, rest = gpu ? run::Lane::Cpu : run::Lane::Gpu;
    const double usable = shares.of(lane) * budget;
    std::string text = say("{} {} ms of a {} ms frame; the {} needs {}.", this->lane(lane), ms(brake.meanMs),
                           ms(v.periodMs), this->lane(rest), ms(other.meanMs));
    if (brake.meanMs > budget)
        return text + " " +
               say("{} ms over the budget, {} over its usable {}.", ms(brake.meanMs - budget),
                   ms(brake.meanMs - usable), ms(usable));
    if (brake.meanMs > usable)
        return text + " " + say("Inside the budget, {} ms over its usable {}.", ms(brake.meanMs - usable), ms(usable));
    return text + " " + say("{} ms of its usable {} are free.", ms(usable - brake.meanMs), ms(usable));
}

std::string Wording::brakeTest(const limits::PartVerdict& v) const {
    switch (v.brake) {
    case limits::Brake::Gpu:
        return say("Decides: a lower render scale. The rate rises if the GPU limits.");
    case limits::Brake::Cpu:
        return say("Decides: a lower render scale. The rate moves less than 3% if the CPU limits.");
    case limits::Brake::Cap:
    case limits::Brake::Refresh:
        return say("Decides: lift the cap or the sync. The rate rises.");
    case limits::Brake::CannotTell:
        return say("Decides: a log with CPU and GPU work, or runs at two render scales.");
    }
    return {};
}

std::vector<Wording::ChangedLine> Wording::changes(const game::Game& game, const game::Values& before,
                                                   const game::Values& after) const {
    std::vector<ChangedLine> out;
    for (const auto& setting : game.settings) {
        const auto b = before.find(setting.id), a = after.find(setting.id);
        if (b != before.end() && a != after.end() && b->second != a->second)
            out.push_back({setting.label, b->second, a->second});
    }
    return out;
}

std::string Wording::choice(const session::Session& session, const choose::Proposal& proposal) const {
    std::string list;
    for (const auto& line : changes(*session.game(), session.edits->baseline, proposal.values))
        list += (list.empty() ? "" : ", ") + line.setting + " " + line.after;
    if (list.empty()) return say("Everything stays as it is.");
    return say("{}; all else kept.", list);
}

std::string Wording::proven(const choose::Proposal& p) const {
    if (p.proven) return say("Proven best for these costs.");
    return say("Not proven: up to {} more picture may exist.", percent(p.pictureGap));
}

std::string Wording::capPrediction(const choose::CapPrediction& p) const {
    if (!p.onePercentLow) return say("average {}; lows not known: run it", fps(p.average.value()));
    const auto band = [](const choose::Band& b) {
        const std::string low = fmt::format("{:.0f}", b.low), high = fmt::format("{:.0f}", b.high);
        return low == high ? low : low + "\u2013" + high;
    };
    return say("1% low {}, 0.1% low {} fps", band(*p.onePercentLow), band(*p.tenthPercentLow));
}

std::string Wording::wish(const session::WishOutcome& wish, const run::Brief& brief) const {
    switch (wish.wish) {
    case session::Wish::Target:
        return say("{} fps in every part", wishFps(brief.target));
    case session::Wish::LowestLow:
        return say("1% low of {} fps", wishFps(*brief.lowestLow));
    case session::Wish::Picture:
        return say("{} of the picture", percent(wish.wanted));
    }
    return {};
}

std::string Wording::wishState(session::WishState state) const {
    switch (state) {
    case session::WishState::Met:
        return say("met");
    case session::WishState::NotMet:
        return say("not met");
    case session::WishState::NotEnoughRuns:
        return say("not enough runs");
    }
    return {};
}

std::vector<std::string> Wording::orderSteps(const session::Session& session, const run::Order& order) const {
    std::vector<std::string> steps;
    const auto* game = session.game();
    if (game != nullptr) {
        const auto lines = changes(*game, session.edits->baseline, order.variant.values);
        std::string list;
        for (const auto& line : lines) list += (list.empty() ? "" : ", ") + line.setting + " " + line.after;
        steps.push_back(lines.empty() ? say("Set the start values.") : say("Set the start values, but {}.", list));
    }
    steps.push_back(order.variant.cap ? say("Cap the rate at {} fps.", wishFps(*order.variant.cap))
                                      : say("Take every cap and sync off."));
    steps.push_back(
        say("Play \"{}\", {} seconds, with the log running; then stop it.", order.route, std::lround(order.seconds)));
    steps.push_back(say("Drop the log on this window."));
    return steps;
}

std::string Wording::order(const session::Session& session, const run::Order& order) const {
    std::string out;
    for (const auto& step : orderSteps(session, order)) out += (out.empty() ? "" : " ") + step;
    return out;
}

Wording::Why Wording::whyAverage(const stats::Summary& s, std::size_t runs) const {
    return {say("Average"), say("frames / time, never a mean of momentary rates"),
            say("{} frames in {} s: {} fps", count(s.frames), fmt::format("{:.1f}", s.durationMs / 1000),
                fps(s.average.value())),
            runs > 1 ? say("The \u00b1 is a 95% t interval over {} runs; frames are correlated and are not counted as "
                           "observations.",
                           runs)
                     : say("One run has no interval. Three or more show how much runs differ."),
            say("More runs narrow it; a longer route makes each run steadier.")};
}

Wording::Why Wording::whyLow(const stats::Summary& s, run::LowSchool school, std::size_t runs) const {
    const auto& low = s.of(school).onePercent;
    return {
        say("1% low, {}", this->school(school)), schoolMeaning(school),
        low ? say("{} fps, stands on {} frames", fps(low->rate.value()), count(static_cast<std::size_t>(low->standsOn)))
            : std::string(),
        runs > 1 ? say("The \u00b1 is a 95% t interval over {} runs.", runs) : say("One run has no interval."),
        lowsHere(s)};
}

/// The three schools' figures of the run, and why they lie apart or do not.
std::string Wording::lowsHere(const stats::Summary& s) const {
    std::string figures;
    double least = 0, most = 0;
    for (const auto school : {run::LowSchool::Percentile, run::LowSchool::WorstMean, run::LowSchool::TimeShare}) {
        const auto& low = s.of(school).onePercent;
        if (!low) return {};
        const double v = low->rate.value();
        least = figures.empty() ? v : std::min(least, v);
        most = std::max(most, v);
        figures += fmt::format("{}{} {}", figures.empty() ? "" : ", ", this->school(school), fps(v));
    }
    return say(
        "Here: {}. {}", figures,
        least < 0.85 * most
            ? say("A few frames are far slower than the rest: the percentile only counts them, the mean weighs how "
                  "slow they are, the time share how long they last. Compare only like with like.")
            : say("The slowest frames are alike, so that the three agree."));
}

Wording::Why Wording::whyHitches(const stats::Summary& s, const stats::HitchRule& rule) const {
    return {say("Hitches"),
            say("A frame of more than {} times the median of the {} frames around it, and {} ms above it.",
                shortestText(rule.ratio), rule.neighbours, shortestText(rule.excessMs)),
            say("{} in {} s, {} ms lost in them", s.hitches.size(), fmt::format("{:.1f}", s.durationMs / 1000),
                fmt::format("{:.0f}", s.lostMs)),
            say("Counts are small numbers: runs of the same route differ by about the root of the count."),
            say("Another rule, below. Averages, lows and every decision stay as they are.")};
}

Wording::Why Wording::whyCost(const game::Setting& setting, const std::string& level,
                              const choose::LaneCosts& lane) const {
    const auto index = lane.fit.indexOf({setting.id, level});
    const std::string figure = index ? say("{} {} against now: {} ms in {}", setting.label, level,
                                           signedPlusMinus(lane.worstFactor * lane.fit.estimate[*index],
                                                           lane.worstFactor * lane.fit.halfWidth(*index), 2),
                                           part(lane.worstPart))
                                     : say("{} {} is the level in use now.", setting.label, level);
    return {say("Cost of {} on the {}", setting.label, this->lane(lane.lane)),
            say("Least squares of the route means over the runs that count: base + one difference a level. In a part: "
                "the route's cost times the part's share of this lane (an assumption: every setting weighs in the "
                "parts as the lane does)."),
            figure,
            say("95% t interval with {} degrees of freedom; runs of one set differ by {} ms.",
                std::lround(lane.fit.degreesOfFreedom), ms(lane.fit.residualSd)),
            say("Another run of this level narrows it.")};
}

Wording::Why Wording::whyChoice(const choose::Proposal& p) const {
    std::string inputs;
    for (const auto& l : p.lanes)
        inputs += (inputs.empty() ? "" : " ") + say("{}: {} ms + {} for doubt, of {} usable in {}.", lane(l.lane),
                                                    ms(l.meanMs), ms(l.marginMs), ms(l.usableMs), part(l.worstPart));
    return {say("The choice"),
            say("The levels with the highest weighted picture whose mean + t(0.90) times its standard error stays "
                "inside the usable share of the budget on every lane, and inside the GPU's memory. Branch and bound "
                "over all combinations."),
            inputs, proven(p) + " " + say("{} nodes searched.", count(p.nodes)),
            say("Another target, other usable shares, a locked setting, or more runs.")};
}

Wording::Why Wording::whyCap(const choose::CapOffer& offer, const choose::CapRules& rules) const {
    return {
        say("Cap: {}", capSchool(offer.school)), capSchoolRule(offer.school, rules), capPrediction(offer.prediction),
        say("Replayed through CPU, GPU and display with three frames in flight. A log cannot tell which slow frames "
            "are background work that idle time would take: hence a band. Clocks, heat and memory are not in it."),
        say("It is a prediction until it is run.")};
}

} // namespace impasto::report
