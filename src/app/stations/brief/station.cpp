// SPDX-License-Identifier: GPL-3.0-or-later
// What hands do at Brief: every part of the sentence is said anew.
#include "shell/studio.h"
#include "stations/brief/brief.h"
#include "stations/hands.h"

#include <QtCore/QRegularExpression>
#include <impasto/wording/bounds.h>

namespace impasto::app {
namespace {

using Q = const QString&;

template <class Things, class Now>
const auto& nextOf(const Things& things, const Now& isNow) {
    for (std::size_t i = 0; i < std::size(things); ++i)
        if (isNow(things[i])) return things[(i + 1) % std::size(things)];
    return things[0];
}

void change(Studio& s, void (*what)(run::Brief&, Q), Q text) {
    if (!s.view().edits().goal.brief) return;
    run::Brief brief = *s.view().edits().goal.brief;
    what(brief, text);
    s.apply(document::setBrief(brief));
}

std::optional<double> rateOf(Q text) {
    return typedNumber(QString(text).remove(QLatin1Char('%')).remove(QStringLiteral("fps")));
}

/// A share of the brief, as a percentage; anything else: not said.
template <std::optional<double> run::Brief::*share>
void typeShareOf(Studio& s, Q, Q text) {
    change(
        s,
        [](run::Brief& b, Q t) {
            const auto n = rateOf(t);
            b.*share = n ? std::optional(*n / 100) : std::nullopt;
        },
        text);
}

/// A rate of the brief; anything else: none.
template <std::optional<Fps> run::Brief::*rate>
void typeRateOf(Studio& s, Q, Q text) {
    change(
        s,
        [](run::Brief& b, Q t) {
            const auto n = rateOf(t);
            b.*rate = n ? std::optional(Fps(*n)) : std::nullopt;
        },
        text);
}

/// A bound by its key; anything but a number: none.
void typeBound(Studio& s, Q key, Q text) {
    if (!s.view().edits().goal.brief) return;
    run::Brief brief = *s.view().edits().goal.brief;
    const auto typed = typedNumber(QString(text).remove(QRegularExpression(QStringLiteral("[^0-9.,]"))));
    for (const auto bound : run::allBounds)
        if (key == QLatin1String(run::keyOf(bound)))
            brief.bounds[bound] = typed ? std::optional(wording::typedFrom(bound, *typed)) : std::nullopt;
    s.apply(document::setBrief(brief));
}

void typeTarget(Studio& s, Q, Q text) {
    const auto number = rateOf(text);
    if (!number) return s.tell({ErrorCode::BadNumber, text.toStdString(), {{}, {}, {}, "target"}, Kept::AllAsBefore});
    s.apply(document::setTarget(Fps(*number)));
}

void stepTarget(Studio& s, Q, int steps) {
    if (const auto& brief = s.view().edits().goal.brief)
        s.apply(document::setTarget(Fps(brief->target.value() + steps)));
}

void nextRoute(Studio& s, Q) {
    const auto* game = s.view().session.game();
    if (game == nullptr) return;
    const auto& next =
        nextOf(game->routes, [&](const game::Route& r) { return r.name == s.view().edits().subject.route; });
    s.apply(document::setRoute(*game, next.name));
}

void typeShare(Studio& s, Q rest, Q text) {
    const auto typed = typedNumber(QString(text).remove(QLatin1Char('%')));
    const auto share = typed ? std::optional(*typed / 100) : std::nullopt; // anything else: as measured
    auto shares = s.view().edits().goal.shares;
    (rest == QStringLiteral("cpu") ? shares.cpu : shares.gpu) = share;
    s.apply(document::setShares(shares));
}

/// Not said, a mouse, a pad.
void nextSteering(Studio& s, Q) {
    change(s,
           [](run::Brief& b, Q) {
               if (b.steering == run::Steering::Pad)
                   b.steering.reset();
               else
                   b.steering = b.steering ? run::Steering::Pad : run::Steering::Mouse;
           },
           {});
}

void begin(Studio& s, Q) {
    s.go(briefStation().id);
    if (!s.view().edits().goal.brief) s.apply(document::setBrief(run::Brief{}));
}

StateLine state(const View& view) {
    const auto& brief = view.edits().goal.brief;
    return brief ? say("%1 fps %2").arg(qs(wording::wishFps(brief->target)), qs(wording::style(view.w, brief->style)))
                 : notYet();
}

/// What is typed into the sentence besides the target.
std::vector<Hand> valueHands() {
    return {{"brief.floor", nullptr, typeRateOf<&run::Brief::lowestLow>},
            {"brief.shown", nullptr, typeRateOf<&run::Brief::shown>},
            {"brief.picture", nullptr, typeShareOf<&run::Brief::pictureFloor>},
            {"bound.", nullptr, typeBound},
            {"brief.steering", nextSteering},
            {"brief.floorof",
             [](Studio& s, Q) {
                 change(s,
                        [](run::Brief& b, Q) {
                            b.floorOf = b.floorOf == run::FloorOf::OnePercentLow ? run::FloorOf::SlowestSecond
                                                                                 : run::FloorOf::OnePercentLow;
                        },
                        {});
             }},
            {"brief.ontime", nullptr, typeShareOf<&run::Brief::onTimeShare>},
            {"brief.tolerance", nullptr, typeShareOf<&run::Brief::tolerance>}};
}

} // namespace

Station briefStation() {
    using path::Action;
    Station station{{"brief"}, "Brief", {Action::SayBrief}, {}, state};
    station.easel = layoutBrief;
    station.column = layoutBriefColumn;
    station.hands = {
        {"brief.begin", begin},
        {"begin.3", begin},
        {"bar.",
         [](Studio& s, Q part) {
             s.go(part == QStringLiteral("panel") ? stationDoing(Action::SayMachine) : briefStation().id);
         }},
        {"brief.target", nullptr, typeTarget, stepTarget},
        {"brief.ruler", nullptr, nullptr, stepTarget},
        {"brief.style",
         [](Studio& s, Q) {
             change(s,
                    [](run::Brief& b, Q) {
                        b.style = nextOf(run::allStyles, [&](run::Style style) { return style == b.style; });
                    },
                    {});
         }},
        {"brief.lows",
         [](Studio& s, Q) {
             change(s,
                    [](run::Brief& b, Q) {
                        b.lowRule = nextOf(stats::allLowRules, [&](stats::LowRule rule) { return rule == b.lowRule; });
                    },
                    {});
         }},
        {"brief.route", nextRoute},
        {"brief.scene",
         [](Studio& s, Q) {
             s.apply(document::setScene(
                 nextOf(game::allSceneKinds, [&](game::SceneKind kind) { return kind == s.view().session.scene(); })));
         }},
        {"style.",
         [](Studio& s, Q key) {
             change(
                 s, [](run::Brief& b, Q k) { b.style = run::styleOf(k.toStdString()).value_or(b.style); }, key);
         }},
        {"share.", nullptr, typeShare}};
    for (auto& hand : valueHands()) station.hands.push_back(hand);
    station.shots = {{"brief", Action::RecordWarmUp}};
    return station;
}

} // namespace impasto::app
