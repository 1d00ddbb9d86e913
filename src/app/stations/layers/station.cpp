// SPDX-License-Identifier: GPL-3.0-or-later
// What hands do at Layers: levels are opened, chosen and stepped, the budget line is dragged.
#include "shell/studio.h"
#include "stations/hands.h"
#include "stations/layers/around.h"
#include "stations/layers/matters.h"
#include "stations/layers/walks.h"

#include <cmath>
#include <impasto/wording/walk.h>

namespace impasto::app {
namespace {

using Q = const QString&;

void openLevels(Studio& s, Q setting) {
    s.state<LayersState>().openSetting = setting;
    s.notify();
}

/// "gpu.shadows": again on the same slab closes it.
void pressSlab(Studio& s, Q rest) {
    const QString setting = rest.section(QLatin1Char('.'), 1);
    openLevels(s, s.state<LayersState>().openSetting == setting ? QString() : setting);
}

void choose(Studio& s, const std::string& setting, const std::string& level) {
    const auto& view = s.view();
    if (view.session.game() == nullptr) return;
    s.apply(document::changeChoice(*view.session.game(), startOf(view), setting, level,
                                   results::standingOf(*view.results).ofChoice()));
    const auto& choice = s.view().edits().settings.choice;
    if (const auto rule = choice ? brokenRule(s.view(), choice->values) : QString(); !rule.isEmpty()) s.say(rule);
}

void toggleLock(Studio& s, Q setting) {
    const std::string id = setting.toStdString();
    if (s.view().edits().settings.locked.contains(id)) return s.apply(document::lockSetting(id, std::nullopt));
    const auto values = startOf(s.view());
    if (const auto it = values.find(id); it != values.end()) s.apply(document::lockSetting(id, it->second));
}

void stepChoice(Studio& s, Q rest, int steps) {
    const std::string id = rest.section(QLatin1Char('.'), 1).toStdString();
    const auto* game = s.view().session.game();
    const auto* setting = game == nullptr ? nullptr : game->setting(id);
    if (setting == nullptr) return;
    const auto start = startOf(s.view());
    const auto it = start.find(id);
    if (it == start.end()) return;
    auto level = levelAway(*setting, it->second, steps);
    while (level && s.view().edits().settings.cannot.contains({id, *level}))
        level = levelAway(*setting, *level, steps > 0 ? 1 : -1);
    if (level) choose(s, id, *level);
}

void takeProposal(Studio& s, Q) {
    if (const auto* proposal = results::proposalOf(*s.view().results))
        s.apply(document::acceptChoice({proposal->values, false, results::standingOf(*s.view().results).ofChoice()}));
}

void dragBudget(Studio& s, Q, QPointF at, DragPhase phase, QSizeF easel) {
    if (phase == DragPhase::Cancel) return s.dropBudget();
    if (phase == DragPhase::End) return s.keepBudget();
    if (phase == DragPhase::Begin) return;
    const double budget = layersScale(s.view(), easel).value(at.y());
    if (budget > 0.8) s.budgetPreview(Fps(std::round(1000 / budget)));
}

void stepBudget(Studio& s, Q, int steps) {
    if (const auto& brief = s.view().edits().goal.brief)
        s.apply(document::setTarget(Fps(brief->target.value() + steps)));
}

StateLine state(const View& view) {
    const bool slower = view.step.reason == path::Reason::NothingFits || view.step.reason == path::Reason::PictureFloor;
    if (slower && view.step.target) return say("%1 fps at most").arg(qs(wording::wishFps(*view.step.target)));
    if (const auto& choice = view.edits().settings.choice)
        return choice->byHand ? say("chosen by hand") : say("chosen");
    const auto* costs = view.get<results::Costs>();
    if (costs == nullptr || costs->lanes.empty()) return notYet();
    const auto made = results::countOf<results::CostRuns, results::ReadCosts>(*view.results);
    const auto* next = view.get<results::NextRun>();
    if (next != nullptr && next->values)
        return next->most == 0 ? qs(wording::walk(view.w, view.edits().settings.walk))
                               : say("%1 of about %2 tests").arg(made).arg(made + (next->least + next->most + 1) / 2);
    return made == 1 ? say("1 test run") : say("%1 test runs").arg(made);
}

QString stale(const View& view) {
    return qs(wording::stale(view.w, results::standingOf(*view.results).choice));
}

std::optional<wording::Why> whyChoice(const View& view, Q) {
    if (results::proposalOf(*view.results) == nullptr) return std::nullopt;
    return wording::whyChoice(view.w, *view.get<results::Proposed>());
}

std::optional<wording::Why> whyCost(const View& view, Q id) {
    const auto* costs = view.get<results::Costs>();
    const auto* game = view.session.game();
    const auto* setting = game == nullptr ? nullptr : game->setting(id.toStdString());
    if (costs == nullptr || setting == nullptr || costs->lanes.empty()) return std::nullopt;
    const auto& lane = costs->lanes.back();
    for (const auto& level : setting->levels)
        if (lane.levels.indexOf({setting->id, level.name})) return wording::whyCost(view.w, *setting, level.name, lane);
    return std::nullopt;
}

/// Less of the picture is asked for, and with it a rate that fits.
void acceptLess(Studio& s, Q) {
    const auto* proposed = s.view().get<results::Proposed>();
    if (proposed == nullptr || !proposed->less || !proposed->lessReaches || !s.view().edits().goal.brief) return;
    run::Brief brief = *s.view().edits().goal.brief;
    brief.target = *proposed->lessReaches;
    brief.pictureFloor = std::floor(100 * proposed->less->picture) / 100;
    s.apply(document::setBrief(brief));
}

Drawing easel(const View& view, QSizeF size) {
    switch (view.state<AroundState>().face) {
    case LayersFace::BestSets:
        return layoutBestSets(view, size);
    case LayersFace::Matters:
        return layoutMatters(view, size);
    case LayersFace::Files:
        return layoutFiles(view, size);
    case LayersFace::Slabs:
        break;
    }
    return layoutLayers(view, size);
}

Drawing column(const View& view, QSizeF size) {
    switch (view.state<AroundState>().face) {
    case LayersFace::BestSets:
        return layoutBestSetsColumn(view, size);
    case LayersFace::Matters:
        return layoutMattersColumn(view, size);
    case LayersFace::Files:
        return layoutFilesColumn(view, size);
    case LayersFace::Slabs:
        break;
    }
    return layoutLayersColumn(view, size);
}

} // namespace

Station layersStation() {
    using path::Action;
    Station station{{"layers"}, "Layers", {Action::RecordCosts, Action::AcceptChoice, Action::RecordCheck},
                    {},         state,    stale};
    station.easel = easel;
    station.column = column;
    station.table = layersTable;
    station.hands = {
        {"slab.", pressSlab, nullptr, stepChoice},
        {"open.", openLevels},
        {"lock.", toggleLock},
        {"choose.",
         [](Studio& s, Q rest) {
             choose(s, rest.section(QLatin1Char('.'), 0, 0).toStdString(),
                    rest.section(QLatin1Char('.'), 1).toStdString());
         }},
        {"can.",
         [](Studio& s, Q rest) {
             s.apply(document::canSet(rest.section(QLatin1Char('.'), 0, 0).toStdString(),
                                      rest.section(QLatin1Char('.'), 1).toStdString()));
         }},
        {"choice.take", takeProposal},
        {"less", acceptLess},
        {"measure.stop", [](Studio& s, Q) { s.apply(document::stopMeasuring(!s.view().edits().settings.enough)); }},
        {"enough.", [](Studio& s, Q percent) { s.apply(document::setGoodEnough(percent.toDouble() / 100)); }},
        {"instead", [](Studio& s, Q) { s.primary(); }},
        {"budget", nullptr, nullptr, stepBudget, dragBudget}};
    for (const auto& hand : aroundHands()) station.hands.push_back(hand);
    for (const auto& hand : walkHands()) station.hands.push_back(hand);
    for (const auto& hand : mattersHands()) station.hands.push_back(hand);
    station.keys = aroundKeys();
    station.keys.push_back(walkKey());
    station.arrived = lookAround;
    station.topics = {{"choice", whyChoice}, {"cost", whyCost}};
    station.topic = "choice";
    station.escape = [](Studio& s) {
        auto& face = s.state<AroundState>().face;
        if (face != LayersFace::Slabs) {
            face = LayersFace::Slabs;
            s.notify();
            return true;
        }
        if (s.state<LayersState>().walksOpen) {
            s.state<LayersState>().walksOpen = false;
            s.notify();
            return true;
        }
        if (s.state<LayersState>().openSetting.isEmpty()) return false;
        openLevels(s, {});
        return true;
    };
    station.shots = {{"measuring", Action::RecordCosts},
                     {"layers", Action::AcceptChoice},
                     {"levels", Action::AcceptChoice, [](Studio& s) { openLevels(s, QStringLiteral("shadows")); }},
                     {"best-sets", Action::ChooseCap,
                      [](Studio& s) {
                          openLevels(s, {});
                          s.activate(QStringLiteral("face.best"));
                      }},
                     {"what-matters", Action::ChooseCap,
                      [](Studio& s) {
                          s.activate(QStringLiteral("face.matters"));
                          for (int i = 0; i < 4; ++i) answerFirst(s);
                      }},
                     {"into-the-game", Action::ChooseCap, [](Studio& s) { s.activate(QStringLiteral("face.files")); }}};
    return station;
}

} // namespace impasto::app
