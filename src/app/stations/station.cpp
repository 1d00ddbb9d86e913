// SPDX-License-Identifier: GPL-3.0-or-later
#include "stations/station.h"

#include "stations/start/start.h"
#include "stations/why.h"

#include <algorithm>
#include <cstring>

namespace impasto::app {

std::pair<const Hand*, QString> handFor(const std::vector<Hand>& hands, const QString& id) {
    const Hand* best = nullptr;
    for (const auto& hand : hands) {
        const QLatin1String own(hand.id);
        const bool fits = own.endsWith(QLatin1Char('.')) ? id.startsWith(own) : id == own;
        if (fits && (best == nullptr || own.size() > QLatin1String(best->id).size())) best = &hand;
    }
    return {best, best == nullptr ? QString() : id.mid(QLatin1String(best->id).size())};
}

const Station& stationOf(StationId id) {
    const auto& all = stations();
    return *std::find_if(all.begin(), all.end(), [id](const Station& s) { return s.id == id; });
}

namespace {

StationId holding(std::vector<path::Action> Station::*list, path::Action action, StationId otherwise) {
    for (const auto& station : stations())
        if (const auto& all = station.*list; std::find(all.begin(), all.end(), action) != all.end()) return station.id;
    return otherwise;
}

} // namespace

StationId stationDoing(path::Action action) {
    return holding(&Station::does, action, stations().front().id);
}

StationId stationShowing(path::Action action) {
    return holding(&Station::shows, action, stationDoing(action));
}

StateLine notYet() {
    return {say("not yet"), false};
}

QString stationState(const View& view, const Station& station) {
    const QString stale = station.stale == nullptr ? QString() : station.stale(view);
    if (!stale.isEmpty()) return stale;
    const auto state = station.state(view);
    return view.computing && !state.reached ? say("computing") : state.text;
}

QString nextAction(const View& view) {
    const auto runs = view.session.facts->runs.size();
    if (view.computing) return runs == 1 ? say("Computing 1 run") : say("Computing %1 runs").arg(runs);
    return qs(wording::action(view.w, view.session, *view.results, view.step, view.order));
}

QString nextReason(const View& view) {
    if (view.computing) return say("The next step follows from what the runs come to.");
    return qs(wording::reason(view.w, view.session, *view.results, view.step));
}

QString figuresWait(const View& view) {
    return view.results->errors().empty() ? say("Its figures come in a moment.")
                                          : say("Its figures could not be computed.");
}

Drawing layoutEmpty(const View& view, QSizeF size, const QString& title, const QString& what) {
    Sheet sheet(size);
    sheet.heading(24, 12, title, {});
    double y = sheet.wrapped(24, 52, size.width() - 60, what, Type::Body);
    sheet.rect(QRectF(58, y + 30, size.width() - 74, std::max(40.0, size.height() - y - 130)), Ink::None, Ink::Off, 1.2,
               {5, 4});
    y = size.height() - 76;
    sheet.text(24, y, view.computing ? nextAction(view) : say("Next: %1").arg(nextAction(view)), Type::Heading,
               Ink::Ink, Align::Left, size.width() - 40);
    sheet.wrapped(24, y + 24, size.width() - 60, nextReason(view), Type::Body, Ink::Muted, 2);
    return sheet.take();
}

Drawing layoutEasel(const View& view, QSizeF size) {
    if (!view.opening.isEmpty()) {
        Sheet sheet(size);
        sheet.heading(24, 12, view.opening,
                      say("What was under way is stopped first; nothing that was saved is lost."));
        return sheet.take();
    }
    if (view.empty() && view.station == stations().front().id) return layoutStart(view, size);
    return stationOf(view.station).easel(view, size);
}

Drawing layoutColumn(const View& view, QSizeF size) {
    if (!view.opening.isEmpty()) return {};
    if (!view.whyTopic.isEmpty()) return layoutWhy(view, size);
    if (view.empty() && view.station == stations().front().id) return layoutStartColumn(view, size);
    if (!view.narrow) return stationOf(view.station).column(view, size);
    // The path has no room for the whole reason of the next step: it stands here.
    Sheet reason(size);
    constexpr double room = 78;
    reason.line({16, size.height() - room}, {size.width() - 16, size.height() - room}, Ink::Line, 1);
    reason.wrapped(16, size.height() - room + 6, size.width() - 44, nextReason(view), Type::Note, Ink::Muted, 4);
    Drawing column = stationOf(view.station).column(view, QSizeF(size.width(), size.height() - room - 4));
    const Drawing below = reason.take();
    column.shapes.insert(column.shapes.end(), below.shapes.begin(), below.shapes.end());
    return column;
}

} // namespace impasto::app
