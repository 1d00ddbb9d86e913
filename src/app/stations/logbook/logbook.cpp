// SPDX-License-Identifier: GPL-3.0-or-later
// Sessions as strokes: what was kept, when, and whether it still stands.
#include "stations/logbook/logbook.h"
#include "stations/pages.h"

#include <QtCore/QTimeZone>

namespace impasto::app {
namespace {

QString heldText(const View& view) {
    if (!view.get<proof::Proof>() || !view.edits().goal.brief) return say("nothing proven yet");
    for (const auto& w : view.get<proof::Proof>()->wishes)
        if (w.wish == proof::Wish::Target && w.after.count == 0)
            return say("%1 fps not proven yet").arg(qs(wording::wishFps(view.edits().goal.brief->target)));
    for (const auto& w : view.get<proof::Proof>()->wishes)
        if (w.wish == proof::Wish::Target)
            return (w.state == proof::WishState::Met      ? say("%1 fps held, worst part %2")
                    : w.state == proof::WishState::NotMet ? say("%1 fps not held, worst part %2")
                                                          : say("%1 fps not proven, worst part %2"))
                .arg(qs(wording::wishFps(view.edits().goal.brief->target)),
                     qs(wording::plusMinus(w.after.estimate, w.after.halfWidth, 1)));
    return {};
}

/// Of another session, as the logbook's list knows it.
QString verdict(const logbook::SessionHead& head) {
    if (head.deleted) return say("Deleted from this list. Nothing is erased.");
    if (head.about.verdict == "met") return say("every goal met");
    if (head.about.verdict == "not-met") return say("a goal was not met");
    return head.about.verdict == "open" ? say("not decided yet") : say("nothing proven yet");
}

QString aboutText(const logbook::SessionHead& head) {
    QStringList parts;
    if (!head.about.machine.empty()) parts << qs(head.about.machine);
    if (head.about.targetFps) parts << say("%1 fps").arg(qs(wording::wishFps(Fps(*head.about.targetFps))));
    parts << dateTime(head.changedSeconds);
    return parts.join(QStringLiteral(" \u00b7 "));
}

/// The other sessions, from the first that is shown.
void others(Sheet& sheet, const View& view, double y) {
    const double left = 24, middle = left + 0.42 * sheet.width(), right = sheet.width() - 24;
    std::vector<const logbook::SessionHead*> all;
    for (const auto& head : view.logbookSessions)
        if (head.id != view.session.id) all.push_back(&head);
    const double bottom = sheet.height() - 58;
    const auto page = pageOf(view, sessionList, all.size(), static_cast<std::size_t>(std::max(1.0, (bottom - y) / 56)));
    for (std::size_t i = page.first; i < page.last; ++i) {
        const auto& head = *all[i];
        const QString name = head.name.empty() ? say("Unnamed session") : qs(head.name);
        const Ink ink = head.deleted ? Ink::Muted : Ink::Ink;
        sheet.text(left + 2, y + 6, name, Type::BodyBold, ink, Align::Left, middle - left - 20);
        sheet.text(left + 2, y + 25, aboutText(head), Type::Body, Ink::Muted, Align::Left, middle - left - 20);
        sheet.text(middle, y + 15, verdict(head), Type::Body, ink, Align::Left, right - middle - 220);
        Hot h;
        h.id = QStringLiteral("session.") + qs(head.id.hex());
        h.name = say("%1, %2, %3").arg(name, aboutText(head), verdict(head));
        h.role = Role::Row;
        const bool learns = !head.deleted && view.session.game() != nullptr;
        h.rect = QRectF(left - 8, y, right - left - (learns ? 196 : 86), 50);
        sheet.hot(h);
        if (learns)
            sheet.button(QRectF(right - 200, y + 11, 104, 28), QStringLiteral("begin.") + qs(head.id.hex()),
                         say("Learn from it"));
        sheet.button(QRectF(right - 90, y + 11, 82, 28),
                     (head.deleted ? QStringLiteral("restore.") : QStringLiteral("delete.")) + qs(head.id.hex()),
                     head.deleted ? say("Restore") : say("Delete"));
        y += 56;
    }
    if (page.whole()) return;
    sheet.button(QRectF(left - 8, bottom, 102, 28), QStringLiteral("sessions.find"), say("Find"), say("Ctrl+F"));
    drawPager(sheet, right - 8, bottom + 2, page, say("sessions %1 to %2 of %3"));
}

/// Whose runs count beside this session's; gives the y below.
double earlierRuns(Sheet& sheet, const View& view, QRectF place) {
    const auto words = qs(wording::earlierRuns(view.w, view.session, *view.results));
    if (words.isEmpty() || place.height() < 130) return place.top();
    const double y = sheet.wrapped(place.x(), place.y(), place.width(), words, Type::Body, Ink::Ink, 3) + 6;
    sheet.button(QRectF(place.x(), y, place.width(), 30), QStringLiteral("begin-as-usual"), say("Count them no more"));
    return y + 38;
}

} // namespace

Drawing layoutLogbook(const View& view, QSizeF size) {
    Sheet sheet(size);
    sheet.heading(24, 12, say("What was proven, and whether it is still valid"),
                  say("a stroke runs from the proof to the first change that invalidates it"));
    sheet.line({24, 72}, {size.width() - 16, 72}, Ink::Ink, 1.2);
    const double y = 84;
    const double left = 24, strokeLeft = left + 0.42 * size.width(), right = size.width() - 24;
    const QString name = view.session.name().empty() ? say("Unnamed session") : qs(view.session.name());
    const QString stale = qs(wording::stale(view.w, results::standingOf(*view.results).kept));
    const auto& kept = view.edits().record.kept;
    const QString state = !kept           ? say("not saved yet · %1").arg(heldText(view))
                          : !kept->held() ? (kept->missed() ? say("not held · %1 of %2 goals met")
                                                            : say("not proven · %1 of %2 goals met"))
                                                .arg(kept->met)
                                                .arg(kept->goals)
                          : stale.isEmpty() ? say("valid · %1").arg(heldText(view))
                                            : stale;
    const QString machine =
        view.session.machine() == nullptr ? say("no machine yet") : say("on %1").arg(qs(view.session.machine()->name));
    const int stroke = !kept ? 0 : stale.isEmpty() ? 2 : 1;
    const QRectF r(left - 8, y, size.width() - 24, 56);
    sheet.rect(r, Ink::Paper, Ink::Ink, 1.5);
    sheet.text(left + 2, y + 8, name, Type::BodyBold, Ink::Ink, Align::Left, strokeLeft - left - 20);
    sheet.text(left + 2, y + 27, say("%1 · %2 runs").arg(machine).arg(view.session.facts->runs.size()), Type::Body,
               Ink::Muted, Align::Left, strokeLeft - left - 20);
    if (stroke > 0) {
        const double end = stroke == 2 ? right - 10 : strokeLeft + 0.55 * (right - strokeLeft);
        sheet.rect(QRectF(strokeLeft, y + 9, 3, 19), Ink::Ink);
        // What was not held is an outline: nothing was painted.
        if (kept->held())
            sheet.slab(QRectF(strokeLeft + 3, y + 11, end - strokeLeft - 3, 15), Ink::Stroke, 9);
        else
            sheet.rect(QRectF(strokeLeft + 3, y + 11, end - strokeLeft - 3, 15), Ink::None, Ink::Ink, 1.4, {5, 4});
        if (stroke == 1) {
            sheet.rect(QRectF(end, y + 9, 3, 19), Ink::Over);
            sheet.line({end + 3, y + 18}, {right - 10, y + 18}, Ink::Muted, 1.6, {2, 4});
        }
    } else {
        sheet.line({strokeLeft, y + 18}, {right - 10, y + 18}, Ink::Muted, 1.6, {2, 4});
    }
    sheet.text(strokeLeft, y + 32, state, Type::Body, stroke == 1 ? Ink::Over : Ink::Ink, Align::Left,
               right - strokeLeft);
    Hot h;
    h.id = QStringLiteral("session.current");
    h.name = say("%1, %2, %3").arg(name, machine, state);
    h.role = Role::Row;
    h.rect = r;
    sheet.hot(h);
    others(sheet, view, y + 66);
    sheet.text(left, size.height() - 24, view.notSaved.isEmpty() ? view.saved : view.notSaved, Type::Body, Ink::Muted,
               Align::Left, size.width() - 48);
    return sheet.take();
}

Drawing layoutLogbookColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    const auto& kept = view.edits().record.kept;
    sheet.text(x, 16,
               !kept          ? say("Not saved yet")
               : kept->held() ? say("Saved values")
                              : qs(wording::savedAs(view.w, *kept)),
               Type::Heading);
    sheet.text(x, 37,
               !kept ? say("proof comes first")
               : kept->held()
                   ? dateTime(kept->atSeconds)
                   : say("%1 of %2 goals met, %3").arg(kept->met).arg(kept->goals).arg(dateTime(kept->atSeconds)),
               Type::Body, Ink::Muted, Align::Left, w);
    double y = 64;
    const auto* game = view.session.game();
    if (game != nullptr && view.edits().settings.choice) {
        const auto lines =
            wording::changes(*game, view.edits().settings.baseline, view.edits().settings.choice->values);
        const auto page = pageIn(view, QStringLiteral("saved"), lines.size(), size.height() - y - 152, 21);
        for (std::size_t i = page.first; i < page.last; ++i) {
            sheet.row(x, y, w, qs(lines[i].setting), qs(lines[i].after), Type::BodyBold);
            y += 21;
        }
        drawPager(sheet, x + w, y, page, say("%1 to %2 of %3"));
        if (!page.whole()) y += pagerHeight;
        const std::size_t same = view.edits().settings.choice->values.size() - lines.size();
        sheet.row(x, y, w, say("other settings"), say("%1 as before").arg(same), Type::BodyBold);
        y += 21;
        if (view.edits().pacing.cap) {
            sheet.text(x, y, say("cap"), Type::Body, Ink::Muted);
            sheet.text(x + w, y, qs(wording::capPlan(view.w, view.edits().pacing.cap->plan, view.session.panel())),
                       Type::BodyBold, Ink::Ink, Align::Right, w - 40);
            y += 21;
        }
    }
    y += 16;
    if (y + 70 > size.height()) return sheet.take();
    sheet.text(x, y, say("Name"), Type::Heading);
    sheet.text(x, y + 22, view.session.name().empty() ? say("Unnamed session") : qs(view.session.name()), Type::Body,
               Ink::Ink, Align::Left, w);
    Hot named;
    named.id = QStringLiteral("name");
    named.name = say("Name of the session");
    named.role = Role::Value;
    named.rect = QRectF(x, y + 22, w, 18);
    named.edit = qs(view.session.name());
    sheet.line({x, y + 41}, {x + w, y + 41}, Ink::Muted, 1); // it can be written on
    sheet.hot(named);
    y += 54;
    sheet.text(x, y, say("Note"), Type::Heading);
    const QString note =
        view.edits().record.note.empty() ? say("Write what you saw") : qs(view.edits().record.note.substr(0, 2000));
    const double end =
        sheet.wrapped(x, y + 24, w, note, Type::Body, view.edits().record.note.empty() ? Ink::Muted : Ink::Ink, 4);
    Hot h;
    h.id = QStringLiteral("note");
    h.name = say("Note");
    h.role = Role::Value;
    h.rect = QRectF(x, y + 24, w, end - y - 24);
    h.edit = qs(view.edits().record.note);
    sheet.line({x, end + 1}, {x + w, end + 1}, Ink::Muted, 1);
    sheet.hot(h);
    y = earlierRuns(sheet, view, {x, end + 14, w, size.height() - end - 14});
    if (y + 36 < size.height())
        sheet.button(QRectF(x, y, w, 30), QStringLiteral("session.new"), say("New session"), say("Ctrl+Shift+N"));
    return sheet.take();
}

} // namespace impasto::app
