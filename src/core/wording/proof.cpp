// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/proof.h>

#include <impasto/wording/numbers.h>

namespace impasto::wording {

std::string goal(const Words& w, const proof::WishOutcome& outcome) {
    switch (outcome.wish) {
    case proof::Wish::Target:
        if (outcome.overRoute) return w.say("{} fps over the route", wishFps(Fps(outcome.wanted)));
        return w.say("{} fps in every part", wishFps(Fps(outcome.wanted)));
    case proof::Wish::LowestLow:
        return w.say("{} of {} fps",
                     outcome.floorOf == run::FloorOf::SlowestSecond ? w.say("slowest second") : w.say("1% low"),
                     wishFps(Fps(outcome.wanted)));
    case proof::Wish::Picture:
        return w.say("{} of the picture", percent(outcome.wanted));
    case proof::Wish::Shown:
        return w.say("{} fps shown", wishFps(Fps(outcome.wanted)));
    case proof::Wish::Bound:
        return boundAsked(w, *outcome.bound, outcome.wanted);
    }
    return {};
}

namespace {

/// What a goal's numbers are multiplied by to be shown.
double unitOf(const proof::WishOutcome& o) {
    if (o.bound) return 1 / typedFrom(*o.bound, 1);
    return o.wish == proof::Wish::Picture ? 100 : 1;
}

std::string withUnit(const Words& w, const proof::WishOutcome& o, const std::string& number) {
    if (unitOf(o) > 1) return number + "%";
    return o.bound ? number + " " + boundUnit(w, *o.bound) : w.say("{} fps", number);
}

} // namespace

std::string goalFigure(const Words& w, const proof::WishOutcome& outcome, double value) {
    if (outcome.bound) return boundFigure(w, *outcome.bound, value);
    return outcome.wish == proof::Wish::Picture ? percent(value) : fps(value);
}

std::string goalInterval(const Words& w, const proof::WishOutcome& outcome, const stats::Interval& side) {
    if (side.count == 0) return "?";
    const double unit = unitOf(outcome);
    const bool exact = side.halfWidth && *side.halfWidth == 0;
    return withUnit(w, outcome,
                    plusMinus(side.estimate * unit,
                              side.halfWidth && !exact ? std::optional(*side.halfWidth * unit) : std::nullopt,
                              exact ? 0 : 1));
}

std::string goalChange(const Words& w, const proof::WishOutcome& outcome) {
    const double unit = unitOf(outcome);
    const auto& half = outcome.difference.halfWidth;
    const bool exact = half && *half == 0;
    return withUnit(w, outcome,
                    signedPlusMinus(outcome.difference.estimate * unit,
                                    half && !exact ? std::optional(*half * unit) : std::nullopt, exact ? 0 : 1));
}

std::string goalShort(const Words& w, const proof::WishOutcome& outcome) {
    const double unit = unitOf(outcome);
    if (outcome.untold)
        return w.say("{}: not every run after tells it. A log has to tell {}.", goal(w, outcome),
                     boundTold(w, *outcome.bound));
    if (outcome.state == proof::WishState::NotEnoughRuns)
        return w.say("{} is within the error of {} runs. More runs narrow it.", goal(w, outcome), outcome.after.count);
    const auto& half = outcome.after.halfWidth;
    return w.say("{} is missed by {}.", goal(w, outcome),
                 withUnit(w, outcome,
                          plusMinus(std::abs(outcome.wanted - outcome.after.estimate) * unit,
                                    half ? std::optional(*half * unit) : std::nullopt, 1)));
}

std::string saveAs(const Words& w, const proof::Proof* proof) {
    if (proof == nullptr || proof->met() == proof->wishes.size()) return w.say("Save the result");
    return proof->met() + proof->open() == proof->wishes.size() ? w.say("Save as not proven")
                                                                : w.say("Save as not held");
}

std::string savedAs(const Words& w, const document::KeptResult& kept) {
    if (kept.held()) return w.say("The result is saved");
    return kept.missed() ? w.say("Saved as not held") : w.say("Saved as not proven");
}

std::string heldFigure(const Words& w, const proof::PartOutcome& part) {
    const auto figure = part.worst();
    const auto& o = part.of(figure);
    switch (figure) {
    case frames::HeldFigure::Average:
        return w.say("average {} fps of at least {}", plusMinus(o.after.estimate, o.after.halfWidth, 1), fps(o.least));
    case frames::HeldFigure::OnTime:
        return w.say("{} of frames on time, {} wanted", percent(o.after.estimate), percent(o.least));
    case frames::HeldFigure::SlowestSecond:
        return w.say("slowest second {} fps of at least {}", plusMinus(o.after.estimate, o.after.halfWidth, 1),
                     fps(o.least));
    }
    return {};
}

std::string heldFigureName(const Words& w, frames::HeldFigure figure) {
    switch (figure) {
    case frames::HeldFigure::Average:
        return w.say("average");
    case frames::HeldFigure::OnTime:
        return w.say("on time");
    case frames::HeldFigure::SlowestSecond:
        return w.say("slowest second");
    }
    return {};
}

std::string goalState(const Words& w, proof::WishState state) {
    switch (state) {
    case proof::WishState::Met:
        return w.say("met");
    case proof::WishState::NotMet:
        return w.say("not met");
    case proof::WishState::NotEnoughRuns:
        return w.say("not enough runs");
    }
    return {};
}

} // namespace impasto::wording
