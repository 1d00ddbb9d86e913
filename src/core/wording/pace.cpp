// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/pace.h>

#include <impasto/wording/bounds.h>
#include <impasto/wording/generation.h>
#include <impasto/wording/numbers.h>

namespace impasto::wording {

std::string capRule(const Words& w, pace::CapSchool school) {
    switch (school) {
    case pace::CapSchool::Target:
        return w.say("the target");
    case pace::CapSchool::Own:
        return w.say("your own");
    case pace::CapSchool::Best:
        return w.say("best for these goals");
    case pace::CapSchool::Generation:
        return w.say("with frame generation");
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
    case pace::CapSchool::Generation:
        return w.say("invented frames between the rendered ones");
    case pace::CapSchool::Best:
        return w.say("of all caps the one that is expected to serve the goals best");
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

std::string syncName(const Words& w, run::Sync sync) {
    switch (sync) {
    case run::Sync::None:
        return w.say("off: tears");
    case run::Sync::Fixed:
        return w.say("on: whole refreshes");
    case run::Sync::Latest:
        return w.say("newest at a refresh");
    case run::Sync::Variable:
        return w.say("variable");
    case run::Sync::VariableTearing:
        return w.say("variable, tears above");
    }
    return {};
}

namespace {

std::string inPlace(const Words& w, run::LimiterPlace place) {
    switch (place) {
    case run::LimiterPlace::Engine:
        return w.say("in the engine");
    case run::LimiterPlace::Present:
        return w.say("at the hand-over");
    case run::LimiterPlace::Driver:
        return w.say("in the driver");
    case run::LimiterPlace::Compositor:
        return w.say("in the compositor");
    }
    return {};
}

std::string refreshOf(const pace::CapPlan& plan, const std::optional<display::Panel>& panel) {
    return wishFps(Fps(plan.refresh.value_or(panel ? panel->refresh : Hertz(0)).value()));
}

} // namespace

std::string capPlan(const Words& w, const pace::CapPlan& plan, const std::optional<display::Panel>& panel) {
    std::string cap = plan.cap ? w.say("cap {} fps", wishFps(*plan.cap)) : w.say("no cap");
    if (plan.cap && plan.limiter) cap = w.say("{}, {},", cap, inPlace(w, *plan.limiter));
    if (plan.generation && plan.generation->target)
        cap = w.say("{}, generation {}", cap, generationTimes(w, *plan.generation));
    else if (plan.generation)
        cap = w.say("base {}, shown {}", cap, generationTimes(w, *plan.generation));
    switch (plan.sync) {
    case run::Sync::Fixed:
    case run::Sync::Latest:
        return w.say("{} with sync at {} Hz", cap, refreshOf(plan, panel));
    case run::Sync::Variable:
    case run::Sync::VariableTearing:
        return w.say("{} with variable refresh", cap);
    case run::Sync::None:
        return w.say("{} without sync", cap);
    }
    return cap;
}

std::string capPlanBeside(const Words& w, const pace::CapPlan& plan, const std::optional<display::Panel>& panel) {
    if (!plan.cap || !plan.limiter || plan.generation) return capPlan(w, plan, panel);
    const auto place = inPlace(w, *plan.limiter);
    switch (plan.sync) {
    case run::Sync::Fixed:
    case run::Sync::Latest:
        return w.say("{}, sync at {} Hz", place, refreshOf(plan, panel));
    case run::Sync::Variable:
    case run::Sync::VariableTearing:
        return w.say("{}, variable refresh", place);
    case run::Sync::None:
        return w.say("{}, no sync", place);
    }
    return place;
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

std::string capFigure(const Words& w, pace::Figure figure, double value) {
    if (figure == pace::Figure::OnTime) return percent(value);
    return w.say("{} fps", fps(value));
}

std::string capBand(const Words& w, pace::Figure figure, const pace::Band& band) {
    const bool share = figure == pace::Figure::OnTime;
    const std::string low = share ? percent(band.low) : fps(band.low),
                      high = share ? percent(band.high) : fps(band.high);
    if (low == high) return capFigure(w, figure, band.middle);
    if (!share) return w.say("{} to {} fps", low, high);
    return w.say("{} to {}", low, high);
}

std::string capPrediction(const Words& w, const pace::CapPrediction& p) {
    const auto band = [](const pace::Band& b) {
        const std::string low = fmt::format("{:.0f}", b.low), high = fmt::format("{:.0f}", b.high);
        return low == high ? low : low + "\u2013" + high;
    };
    return w.say("1% low {}, 0.1% low {} fps", band(p.of(pace::Figure::OnePercentLow)),
                 band(p.of(pace::Figure::TenthPercentLow)));
}

std::string capLoses(const Words& w, const run::Brief& brief, const pace::CapOffer& offer, const pace::CapOffer& best) {
    if (!offer.applies || offer.plan == best.plan) return {};
    const auto& p = offer.prediction;
    const double target = brief.target.value();
    const auto middle = [&](pace::Figure figure) {
        return offer.measured ? offer.measured->of(figure) : p.of(figure).middle;
    };
    if (middle(pace::Figure::LeastPart) < frames::heldAverage * target)
        return w.say("{} fps in the slowest part", fps(middle(pace::Figure::LeastPart)));
    if (middle(pace::Figure::OnTime) < brief.wishedOnTime())
        return w.say("{} on time, {} wanted", percent(middle(pace::Figure::OnTime)), percent(brief.wishedOnTime()));
    if (middle(pace::Figure::SlowestSecond) < frames::heldSecond * target)
        return w.say("a second at {} fps", fps(middle(pace::Figure::SlowestSecond)));
    if (const auto floor = brief.floor()) {
        const auto of =
            brief.floorOf == run::FloorOf::SlowestSecond ? pace::Figure::SlowestSecond : pace::Figure::OnePercentLow;
        if (middle(of) < floor->value()) return w.say("lowest {} of {} fps", fps(middle(of)), wishFps(*floor));
    }
    for (const auto bound : run::allBounds)
        if (const auto &asked = brief.bounds[bound], &is = offer.bounds[bound];
            asked && is && run::missOf(bound, *asked, *is) > 0)
            return boundMissed(w, bound, *asked, *is);
    const auto& b = best.prediction;
    const double low = middle(pace::Figure::OnePercentLow) / b.of(pace::Figure::OnePercentLow).middle - 1;
    const double rate = p.average().value() / b.average().value() - 1;
    const bool saves = brief.style == run::Style::Battery || brief.style == run::Style::Quiet;
    if (brief.style == run::Style::Competitive && p.latencyMs && b.latencyMs && *p.latencyMs > 1.03 * *b.latencyMs)
        return w.say("{} ms later on the panel", ms(*p.latencyMs - *b.latencyMs));
    if (saves && rate > 0.01) return w.say("more power: {} more frames", percent(rate));
    if (low < -0.01) return w.say("1% low {} lower", percent(-low));
    if (rate > 0.01) return w.say("less even: {} more frames, no better lows", percent(rate));
    return w.say("about as good");
}

std::string limiterPlace(const Words& w, run::LimiterPlace place) {
    switch (place) {
    case run::LimiterPlace::Engine:
        return w.say("engine");
    case run::LimiterPlace::Present:
        return w.say("present");
    case run::LimiterPlace::Driver:
        return w.say("driver");
    case run::LimiterPlace::Compositor:
        return w.say("compositor");
    }
    return {};
}

std::string limiterFigures(const Words& w, const pace::HeldAt& held) {
    return w.say("mean latency about {:.0f} ms, neighbours differ by {} ms", held.latencyMs, ms(held.swingMs));
}

Why whyCap(const Words& w, const pace::CapOffer& offer, const pace::CapRules& rules, std::optional<double> latenessMs) {
    const auto late = latenessMs ? w.say("as late as yours was when a cap was run ({} ms on average)",
                                         fmt::format("{:.2f}", *latenessMs))
                                 : w.say("as late as limiters are");
    std::string atPlaces;
    for (const auto& held : offer.places)
        atPlaces += " " + w.say("Applied in {}: {}.", limiterPlace(w, held.place), limiterFigures(w, held));
    return {
        w.say("Cap: {}", capRule(w, offer.school)), capRuleMeaning(w, offer.school, rules),
        capPrediction(w, offer.prediction),
        w.say("The uncapped runs are replayed in time through CPU, GPU and display, the limiter {}. A log cannot tell "
              "which slow frames are background work that idle time would serve, nor what clocks do with the "
              "slack; hence bands. 94 of 100 proofs of simulated games fell into theirs.",
              late),
        (offer.measured ? w.say("It was run: the proof stands beside the prediction.")
                        : w.say("It is a prediction until it is run.")) +
            " " +
            w.say("Set it in the game's own limiter where there is one: a driver's or an outer one holds finished "
                  "work back, which answers later.") +
            atPlaces};
}

} // namespace impasto::wording
