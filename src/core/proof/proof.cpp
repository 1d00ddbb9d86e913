// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/proof/proof.h>

#include <limits>

namespace impasto::proof {
namespace {

/// A rate counts as held from 99% of the goal: a capped run stays a limiter's error under its cap.
constexpr double heldShare = 0.99;
/// One-sided level of each of four looks. With it 2.5% of proofs at the bound are called met at some look; found by
/// simulation, tests/proof/proof_test.cpp repeats it.
constexpr double levelOfALook = 0.0093;

struct Sides {
    std::vector<double> before, after;
    void add(bool isAfter, double value) { (isAfter ? after : before).push_back(value); }
};

WishState judge(const std::vector<double>& after, double wanted) {
    const auto interval = stats::meanInterval(after, confidenceOfLook());
    if (!interval || after.size() < firstLook) return WishState::NotEnoughRuns;
    // Runs that a panel holds at one rate do not differ at all.
    if (!interval->halfWidth) return interval->estimate >= wanted ? WishState::Met : WishState::NotMet;
    if (interval->estimate - *interval->halfWidth >= wanted) return WishState::Met;
    if (interval->estimate + *interval->halfWidth < wanted) return WishState::NotMet;
    return WishState::NotEnoughRuns;
}

WishOutcome outcome(Wish wish, double wanted, double bound, const Sides& sides) {
    WishOutcome o;
    o.wish = wish;
    o.wanted = wanted;
    o.before = stats::meanInterval(sides.before).value_or(stats::Interval{});
    o.after = stats::meanInterval(sides.after).value_or(stats::Interval{});
    o.difference = stats::differenceInterval(sides.before, sides.after).value_or(stats::Interval{});
    o.state = judge(sides.after, bound);
    return o;
}

WishOutcome pictureOutcome(const Pictures& pictures, double floor) {
    WishOutcome o;
    o.wish = Wish::Picture;
    o.wanted = floor;
    const auto exact = [](double v) { return stats::Interval{v, 0.0, 1}; };
    o.before = exact(pictures.before);
    o.after = exact(pictures.after);
    o.difference = exact(pictures.after - pictures.before);
    o.state = pictures.after >= floor ? WishState::Met : WishState::NotMet;
    return o;
}

/// The part with the lowest mean rate over the after runs, or the before runs where there are none yet.
std::string worstPartOf(std::span<const Side> runs) {
    const bool anyAfter = std::any_of(runs.begin(), runs.end(), [](const Side& s) { return s.after; });
    std::map<std::string, double> periods;
    for (const auto& run : runs)
        if (run.after == anyAfter)
            for (const auto& part : *run.parts) periods[part.part] += part.periodMs;
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

double confidenceOfLook() {
    return 1 - 2 * levelOfALook;
}

std::optional<Proof> prove(std::span<const Side> runs, const run::Brief& brief,
                           const std::optional<Pictures>& pictures) {
    if (runs.empty()) return std::nullopt;
    Proof proof;
    Sides averages, rates, lows;
    for (const auto& side : runs) {
        ProofRun p{side.id, side.after, 0, std::numeric_limits<double>::infinity()};
        for (const auto& part : *side.parts) p.worstPartRate = std::min(p.worstPartRate, 1000 / part.periodMs);
        p.onePercentLow = side.summary->of(brief.lowRule).onePercent->rate.value();
        averages.add(p.after, side.summary->average.value());
        rates.add(p.after, p.worstPartRate);
        lows.add(p.after, p.onePercentLow);
        ++(p.after ? proof.after : proof.before);
        proof.runs.push_back(p);
    }
    proof.averageBefore = stats::meanInterval(averages.before).value_or(stats::Interval{});
    proof.averageAfter = stats::meanInterval(averages.after).value_or(stats::Interval{});
    proof.averageDifference = stats::differenceInterval(averages.before, averages.after).value_or(stats::Interval{});
    proof.wishes.push_back(outcome(Wish::Target, brief.target.value(), heldShare * brief.target.value(), rates));
    proof.wishes.back().worstPart = worstPartOf(runs);
    if (const auto floor = brief.floor())
        proof.wishes.push_back(outcome(Wish::LowestLow, floor->value(), floor->value(), lows));
    if (brief.pictureFloor && pictures) proof.wishes.push_back(pictureOutcome(*pictures, *brief.pictureFloor));
    return proof;
}

} // namespace impasto::proof
