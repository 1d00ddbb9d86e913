// SPDX-License-Identifier: GPL-3.0-or-later
// What hands do at Runs: runs are shown, counted, trimmed and looked at in other ways.
#include "shell/studio.h"
#include "stations/hands.h"
#include "stations/runs/runs.h"

#include <QtCore/Qt>
#include <impasto/capture/parts.h>
#include <impasto/game/split.h>
#include <impasto/path/answer.h>
#include <impasto/results/sets.h>

namespace impasto::app {
namespace {

using Q = const QString&;

void showRun(Studio& s, Q hex) {
    if (const auto bytes = bytesFromHex(hex.toStdString())) {
        s.showRun({*bytes});
        s.state<RunsState>().track = -1;
    }
    s.notify();
}

void countRun(Studio& s, Q) {
    const auto* run = s.view().shownRun();
    if (run == nullptr) return;
    if (run->crashed) return s.tryRun(run->id);
    s.apply(s.view().session.leftOut(*run) ? document::countRun(run->id)
                                           : document::leaveOut(run->id, document::LeftOut::ByHand));
}

void hideRun(Studio& s, Q) {
    if (!s.view().run) return;
    const RunId gone = *s.view().run;
    s.forgetRun(gone);
    const auto number = s.view().session.numberOf(gone);
    s.apply(document::hideRun(gone));
    s.say(say("Run %1 is deleted. Ctrl+Z brings it back.").arg(number));
}

void readAnotherWay(Studio& s, Q) {
    const auto* run = s.view().shownRun();
    if (run == nullptr || !run->capture || !run->capture->notes.contains("file")) return;
    openReading(s, run->capture->notes.at("file"), run->id);
}

void trimProposed(Studio& s, Q) {
    const auto* cuts = s.view().run ? s.view().of<results::RunCuts>(*s.view().run) : nullptr;
    if (cuts != nullptr) s.apply(document::trimRun(*s.view().run, cuts->spans));
}

void trimAllProposed(Studio& s, Q) {
    auto proposed = proposedTrims(s.view());
    if (proposed.empty()) return;
    s.say(say("%1 runs trimmed. Ctrl+Z brings all back.").arg(proposed.size()));
    s.apply(document::trimRuns(std::move(proposed)));
}

void trimSelected(Studio& s) {
    if (!s.view().run || !s.view().span) return;
    const RunId run = *s.view().run;
    const auto before = s.view().session.trimsOf(run);
    std::vector<capture::Span> spans(before.begin(), before.end());
    spans.push_back(*s.view().span);
    s.select({}, false);
    s.apply(document::trimRun(run, std::move(spans)));
}

/// The selected span becomes a part of the route, for every run that marks none.
void partSelected(Studio& s) {
    const auto* run = s.view().shownRun();
    const auto* now = s.view().session.game();
    if (run == nullptr || !s.view().span || now == nullptr || s.view().practiceGame) return;
    game::Game game = *now;
    const auto route = std::find_if(game.routes.begin(), game.routes.end(),
                                    [&](const game::Route& r) { return r.name == s.view().edits().subject.route; });
    if (route == game.routes.end()) return;
    const double scale = route->seconds() / capture::durationMs(*run->capture);
    *route = game::withPart(*route, s.view().span->fromMs * scale, s.view().span->toMs * scale);
    s.select({}, false);
    s.reviseGame(game);
    s.say(say("The route has %1 parts now; their names are typed in Bench, at the route.").arg(route->parts.size()));
}

/// The open orders, and the one that the run answers now: the next of them.
void nextAnswer(Studio& s, Q) {
    const auto* run = s.view().shownRun();
    if (run == nullptr) return;
    auto orders = path::openOrders(s.view().session);
    const auto* now = s.view().session.orderOf(*run);
    if (orders.empty()) return;
    const auto at = now == nullptr ? orders.end()
                                   : std::find_if(orders.begin(), orders.end(),
                                                  [now](const run::Order& o) { return o.id == now->id; });
    const auto next = at == orders.end() || at + 1 == orders.end() ? orders.begin() : at + 1;
    s.apply(document::answerOrder(run->id, next->id));
}

/// The next of the columns that may name the parts, then none.
void nextPartColumn(Studio& s, Q) {
    const auto* run = s.view().shownRun();
    if (run == nullptr || !run->capture) return;
    std::vector<std::string> names;
    for (const auto& column : run->capture->others)
        if (capture::namesParts(column)) names.push_back(column.name);
    names.emplace_back();
    const auto it = std::find(names.begin(), names.end(), s.view().edits().runs.partColumn);
    const auto next = it == names.end() ? 0U : static_cast<std::size_t>(it - names.begin() + 1) % names.size();
    s.apply(document::setPartColumn(names[next]));
}

/// "0.begin": an edge of the first drawn trim, dragged.
void dragTrim(Studio& s, Q rest, QPointF at, DragPhase phase, QSizeF easel) {
    auto& edge = s.state<RunsState>().trimEdge;
    const auto time = runsTime(s.view(), easel);
    if (phase == DragPhase::Cancel || !time || !s.view().run) {
        edge.reset();
        return s.notify();
    }
    if (phase == DragPhase::Begin) return;
    edge = TrimEdge{rest.section(QLatin1Char('.'), 0, 0).toUInt(), rest.endsWith(QStringLiteral("begin")),
                    std::clamp(time->value(at.x()), time->fromValue, time->toValue)};
    if (phase != DragPhase::End) return s.notify();
    auto spans = drawnTrims(s.view(), *s.view().run);
    edge.reset();
    if (!spans.empty()) s.apply(document::trimRun(*s.view().run, std::move(spans)));
    s.notify();
}

void stepTrim(Studio& s, Q rest, int steps) {
    constexpr double stepMs = 100;
    if (!s.view().run) return;
    auto& edge = s.state<RunsState>().trimEdge;
    const auto index = rest.section(QLatin1Char('.'), 0, 0).toUInt();
    const auto drawn = drawnTrims(s.view(), *s.view().run);
    if (index >= drawn.size()) return;
    const bool begin = rest.endsWith(QStringLiteral("begin"));
    edge = TrimEdge{index, begin, (begin ? drawn[index].fromMs : drawn[index].toMs) + stepMs * steps};
    auto spans = drawnTrims(s.view(), *s.view().run);
    edge.reset();
    s.apply(document::trimRun(*s.view().run, std::move(spans)));
}

void toggleTail(Studio& s) {
    s.state<RunsState>().tail = !s.state<RunsState>().tail;
    s.notify();
}

void nextSensor(Studio& s) {
    ++s.state<RunsState>().sensor;
    s.notify();
}

void nextTrack(Studio& s) {
    const auto* run = s.view().shownRun();
    if (run == nullptr || !run->capture) return;
    auto& track = s.state<RunsState>().track;
    const int count = static_cast<int>(run->capture->tracks.size() + run->capture->others.size());
    track = track + 1 < count ? track + 1 : -1;
    s.notify();
}

void toggleLogScale(Studio& s) {
    s.state<RunsState>().logScale = !s.state<RunsState>().logScale;
    s.notify();
}

void typeHitchRule(Studio& s, Q part, Q text) {
    const auto number = typedNumber(text);
    if (!number) return s.tell({ErrorCode::BadNumber, text.toStdString(), {{}, {}, {}, "hitch"}, Kept::AllAsBefore});
    auto rule = s.view().edits().runs.hitchRule;
    if (part == QStringLiteral("ratio")) rule.ratio = *number;
    if (part == QStringLiteral("excess")) rule.excessMs = *number;
    if (part == QStringLiteral("outright")) rule.outrightMs = *number;
    if (part == QStringLiteral("neighbours")) rule.neighbours = static_cast<std::size_t>(std::clamp(*number, 0.0, 1e6));
    s.apply(document::setHitchRule(rule));
}

/// What the shown log is of: an open order by its level, a variant by its name, or nothing: as now.
void sayVariant(Studio& s, Q, Q text) {
    const auto* run = s.view().shownRun();
    if (run == nullptr) return;
    const auto words = text.trimmed();
    const bool same = words.compare(say("same as now"), Qt::CaseInsensitive) == 0;
    s.sayVariant(run->id, same ? std::string() : words.toStdString());
}

void typeFollowRest(Studio& s, Q, Q text) {
    const auto seconds = typedNumber(text);
    if (!seconds) return s.tell({ErrorCode::BadNumber, text.toStdString(), {{}, {}, {}, "rest"}, Kept::AllAsBefore});
    s.apply(document::setFollowRest(*seconds));
}

StateLine state(const View& view) {
    std::size_t kept = 0, out = 0;
    for (const auto& run : view.session.facts->runs) {
        if (!view.session.shown(run)) continue;
        ++(view.session.counts(run) || view.session.readOff(run) ? kept : out);
    }
    if (kept + out == 0) return notYet();
    return out == 0 ? say("%1 kept").arg(kept) : say("%1 kept, %2 left out").arg(kept).arg(out);
}

void pickOrder(Studio& s, Q hex) {
    if (const auto bytes = bytesFromHex(hex.toStdString())) s.pickOrder({*bytes});
}

void skipOrder(Studio& s, Q hex) {
    if (const auto bytes = bytesFromHex(hex.toStdString())) s.apply(document::withdrawOrder({*bytes}));
}

/// "order.setting"
void cannotSet(Studio& s, Q rest) {
    const auto bytes = bytesFromHex(rest.section(QLatin1Char('.'), 0, 0).toStdString());
    const auto setting = rest.section(QLatin1Char('.'), 1).toStdString();
    const auto* order = bytes ? s.view().session.facts->order({*bytes}) : nullptr;
    if (order == nullptr) return;
    if (const auto level = order->variant.values.find(setting); level != order->variant.values.end())
        s.apply(document::cannotSet(setting, level->second, order->id));
}

/// Of what is typed at an order; a field that is emptied is not read.
std::optional<double>* fieldOf(ReadOffTyped& typed, Q field) {
    if (field == QStringLiteral("average")) return &typed.average;
    if (field == QStringLiteral("least")) return &typed.least;
    if (field == QStringLiteral("most")) return &typed.most;
    if (field == QStringLiteral("low")) return &typed.low;
    return field == QStringLiteral("memory") ? &typed.memoryGib : nullptr;
}

void typeReadOff(Studio& s, Q field, Q text) {
    auto* value = fieldOf(s.state<RunsState>().readOff, field);
    if (value == nullptr) return;
    const auto number = typedNumber(text);
    if (!number && !text.trimmed().isEmpty())
        return s.tell({ErrorCode::BadNumber, text.toStdString(), {{}, {}, {}, field.toStdString()}, Kept::AllAsBefore});
    *value = number;
    s.notify();
}

/// What was typed answers the order.
void useReadOff(Studio& s, Q hex) {
    const auto bytes = bytesFromHex(hex.toStdString());
    auto& typed = s.state<RunsState>().readOff;
    if (s.open() == nullptr || !bytes || !typed.average) return;
    const auto rate = [](const std::optional<double>& fps) { return fps ? std::optional(Fps(*fps)) : std::nullopt; };
    run::ReadOff figures{Fps(*typed.average), rate(typed.least), rate(typed.most), rate(typed.low), {}};
    if (typed.memoryGib) figures.gpuMemory = Mebibytes(1024 * *typed.memoryGib);
    const auto answered = path::answer(s.store(), OrderId{*bytes}, figures, s.options().ids, s.options().clock);
    if (!answered) return s.tell(answered.error());
    typed = {};
    s.showRun(answered->runs.front());
    if (answered->mismatch) s.tell(*answered->mismatch);
    s.notify();
}

bool ordersWait(const View& view) {
    return orderInHand(view).has_value();
}

void showRunsInstead(Studio& s, bool runs) {
    s.state<RunsState>().runsInstead = runs;
    s.notify();
}

Drawing easel(const View& view, QSizeF size) {
    if (view.state<RunsState>().reading) return layoutReading(view, size);
    if (ordersWait(view) && !view.state<RunsState>().runsInstead) return layoutOrder(view, size);
    return layoutRuns(view, size);
}

Drawing column(const View& view, QSizeF size) {
    return view.state<RunsState>().reading ? layoutReadingColumn(view, size) : layoutRunsColumn(view, size);
}

const results::RunFigures* shownFigures(const View& view) {
    return view.run ? view.of<results::RunFigures>(*view.run) : nullptr;
}

std::size_t runsOfItsSet(const View& view) {
    for (const auto& set : results::setsOf(view.session, *view.results))
        if (view.run && set.holds(*view.run)) return set.counted.size();
    return 1;
}

std::optional<wording::Why> whyAverage(const View& view, Q) {
    const auto* figures = shownFigures(view);
    if (figures == nullptr) return std::nullopt;
    return wording::whyAverage(view.w, figures->summary, runsOfItsSet(view));
}

std::optional<wording::Why> whyLow(const View& view, Q) {
    const auto* figures = shownFigures(view);
    if (figures == nullptr) return std::nullopt;
    const auto& brief = view.edits().goal.brief;
    return wording::whyLow(view.w, figures->summary, brief ? brief->lowRule : stats::LowRule::WorstMean,
                           runsOfItsSet(view));
}

std::optional<wording::Why> whyHitches(const View& view, Q) {
    const auto* figures = shownFigures(view);
    if (figures == nullptr) return std::nullopt;
    return wording::whyHitches(view.w, figures->summary, view.edits().runs.hitchRule);
}

void find(Studio& s, std::vector<Findable>& out) {
    const View& view = s.view();
    for (const auto& run : view.session.facts->runs) {
        if (!view.session.shown(run)) continue;
        const auto* figures = view.of<results::RunFigures>(run.id);
        const QString hex = qs(run.id.hex());
        out.push_back(
            {say("run"), qs(wording::runTitle(view.w, view.session, run)),
             figures == nullptr ? QString() : say("%1 fps").arg(qs(wording::fps(figures->summary.average.value()))),
             [&s, hex] {
                 s.go(runsStation().id);
                 showRun(s, hex);
             },
             QStringLiteral("run.") + hex});
    }
}

} // namespace

/// What a hitch is, and the worst of them, below the reason.
void hitchesBelow(Sheet& sheet, const View& view, double y);

Station runsStation() {
    using path::Action;
    Station station{{"runs"},
                    "Runs",
                    {Action::RecordWarmUp, Action::RecordBaseline, Action::LeaveOutRun},
                    {Action::RecordWarmUp},
                    state};
    station.easel = easel;
    station.column = column;
    station.hands = {{"run.", showRun},
                     {"run.count", countRun},
                     {"run.hide", hideRun},
                     {"run.trim", [](Studio& s, Q) { trimSelected(s); }},
                     {"run.part", [](Studio& s, Q) { partSelected(s); }},
                     {"run.answers", nextAnswer},
                     {"run.partcolumn", nextPartColumn},
                     {"run.keep",
                      [](Studio& s, Q) {
                          if (s.view().step.run) s.apply(document::countRun(*s.view().step.run));
                      }},
                     {"run.untrim",
                      [](Studio& s, Q) {
                          if (s.view().run) s.apply(document::trimRun(*s.view().run, {}));
                      }},
                     {"run.proposed", trimProposed},
                     {"run.proposed-all", trimAllProposed},
                     {"run.scale", [](Studio& s, Q) { toggleLogScale(s); }},
                     {"runs.sensor", [](Studio& s, Q) { nextSensor(s); }},
                     {"run.track", [](Studio& s, Q) { nextTrack(s); }},
                     {"run.reading", readAnotherWay},
                     {"trim.", nullptr, nullptr, stepTrim, dragTrim},
                     {"run.tail", [](Studio& s, Q) { toggleTail(s); }},
                     {"run.variant", nullptr, sayVariant},
                     {"set.", showRun},
                     {"hitch.usual", [](Studio& s, Q) { s.apply(document::setHitchRule({})); }},
                     {"hitch.", nullptr, typeHitchRule},
                     {"rest", nullptr, typeFollowRest},
                     {"sensors.read",
                      [](Studio& s, Q) { s.apply(document::setFollowSensors(!s.view().edits().runs.followSensors)); }},
                     {"order.pick.", pickOrder},
                     {"off.use.", useReadOff},
                     {"off.", nullptr, typeReadOff},
                     {"order.skip.", skipOrder},
                     {"cannot.", cannotSet},
                     {"order.runs", [](Studio& s, Q) { showRunsInstead(s, true); }}};
    for (auto& hand : readingHands()) station.hands.push_back(hand);
    station.keys = {
        {Qt::Key_T, "T", "exclude the selected span", trimSelected},
        {Qt::Key_P, "P", "make the selected span a part of the route", partSelected},
        {Qt::Key_G, "G", "say what the run was played with", [](Studio& s) { s.ask(QStringLiteral("run.variant")); }},
        {Qt::Key_V, "V", "the tail of the distribution", toggleTail},
        {Qt::Key_O, "O", "the orders that wait, or the runs",
         [](Studio& s) { showRunsInstead(s, !s.state<RunsState>().runsInstead); }},
        {Qt::Key_L, "L", "logarithmic frame times", toggleLogScale},
        {Qt::Key_K, "K", "the next sensor under the trace", nextTrack}};
    station.topics = {{"average", whyAverage}, {"low", whyLow}, {"hitches", whyHitches, hitchesBelow}};
    station.find = find;
    station.escape = [](Studio& s) {
        if (!s.state<RunsState>().reading) return false;
        s.activate(QStringLiteral("reading.leave"));
        return true;
    };
    station.shots = {{"runs", Action::Done}, {"reading", Action::Done, [](Studio& s) {
                                                  openReading(s, s.options().dataDir / "example-log.csv");
                                              }}};
    return station;
}

} // namespace impasto::app
