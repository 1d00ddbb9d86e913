// SPDX-License-Identifier: GPL-3.0-or-later
// What hands do at Pace: a cap is chosen, the ten frames go to the slowest.
#include "shell/studio.h"

#include <impasto/results/power.h>
#include <impasto/wording/generation.h>
#include <impasto/wording/headset.h>
#include <impasto/wording/power.h>

#include "stations/hands.h"
#include "stations/pace/pace.h"

#include <QtCore/Qt>
#include <cmath>

namespace impasto::app {
namespace {

using Q = const QString&;

void chooseCap(Studio& s, Q key) {
    const auto* cap = s.view().get<results::CapView>();
    if (cap == nullptr) return;
    for (const auto& offer : cap->offers)
        if (qs(std::string(pace::keyOf(offer.school))) == key && offer.applies)
            return s.apply(
                document::chooseCap({offer.school, offer.plan, results::standingOf(*s.view().results).ofCap()}));
}

StateLine state(const View& view) {
    const auto& cap = view.edits().pacing.cap;
    if (!cap) return notYet();
    if (cap->plan.generation) {
        const QString times = qs(wording::generationTimes(view.w, *cap->plan.generation));
        return cap->plan.cap ? say("%1 %2").arg(qs(wording::wishFps(*cap->plan.cap)), times) : times;
    }
    if (cap->plan.cap) return say("cap %1 fps").arg(qs(wording::wishFps(*cap->plan.cap)));
    return cap->plan.pacedTo() ? say("sync at %1 fps").arg(qs(wording::wishFps(*cap->plan.pacedTo()))) : say("no cap");
}

QString stale(const View& view) {
    return qs(wording::stale(view.w, results::standingOf(*view.results).cap));
}

std::optional<wording::Why> whyInventing(const View& view, Q) {
    const auto* plan = view.get<pace::GenerationPlan>();
    return plan == nullptr ? std::nullopt : std::optional(wording::whyGeneration(view.w, *plan));
}

std::optional<wording::Why> whyWorn(const View& view, Q) {
    const auto* worn = view.get<results::Worn>();
    return worn == nullptr ? std::nullopt
                           : std::optional(wording::whyHeadset(view.w, worn->mode, worn->cpu.has_value()));
}

std::optional<wording::Why> whyPower(const View& view, Q) {
    const auto* caps = view.get<results::CapView>();
    return caps == nullptr || !caps->power ? std::nullopt
                                           : std::optional(wording::whyPower(view.w, *caps->power, view.rules.power));
}

std::optional<wording::Why> whyCap(const View& view, Q key) {
    if (key.isEmpty() && view.get<results::Worn>() != nullptr) return whyWorn(view, key);
    const auto* cap = view.get<results::CapView>();
    if (cap == nullptr) return std::nullopt;
    if (key.isEmpty() && paceFace(view) == PaceFace::Generation) return whyInventing(view, key);
    if (key.isEmpty() && paceFace(view) == PaceFace::Power) return whyPower(view, key);
    if (const auto* own = view.get<results::OwnCap>(); own != nullptr && own->offer && key == QStringLiteral("own"))
        return wording::whyCap(view.w, *own->offer, view.rules, cap->replay.measuredLateness);
    for (const auto& offer : cap->offers)
        if (key.isEmpty() || qs(std::string(pace::keyOf(offer.school))) == key)
            return wording::whyCap(view.w, offer, view.rules, cap->replay.measuredLateness);
    return std::nullopt;
}

/// A cap of one's own.
void takeOwn(Studio& s, std::optional<Fps> cap) {
    const auto& view = s.view();
    if (view.get<results::CapView>() == nullptr || !view.edits().goal.brief) return;
    const auto plan = ownPlan(view, cap);
    s.apply(document::chooseCap({pace::CapSchool::Own, plan, results::standingOf(*view.results).ofCap()}));
}

/// Another sync or mode for the cap that is shown.
void takeChanged(Studio& s, void (*change)(pace::CapPlan&, const std::optional<display::Panel>&)) {
    const auto& view = s.view();
    if (view.get<results::CapView>() == nullptr) return;
    auto plan = shownPlan(view);
    change(plan, view.session.panel());
    s.apply(document::chooseCap({pace::CapSchool::Own, plan, results::standingOf(*view.results).ofCap()}));
}

void nextSync(Studio& s, Q) {
    takeChanged(s, [](pace::CapPlan& plan, const std::optional<display::Panel>& panel) {
        const auto all = pace::syncsOf(panel, plan.cap);
        const auto it = std::find(all.begin(), all.end(), plan.sync);
        plan.sync = it == all.end() || it + 1 == all.end() ? all.front() : *(it + 1);
        if (!plan.refresh && panel) plan.refresh = pace::modesOf(panel).back();
    });
}

void nextMode(Studio& s, Q) {
    takeChanged(s, [](pace::CapPlan& plan, const std::optional<display::Panel>& panel) {
        const auto modes = pace::modesOf(panel);
        if (modes.empty()) return;
        const auto it = std::upper_bound(modes.begin(), modes.end(), plan.refresh.value_or(panel->refresh));
        plan.refresh = it == modes.end() ? modes.front() : *it;
    });
}

/// A cap that was typed; what is wrong with it is told.
std::optional<Fps> typedCap(Studio& s, const char* what, Q text) {
    const auto number = typedNumber(QString(text).remove(QStringLiteral("fps")));
    if (number && *number >= 10 && *number <= 1000) return Fps(*number);
    s.tell(number ? Error{ErrorCode::OutOfRange, "10 to 1000", {{}, {}, {}, what}, Kept::AllAsBefore}
                  : Error{ErrorCode::BadNumber, text.toStdString(), {{}, {}, {}, what}, Kept::AllAsBefore});
    return std::nullopt;
}

void typeCap(Studio& s, Q, Q text) {
    if (text.trimmed().isEmpty() || text.trimmed() == say("none")) return takeOwn(s, std::nullopt);
    if (const auto cap = typedCap(s, "cap", text)) takeOwn(s, cap);
}

void stepCap(Studio& s, Q, int steps) {
    const auto* offer = results::shownOffer(s.view().session, *s.view().results);
    if (offer == nullptr || !offer->plan.pacedTo()) return;
    takeOwn(s, Fps(std::clamp(std::round(offer->plan.pacedTo()->value()) + steps, 10.0, 1000.0)));
}

void dragCap(Studio& s, Q, QPointF at, DragPhase phase, QSizeF easel) {
    auto& dragged = s.state<PaceState>().dragged;
    if (phase == DragPhase::Begin) return;
    const Scale x = paceCapScale(s.view(), easel);
    dragged = std::round(std::clamp(x.value(at.x()), std::max(10.0, x.fromValue), std::min(1000.0, x.toValue)));
    const double cap = *dragged;
    if (phase != DragPhase::Move) dragged.reset();
    if (phase == DragPhase::End) takeOwn(s, Fps(cap));
    s.notify();
}

void stepFrame(Studio& s, Q, int steps) {
    auto& at = s.state<PaceState>().frame;
    const auto* cap = s.view().get<results::CapView>();
    if (cap == nullptr) return;
    const auto last = static_cast<std::ptrdiff_t>(
        pace::replayedFrames(cap->replay, shownPlan(s.view()), shownLimiter(s.view())).frames.size());
    at = static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(at) + steps, 0, last));
    s.notify();
}

/// From one end of the picture to the other through the whole run.
void scrub(Studio& s, Q, QPointF at, DragPhase phase, QSizeF easel) {
    const auto* cap = s.view().get<results::CapView>();
    if (cap == nullptr || phase != DragPhase::Move) return;
    const double share = std::clamp((at.x() - 88) / (easel.width() - 112), 0.0, 1.0);
    const auto frames = pace::replayedFrames(cap->replay, shownPlan(s.view()), shownLimiter(s.view())).frames.size();
    s.state<PaceState>().frame = static_cast<std::size_t>(share * static_cast<double>(frames));
    s.notify();
}

void showFace(Studio& s, PaceFace face) {
    s.state<PaceState>().face = face;
    s.notify();
}

void nextFace(Studio& s) {
    switch (paceFace(s.view())) {
    case PaceFace::Caps:
        return showFace(s, PaceFace::Generation);
    case PaceFace::Generation:
        return showFace(s, PaceFace::Power);
    case PaceFace::Power:
        return showFace(s, PaceFace::Caps);
    }
}

/// A figure of the player's own; empty takes it back.
void typeUpkeep(Studio& s, Q key, Q text) {
    auto upkeep = s.view().edits().pacing.upkeep;
    const auto number =
        text.trimmed().isEmpty() ? std::optional(0.0) : typedNumber(QString(text).remove(QLatin1Char('%')));
    if (!number) return s.tell({ErrorCode::BadNumber, text.toStdString(), {{}, {}, {}, "upkeep"}, Kept::AllAsBefore});
    if (key == QStringLiteral("rest"))
        upkeep.restShare = *number / 100;
    else
        (key == QStringLiteral("hours") ? upkeep.hoursAWeek : upkeep.pricePerKwh) = *number;
    s.apply(document::setUpkeep(upkeep));
}

void takeInvented(Studio& s, const pace::CapPlan& plan) {
    s.state<PaceState>().generation.reset();
    s.apply(document::chooseCap({pace::CapSchool::Generation, plan, results::standingOf(*s.view().results).ofCap()}));
}

void takeGeneration(Studio& s, Q) {
    if (const auto* offer = shownGeneration(s.view())) takeInvented(s, offer->plan);
}

/// A base cap of one's own, for the plan that is shown.
void takeBase(Studio& s, double fps) {
    auto plan = shownInventing(s.view());
    if (!plan || !plan->cap) return;
    plan->cap = Fps(std::clamp(fps, 10.0, 1000.0));
    takeInvented(s, *plan);
}

void stepBase(Studio& s, Q, int steps) {
    if (const auto base = shownBase(s.view())) takeBase(s, std::round(base->value()) + steps);
}

void typeBase(Studio& s, Q, Q text) {
    if (const auto base = typedCap(s, "base cap", text)) takeBase(s, base->value());
}

void dragBase(Studio& s, Q, QPointF at, DragPhase phase, QSizeF easel) {
    auto& dragged = s.state<PaceState>().draggedBase;
    if (phase == DragPhase::Begin || !shownBase(s.view())) return;
    const Scale x = paceBaseScale(s.view(), easel);
    dragged = std::round(std::clamp(x.value(at.x()), std::max(10.0, x.fromValue), x.toValue));
    const double base = *dragged;
    if (phase == DragPhase::End) takeBase(s, base);
    if (phase != DragPhase::Move) dragged.reset();
    s.notify();
}

/// The first press looks, the second one takes.
void pickGeneration(Studio& s, Q key) {
    const auto* plan = s.view().get<pace::GenerationPlan>();
    const auto index = static_cast<std::size_t>(key.toULongLong());
    if (plan == nullptr || index >= plan->offers.size()) return;
    if (shownGeneration(s.view()) == &plan->offers[index]) return takeGeneration(s, key);
    s.state<PaceState>().generation = index;
    s.notify();
}

/// The cap that is shown, applied where the frames are looked at.
void takePlace(Studio& s) {
    const auto* caps = s.view().get<results::CapView>();
    if (caps == nullptr) return;
    auto plan = shownPlan(s.view());
    const auto place = shownLimiter(s.view());
    if (!plan.cap || plan.limiter.value_or(caps->replay.limiter) == place) return;
    plan.limiter = place == caps->replay.limiter ? std::nullopt : std::optional(place);
    s.state<PaceState>().limiter.reset();
    const auto school = plan.generation ? pace::CapSchool::Generation : pace::CapSchool::Own;
    s.apply(document::chooseCap({school, plan, results::standingOf(*s.view().results).ofCap()}));
}

/// The first press looks, the second one takes.
void lookAtPlace(Studio& s, Q key) {
    const auto place = run::limiterPlaceOf(key.toStdString());
    if (place == shownLimiter(s.view())) return takePlace(s);
    s.state<PaceState>().limiter = place;
    s.notify();
}

void nextPlace(Studio& s) {
    const auto at = static_cast<std::size_t>(shownLimiter(s.view())) + 1;
    s.state<PaceState>().limiter = run::allLimiterPlaces[at % run::allLimiterPlaces.size()];
    s.notify();
}

void wearAt(Studio& s, Q key) {
    s.apply(document::setTarget(Fps(key.toDouble())));
}

void showFrames(Studio& s, bool frames) {
    s.state<PaceState>().frames = frames;
    s.notify();
}

} // namespace

void nextWorstFrame(Studio& s) {
    const auto* cap = s.view().get<results::CapView>();
    if (cap == nullptr || cap->offers.empty()) return;
    auto& at = s.state<PaceState>().frame;
    const auto frames = pace::replayedFrames(cap->replay, shownPlan(s.view()), shownLimiter(s.view())).frames;
    std::size_t worst = 0;
    double most = 0;
    for (std::size_t i = 20; i + 20 < frames.size(); ++i)
        if (const double gap = frames[i].shown - frames[i - 1].shown; gap > most && (i < at || i > at + 10)) {
            most = gap;
            worst = i;
        }
    at = worst > 5 ? worst - 5 : 0;
    s.notify();
}

Station paceStation() {
    using path::Action;
    Station station{{"pace"}, "Pace", {Action::ChooseCap}, {Action::RecordCheck}, state, stale};
    station.easel = layoutPace;
    station.column = layoutPaceColumn;
    station.hands = {{"cap.", chooseCap},
                     {"pace.cap", nullptr, typeCap},
                     {"pace.knob", nullptr, nullptr, stepCap, dragCap},
                     {"pace.face.caps", [](Studio& s, Q) { showFace(s, PaceFace::Caps); }},
                     {"pace.face.generation", [](Studio& s, Q) { showFace(s, PaceFace::Generation); }},
                     {"pace.face.power", [](Studio& s, Q) { showFace(s, PaceFace::Power); }},
                     {"upkeep.", nullptr, typeUpkeep},
                     {"pace.sync", nextSync},
                     {"pace.mode", nextMode},
                     {"generation.", pickGeneration},
                     {"generation.take", takeGeneration},
                     {"generation.base", nullptr, typeBase},
                     {"generation.knob", nullptr, nullptr, stepBase, dragBase},
                     {"worn.", wearAt},
                     {"pace.life", nullptr, nullptr, stepFrame, scrub},
                     {"pace.place.", lookAtPlace},
                     {"pace.frames", [](Studio& s, Q) { showFrames(s, true); }},
                     {"pace.caps", [](Studio& s, Q) { showFrames(s, false); }}};
    station.keys = {{Qt::Key_G, "G", "caps, frame generation or power", nextFace},
                    {Qt::Key_L, "L", "the cap applied elsewhere", nextPlace},
                    {Qt::Key_A, "A", "apply the cap there", takePlace},
                    {Qt::Key_N, "N", "the slowest frames", nextWorstFrame},
                    {Qt::Key_V, "V", "frames or caps, in a low window",
                     [](Studio& s) { showFrames(s, !s.state<PaceState>().frames); }}};
    station.topics = {{"cap", whyCap}, {"generation", whyInventing}, {"worn", whyWorn}, {"power", whyPower}};
    station.topic = "cap";
    station.shots = {{"pace", Action::ChooseCap,
                      [](Studio& s) {
                          s.state<PaceState>().face = PaceFace::Caps;
                          nextWorstFrame(s);
                      }},
                     {"pace-generation", Action::ChooseCap,
                      [](Studio& s) {
                          s.state<PaceState>().generation = 4;
                          showFace(s, PaceFace::Generation);
                          nextWorstFrame(s);
                      }},
                     {"pace-power", Action::Done, [](Studio& s) {
                          s.apply(document::setUpkeep({10, 0.3, 0.25}));
                          showFace(s, PaceFace::Power);
                      }}};
    return station;
}

} // namespace impasto::app
