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
    }
    return {};
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
