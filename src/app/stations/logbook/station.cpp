// SPDX-License-Identifier: GPL-3.0-or-later
// What hands do at Logbook: sessions are opened, named, deleted and brought back; notes are written.
#include "shell/studio.h"
#include "stations/logbook/logbook.h"
#include "stations/pages.h"

#include <QtCore/Qt>

namespace impasto::app {
namespace {

using Q = const QString&;

std::optional<SessionId> idOf(Q hex) {
    const auto bytes = bytesFromHex(hex.toStdString());
    return bytes ? std::optional(SessionId{*bytes}) : std::nullopt;
}

void open(Studio& s, Q hex) {
    if (const auto id = idOf(hex); id && *id != s.view().session.id) s.openSession(*id);
}

void remove(Studio& s, Q hex, bool deleted) {
    const auto id = idOf(hex);
    if (!id || s.open() == nullptr) return;
    if (!s.open()->writer) return s.say(s.view().notSaved); // nothing is, so nothing would come of it
    s.open()->writer->postDeleted(*id, deleted);
}

void page(Studio& s, int by) {
    auto& first = s.state<Pages>().first[sessionList];
    const auto count = static_cast<std::ptrdiff_t>(s.view().logbookSessions.size());
    first = static_cast<std::size_t>(
        std::clamp<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(first) + by, 0, std::max<std::ptrdiff_t>(0, count - 1)));
    s.notify();
}

StateLine state(const View& view) {
    const auto& kept = view.edits().record.kept;
    if (kept && !view.notSaved.isEmpty()) return say("not saved");
    return !kept            ? notYet()
           : kept->held()   ? say("saved")
           : kept->missed() ? say("saved, not held")
                            : say("saved, not proven");
}

QString stale(const View& view) {
    return qs(wording::stale(view.w, results::standingOf(*view.results).kept));
}

void find(Studio& s, std::vector<Findable>& out) {
    for (const auto& head : s.view().logbookSessions) {
        if (head.id == s.view().session.id || head.deleted) continue;
        out.push_back(
            {say("session"),
             say("%1 %2").arg(head.name.empty() ? say("Unnamed session") : qs(head.name), qs(head.about.machine)),
             head.about.targetFps ? say("%1 fps").arg(*head.about.targetFps) : QString(),
             [&s, id = head.id] { s.openSession(id); }});
        if (s.view().session.game() != nullptr)
            out.push_back({say("runs"),
                           say("Learn from %1").arg(head.name.empty() ? say("Unnamed session") : qs(head.name)),
                           qs(head.about.machine), [&s, id = head.id] { s.beginWith(id); }});
    }
}

} // namespace

Station logbookStation() {
    using path::Action;
    Station station{{"logbook"}, "Logbook", {Action::KeepResult, Action::Done}, {}, state, stale};
    station.easel = layoutLogbook;
    station.column = layoutLogbookColumn;
    station.hands = {
        {"session.", open, nullptr, [](Studio& s, Q, int steps) { page(s, -steps); }},
        {"session.current", nullptr, nullptr, [](Studio& s, Q, int steps) { page(s, -steps); }},
        {"delete.", [](Studio& s, Q hex) { remove(s, hex, true); }},
        {"begin.",
         [](Studio& s, Q hex) {
             if (const auto id = idOf(hex)) s.beginWith(*id);
         }},
        {"begin-as-usual", [](Studio& s, Q) { s.apply(document::beginWith({})); }},
        {"restore.", [](Studio& s, Q hex) { remove(s, hex, false); }},
        {"name", nullptr, [](Studio& s, Q, Q text) { s.apply(document::setName(text.trimmed().toStdString())); }},
        {"note", nullptr, [](Studio& s, Q, Q text) { s.apply(document::writeNote(text.toStdString())); }}};
    station.topic = "low";
    station.find = find;
    station.shots = {{"logbook", Action::Done}};
    return station;
}

} // namespace impasto::app
