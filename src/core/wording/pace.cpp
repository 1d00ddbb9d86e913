// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/pace.h>

#include <impasto/wording/numbers.h>

namespace impasto::wording {

std::string capRule(const Words& w, pace::CapSchool school) {
    switch (school) {
    case pace::CapSchool::Target:
        return w.say("the target");
    case pace::CapSchool::Own:
        return w.say("your own");
    case pace::CapSchool::Steady:
        return w.say("best lows");
    case pace::CapSchool::Headroom:
        return w.say("headroom");
    case pace::CapSchool::BottomOfRange:
        return w.say("slowest seconds");
    case pace::CapSchool::Even:
        return w.say("even for the panel");
    case pace::CapSchool::Window:
        return w.say("inside the variable range");
    case pace::CapSchool::None:
        return w.say("no cap");
    }
    return {};
}

std::string capRuleMeaning(const Words& w, pace::CapSchool school, const pace::CapRules& rules) {
    switch (school) {
    case pace::CapSchool::Target:
        return w.say("the target, or just enough above it");
    case pace::CapSchool::Own:
        return w.say("dragged or typed");
    case pace::CapSchool::Steady:
        return w.say("best 1% low that holds the target");
    case pace::CapSchool::Headroom:
        return w.say("leaves slack for {} of the work", percent(rules.headroomQuantile));
    case pace::CapSchool::BottomOfRange:
        return w.say("reached in {} of all seconds", percent(1 - rules.bottomQuantile));
    case pace::CapSchool::Even:
        return w.say("whole refreshes per frame");
    case pace::CapSchool::Window:
        return w.say("just under the top of the range");
    case pace::CapSchool::None:
        return w.say("lowest latency");
    }
    return {};
}

std::string capPlan(const Words& w, const pace::CapPlan& plan, const std::optional<display::Panel>& panel) {
    const std::string cap = plan.cap ? w.say("cap {} fps", wishFps(*plan.cap)) : w.say("no cap");
    switch (plan.sync) {
    case run::Sync::Fixed:
    case run::Sync::Latest:
        return w.say("{} with sync at {} Hz", cap,
                     wishFps(Fps(plan.refresh.value_or(panel ? panel->refresh : Hertz(0)).value())));
    case run::Sync::Variable:
    case run::Sync::VariableTearing:
        return w.say("{} with variable refresh", cap);
    case run::Sync::None:
        return w.say("{} without sync", cap);
    }
    return cap;
}

std::string capConflict(const Words& w, pace::CapConflict conflict) {
    switch (conflict) {
    case pace::CapConflict::AbovePanel:
        return w.say("faster than the panel");
    case pace::CapConflict::InsideMargin:
        return w.say("leaves the variable range at the top");
    case pace::CapConflict::NoCap:
        return w.say("leaves the variable range at the top");
    case pace::CapConflict::Uneven:
        return w.say("uneven on this panel");
    case pace::CapConflict::Headset:
        return w.say("the headset paces the frames itself");
    }
    return {};
}

std::string capPrediction(const Words& w, const pace::CapPrediction& p) {
    if (!p.onePercentLow) return w.say("average {} fps; lows unknown until it is run", fps(p.average.value()));
    const auto band = [](const pace::Band& b) {
        const std::string low = fmt::format("{:.0f}", b.low), high = fmt::format("{:.0f}", b.high);
        return low == high ? low : low + "\u2013" + high;
    };
    return w.say("1% low {}, 0.1% low {} fps", band(*p.onePercentLow), band(*p.tenthPercentLow));
}

Why whyCap(const Words& w, const pace::CapOffer& offer, const pace::CapRules& rules) {
    return {w.say("Cap: {}", capRule(w, offer.school)), capRuleMeaning(w, offer.school, rules),
            capPrediction(w, offer.prediction),
            w.say("The run's frames are replayed through CPU, GPU and display with three frames in flight. A log "
                  "cannot tell which slow frames are background work that idle time would absorb; hence a band. "
                  "Clocks, heat and memory are not modelled."),
            w.say("It is a prediction until it is run.")};
}

} // namespace impasto::wording
