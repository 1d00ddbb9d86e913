// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/proof/proof.h>

#include <algorithm>

namespace impasto::proof {
namespace {

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

/// What is asked besides rates, of all runs.
template <class Sided, class FiguresOf>
void addBounds(std::vector<WishOutcome>& to, std::span<const Sided> runs, const run::Brief& brief,
               const FiguresOf& figuresOf) {
    for (const auto bound : run::allBounds) {
        const auto& asked = brief.bounds[bound];
        if (!asked) continue;
        Sides sides, turned; // what is to be small, turned over
        bool untold = false;
        for (const auto& side : runs) {
            const auto value = figuresOf(side)[bound];
            untold = untold || (side.after && !value);
            if (!value) continue;
            sides.add(side.after, *value);
            turned.add(side.after, run::isLeast(bound) ? *value : -*value);
        }
        auto o = outcome(Wish::Bound, *asked, *asked, sides);
        o.state = untold ? WishState::NotEnoughRuns : judge(turned.after, run::isLeast(bound) ? *asked : -*asked);
        o.bound = bound;
        o.untold = untold;
        to.push_back(std::move(o));
    }
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

WishState together(std::span<const PartOutcome> parts) {
    const auto any = [&](WishState state) {
        return std::any_of(parts.begin(), parts.end(), [state](const PartOutcome& p) { return p.state == state; });
    };
    if (parts.empty()) return WishState::NotEnoughRuns;
    return any(WishState::NotMet)          ? WishState::NotMet
           : any(WishState::NotEnoughRuns) ? WishState::NotEnoughRuns
                                           : WishState::Met;
}

const frames::PartHeld* partOf(const Side& run, const std::string& name) {
    const auto it = std::find_if(run.parts->begin(), run.parts->end(), [&](const auto& p) { return p.part == name; });
    return it == run.parts->end() ? nullptr : &*it;
}

PartOutcome partOutcome(const std::string& name, std::span<const Side> runs, const run::Brief& brief) {
    PartOutcome part{name, {}, WishState::Met};
    for (const auto figure : frames::allHeldFigures) {
        Sides sides;
        for (const auto& run : runs)
            if (const auto* held = partOf(run, name)) sides.add(run.after, frames::valueOf(*held, figure));
        const double least = frames::boundOf(figure, brief.target, brief.wishedOnTime());
        const auto whole = outcome(Wish::Target, least, least, sides);
        part.figures[static_cast<std::size_t>(figure)] = {least, whole.before, whole.after, whole.difference,
                                                          whole.state};
        if (whole.state == WishState::NotMet || part.state == WishState::Met) part.state = whole.state;
    }
    return part;
}

/// Every part that all runs have, in the order of the first.
std::vector<PartOutcome> partOutcomes(std::span<const Side> runs, const run::Brief& brief) {
    std::vector<PartOutcome> out;
    for (const auto& part : *runs.front().parts)
        if (std::all_of(runs.begin(), runs.end(), [&](const Side& s) { return partOf(s, part.part) != nullptr; }))
            out.push_back(partOutcome(part.part, runs, brief));
    return out;
}

/// Missed first, then open.
int rankOf(WishState state) {
    return state == WishState::NotMet ? 0 : state == WishState::NotEnoughRuns ? 1 : 2;
}

std::size_t countOf(const std::vector<WishOutcome>& wishes, WishState state) {
    return static_cast<std::size_t>(
        std::count_if(wishes.begin(), wishes.end(), [state](const auto& w) { return w.state == state; }));
}

/// How far a figure lies over its bound, as a share of it; of the side that is there.
double reach(const HeldOutcome& h) {
    const auto& side = h.after.count > 0 ? h.after : h.before;
    return h.least > 0 ? side.estimate / h.least : 1e9; // nothing is asked of it
}

} // namespace

frames::HeldFigure PartOutcome::worst() const {
    const auto rank = [this](frames::HeldFigure figure) {
        return std::pair(rankOf(of(figure).state), reach(of(figure)));
    };
    return *std::min_element(frames::allHeldFigures.begin(), frames::allHeldFigures.end(),
                             [&](frames::HeldFigure a, frames::HeldFigure b) { return rank(a) < rank(b); });
}

double WishOutcome::keeps(double value) const {
    return atMost() ? wanted / std::max(value, 1e-9) : value / wanted;
}

bool Proof::wantsRuns() const {
    return std::any_of(wishes.begin(), wishes.end(),
                       [](const auto& w) { return w.state == WishState::NotEnoughRuns && !w.untold; });
}

std::size_t Proof::met() const {
    return countOf(wishes, WishState::Met);
}

std::size_t Proof::open() const {
    return countOf(wishes, WishState::NotEnoughRuns);
}

const PartOutcome* Proof::worst() const {
    const auto rank = [](const PartOutcome& p) { return std::pair(rankOf(p.state), reach(p.of(p.worst()))); };
    const auto it = std::min_element(parts.begin(), parts.end(),
                                     [&](const PartOutcome& a, const PartOutcome& b) { return rank(a) < rank(b); });
    return it == parts.end() ? nullptr : &*it;
}

double lowOf(const frames::Summary& summary, const run::Brief& brief) {
    if (brief.floorOf == run::FloorOf::SlowestSecond) return summary.slowestSecond.value();
    return summary.of(brief.lowRule).onePercent->rate.value();
}

double confidenceOfLook() {
    return 1 - 2 * levelOfALook;
}

std::optional<Proof> prove(std::span<const Side> runs, const run::Brief& brief,
                           const std::optional<Pictures>& pictures) {
    if (runs.empty()) return std::nullopt;
    Proof proof;
    Sides averages, lows;
    for (const auto& side : runs) {
        ProofRun p{side.id, side.after, lowOf(*side.summary, brief), side.summary->average.value()};
        for (const auto& part : *side.parts) p.worstPartRate = std::min(p.worstPartRate, part.average.value());
        averages.add(p.after, side.summary->average.value());
        lows.add(p.after, p.low);
        ++(p.after ? proof.after : proof.before);
        proof.runs.push_back(p);
    }
    proof.averageBefore = stats::meanInterval(averages.before).value_or(stats::Interval{});
    proof.averageAfter = stats::meanInterval(averages.after).value_or(stats::Interval{});
    proof.averageDifference = stats::differenceInterval(averages.before, averages.after).value_or(stats::Interval{});
    proof.parts = partOutcomes(runs, brief);
    WishOutcome target{Wish::Target, brief.target.value(), {}, {}, {}, together(proof.parts), {}, {}};
    if (const auto* worst = proof.worst()) {
        const auto& rate = worst->of(frames::HeldFigure::Average);
        target.before = rate.before;
        target.after = rate.after;
        target.difference = rate.difference;
        target.worstPart = worst->part;
    }
    proof.wishes.push_back(std::move(target));
    if (const auto floor = brief.floor()) {
        proof.wishes.push_back(outcome(Wish::LowestLow, floor->value(), floor->value(), lows));
        proof.wishes.back().floorOf = brief.floorOf;
    }
    if (brief.pictureFloor && pictures) proof.wishes.push_back(pictureOutcome(*pictures, *brief.pictureFloor));
    if (brief.shown) {
        Sides shown;
        for (const auto& side : runs) shown.add(side.after, side.shown.value());
        proof.wishes.push_back(
            outcome(Wish::Shown, brief.shown->value(), frames::heldAverage * brief.shown->value(), shown));
    }
    addBounds(proof.wishes, runs, brief, [](const Side& side) { return side.bounds; });
    return proof;
}

std::optional<Proof> prove(std::span<const ReadSide> runs, const run::Brief& brief,
                           const std::optional<Pictures>& pictures) {
    if (runs.empty()) return std::nullopt;
    Proof proof;
    proof.readOff = true;
    Sides averages, leasts, lows;
    for (const auto& side : runs) {
        const auto& f = *side.figures;
        const auto low = brief.floorOf == run::FloorOf::SlowestSecond ? f.least : f.onePercentLow;
        averages.add(side.after, f.average.value());
        if (f.least) leasts.add(side.after, f.least->value());
        if (low) lows.add(side.after, low->value());
        ++(side.after ? proof.after : proof.before);
        proof.runs.push_back({side.id, side.after, low ? low->value() : 0, f.average.value()});
    }
    PartOutcome whole{{}, {}, WishState::Met};
    for (const auto& [figure, sides] :
         {std::pair(frames::HeldFigure::Average, &averages), {frames::HeldFigure::SlowestSecond, &leasts}}) {
        const double least = figure == frames::HeldFigure::Average
                                 ? heldCounter * brief.target.value()
                                 : frames::boundOf(figure, brief.target, brief.wishedOnTime());
        auto o = outcome(Wish::Target, least, least, *sides);
        if (sides->after.size() < proof.after) o.state = WishState::NotEnoughRuns;
        whole.figures[static_cast<std::size_t>(figure)] = {least, o.before, o.after, o.difference, o.state};
        if (o.state == WishState::NotMet || whole.state == WishState::Met) whole.state = o.state;
    }
    whole.figures[static_cast<std::size_t>(frames::HeldFigure::OnTime)].state = WishState::Met; // not asked
    const auto& rate = whole.of(frames::HeldFigure::Average);
    proof.averageBefore = rate.before;
    proof.averageAfter = rate.after;
    proof.averageDifference = rate.difference;
    proof.wishes.push_back(
        {Wish::Target, brief.target.value(), rate.before, rate.after, rate.difference, whole.state, {}, {}});
    proof.wishes.back().overRoute = true;
    proof.parts.push_back(std::move(whole));
    if (const auto floor = brief.floor()) {
        auto o = outcome(Wish::LowestLow, floor->value(), floor->value(), lows);
        if (lows.after.size() < proof.after) o.state = WishState::NotEnoughRuns;
        o.floorOf = brief.floorOf;
        proof.wishes.push_back(std::move(o));
    }
    if (brief.pictureFloor && pictures) proof.wishes.push_back(pictureOutcome(*pictures, *brief.pictureFloor));
    addBounds(proof.wishes, runs, brief, [](const ReadSide&) { return run::BoundFigures(); }); // a counter tells none
    return proof;
}

} // namespace impasto::proof
