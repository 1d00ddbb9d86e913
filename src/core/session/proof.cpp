// SPDX-License-Identifier: GPL-3.0-or-later
#include "proof.h"

#include <limits>

namespace impasto::session {
namespace {

/// A rate counts as held from 99% of the wish: a capped run stays a limiter's error under its cap.
constexpr double heldShare = 0.99;

struct Sides {
    std::vector<double> before, after;
    void add(bool isAfter, double value) { (isAfter ? after : before).push_back(value); }
};

WishState judge(const stats::Interval& after, double wanted) {
    if (!after.halfWidth) return WishState::NotEnoughRuns;
    if (after.estimate - *after.halfWidth >= wanted) return WishState::Met;
    if (after.estimate + *after.halfWidth < wanted) return WishState::NotMet;
    return WishState::NotEnoughRuns;
}

WishOutcome outcome(Wish wish, double wanted, double bound, const Sides& sides) {
    WishOutcome o;
    o.wish = wish;
    o.wanted = wanted;
    o.before = stats::meanInterval(sides.before).value_or(stats::Interval{});
    o.after = stats::meanInterval(sides.after).value_or(stats::Interval{});
    o.difference = stats::differenceInterval(sides.before, sides.after).value_or(stats::Interval{});
    o.state = judge(o.after, bound);
    return o;
}

WishOutcome pictureOutcome(const Session& session, double floor) {
    WishOutcome o;
    o.wish = Wish::Picture;
    o.wanted = floor;
    const auto exact = [](double v) { return stats::Interval{v, 0.0, 1}; };
    const double before = game::pictureValue(*session.game(), session.edits->baseline);
    const double after = game::pictureValue(*session.game(), session.edits->choice->values);
    o.before = exact(before);
    o.after = exact(after);
    o.difference = exact(after - before);
    o.state = after >= floor ? WishState::Met : WishState::NotMet;
    return o;
}

/// The part with the lowest mean rate over the after runs, or the before runs where there are none yet.
std::string worstPartOf(const Results& r, const std::vector<ProofRun>& runs) {
    const bool anyAfter = std::any_of(runs.begin(), runs.end(), [](const ProofRun& p) { return p.after; });
    std::map<std::string, double> periods;
    for (const auto& run : runs)
        if (run.after == anyAfter)
            for (const auto& part : r.figures(run.id)->parts) periods[part.part] += part.periodMs;
    std::string worst;
    double most = 0;
    for (const auto& [part, sum] : periods)
        if (sum > most) {
            most = sum;
            worst = part;
        }
    return worst;
}

} // namespace

std::optional<Proof> proofOf(const Session& session, const Results& r) {
    if (r.proofRuns.empty() || !session.edits->brief) return std::nullopt;
    const auto& brief = *session.edits->brief;
    Proof proof;
    Sides averages, rates, lows;
    for (const auto& id : r.proofRuns) {
        const auto& run = *session.facts->run(id);
        const auto& figures = *r.figures(id);
        ProofRun p{id, session.facts->orderOf(run)->purpose == run::Purpose::ProofAfter, 0,
                   std::numeric_limits<double>::infinity()};
        for (const auto& part : figures.parts) p.worstPartRate = std::min(p.worstPartRate, 1000 / part.periodMs);
        p.onePercentLow = figures.summary.of(brief.school).onePercent->rate.value();
        averages.add(p.after, figures.summary.average.value());
        rates.add(p.after, p.worstPartRate);
        lows.add(p.after, p.onePercentLow);
        ++(p.after ? proof.after : proof.before);
        proof.runs.push_back(p);
    }
    proof.averageBefore = stats::meanInterval(averages.before).value_or(stats::Interval{});
    proof.averageAfter = stats::meanInterval(averages.after).value_or(stats::Interval{});
    proof.averageDifference = stats::differenceInterval(averages.before, averages.after).value_or(stats::Interval{});
    proof.wishes.push_back(outcome(Wish::Target, brief.target.value(), heldShare * brief.target.value(), rates));
    proof.wishes.back().worstPart = worstPartOf(r, proof.runs);
    if (brief.lowestLow)
        proof.wishes.push_back(outcome(Wish::LowestLow, brief.lowestLow->value(), brief.lowestLow->value(), lows));
    if (brief.pictureFloor && session.game() != nullptr && session.edits->choice)
        proof.wishes.push_back(pictureOutcome(session, *brief.pictureFloor));
    return proof;
}

} // namespace impasto::session
