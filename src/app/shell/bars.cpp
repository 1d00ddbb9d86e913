// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/bars.h"

#include "stations/station.h"

#include <impasto/base/text.h>

namespace impasto::app {
namespace {

QString actionNote(const View& view) {
    if (view.live.active) return say("recording");
    if (view.computing) return {};
    if (view.step.action == path::Action::Begin) return say("about 8 min · Space");
    if (view.step.action == path::Action::Done) return {};
    if (view.step.minutes > 0) return say("%1 · Space").arg(qs(wording::minutes(view.w, view.step.minutes)));
    return say("Space");
}

} // namespace

Drawing layoutBriefBar(const View& view, QSizeF size) {
    Sheet sheet(size);
    sheet.rect(QRectF(QPointF(0, 0), size), Ink::Paper);
    sheet.line({0, size.height() - 0.6}, {size.width(), size.height() - 0.6}, Ink::Line, 1.2);
    const double primaryWidth = std::min(302.0, 0.26 * size.width()), primaryLeft = size.width() - 20 - primaryWidth;
    const double partWidth = std::max(96.0, std::min(122.0, (primaryLeft - 350) / 4)),
                 partsLeft = primaryLeft - 4 * partWidth - 14;
    const QString name = qs(view.session.name());
    sheet.text(20, 8, name.isEmpty() ? say("No game yet") : name, Type::Game, Ink::Ink, Align::Left, partsLeft - 40);
    QString where = say("drop a frame log here, or start with one of the three ways below");
    if (view.session.machine() != nullptr && view.session.route() != nullptr)
        where = say("on %1 · route \u201c%2\u201d, %3 s")
                    .arg(qs(view.session.machine()->name), qs(view.edits().subject.route))
                    .arg(std::lround(view.session.route()->seconds()));
    else if (view.session.machine() != nullptr)
        where = say("on %1").arg(qs(view.session.machine()->name));
    else if (!view.session.facts->runs.empty() && view.session.machine() == nullptr)
        where = view.session.facts->runs.size() == 1 ? say("one frame log")
                                                     : say("%1 frame logs").arg(view.session.facts->runs.size());
    sheet.text(20, 31, where, Type::Body, Ink::Muted, Align::Left, partsLeft - 40);
    const auto& brief = view.edits().goal.brief;
    const auto panel = view.session.panel();
    struct Part {
        const char *id, *title;
        QString value, note;
    };
    const QString window = !panel            ? say("refresh rates")
                           : panel->variable ? say("%1\u2013%2 Hz variable")
                                                   .arg(qs(shortestText(panel->variable->lowest.value())),
                                                        qs(shortestText(panel->variable->highest.value())))
                                             : say("%1 Hz fixed").arg(qs(shortestText(panel->refresh.value())));
    const Part parts[] = {
        {"bar.target", "target", brief ? say("%1 fps").arg(qs(wording::wishFps(view.target()))) : say("not set"),
         !brief         ? say("the rate you want")
         : brief->shown ? say("rendered; %1 shown").arg(qs(wording::wishFps(*brief->shown)))
                        : say("%1 ms").arg(QString::number(budgetOf(view.target()).value(), 'f', 2))},
        {"bar.floor", "1% low at least",
         brief && brief->floor() ? say("%1 fps").arg(qs(wording::wishFps(*brief->floor()))) : say("not set"),
         brief && brief->floor() ? qs(wording::lowRuleShort(view.w, brief->lowRule)) : say("lowest acceptable")},
        {"bar.style", "style", brief ? qs(wording::style(view.w, brief->style)) : say("not set"),
         say("what matters most")},
        {"bar.panel", "panel", panel ? qs(wording::resolution(panel->native)) : say("not set"), window}};
    for (int i = 0; i < 4; ++i) {
        const double x = partsLeft + i * partWidth;
        sheet.text(x, 7, say(parts[i].title), Type::Small, Ink::Muted, Align::Left, partWidth - 8);
        sheet.text(x, 21, parts[i].value, Type::Value, Ink::Ink, Align::Left, partWidth - 8);
        sheet.text(x, 40, parts[i].note, Type::Small, Ink::Muted, Align::Left, partWidth - 8);
        Hot h;
        h.id = QLatin1String(parts[i].id);
        h.name = say("%1: %2").arg(say(parts[i].title), parts[i].value);
        h.rect = QRectF(x - 8, 5, partWidth - 4, 50);
        sheet.hot(h);
    }
    sheet.button(QRectF(primaryLeft, 11, primaryWidth, 38), QStringLiteral("primary"), nextAction(view),
                 actionNote(view), true, !view.live.active);
    return sheet.take();
}

Drawing layoutPath(const View& view, QSizeF size) {
    Sheet sheet(size);
    sheet.line({size.width() - 0.6, 0}, {size.width() - 0.6, size.height()}, Ink::Line, 1.2);
    const bool low = size.height() < 560;
    const double pitch = low ? 43 : 56, box = low ? 40 : 50;
    int walked = -1;
    const auto& all = stations();
    const int stationCount = static_cast<int>(all.size());
    for (int i = 0; i < stationCount; ++i) {
        if (all[static_cast<std::size_t>(i)].state(view).reached) walked = i;
    }
    const double first = 4 + box / 2, last = first + pitch * (stationCount - 1);
    for (const double end : {first - 8, last + 8}) sheet.circle({18, end}, 6.5, Ink::StrokeOff);
    sheet.line({18, first - 8}, {18, last + 8}, Ink::StrokeOff, 13);
    if (walked >= 0) {
        sheet.slab(QRectF(11.5, first - 8, 13, pitch * walked + 16), Ink::Stroke, 4);
        for (const double end : {first - 8, first + pitch * walked + 8}) sheet.circle({18, end}, 6.5, Ink::Stroke);
    }
    for (int i = 0; i < stationCount; ++i) {
        const auto& station = all[static_cast<std::size_t>(i)];
        const bool now = station.id == view.station;
        const QRectF r(32, 4 + pitch * i, size.width() - 36, box);
        if (now) sheet.rect(r, Ink::Paper, Ink::Ink, 1.5);
        sheet.text(40, r.top() + (low ? 1 : 5), say(station.name), now ? Type::StationNow : Type::Station, Ink::Ink,
                   Align::Left, size.width() - 66);
        sheet.text(size.width() - 10, r.top() + (low ? 3 : 7), QString::number(i + 1), Type::Small, Ink::Muted,
                   Align::Right);
        const bool stale = station.stale != nullptr && !station.stale(view).isEmpty();
        sheet.text(40, r.top() + (low ? 20 : 26), stationState(view, station), Type::Small,
                   stale ? Ink::Over : Ink::Muted, Align::Left, size.width() - 48);
        Hot h;
        h.id = QStringLiteral("station.") + qs(std::string(station.id.key));
        h.name = say("%1: %2").arg(say(station.name), stationState(view, station));
        h.hint = QStringLiteral("Ctrl+%1").arg(i + 1);
        h.rect = r;
        sheet.hot(h);
    }
    const double y = pitch * stationCount + 14, bottom = size.height() - (view.narrow ? 26 : 2);
    if (bottom - y < 16) return sheet.take();
    sheet.line({16, y - 4}, {size.width() - 16, y - 4}, Ink::Line, 1);
    sheet.wrapped(16, y, size.width() - 28, nextReason(view), Type::Note, Ink::Muted,
                  std::max(1, static_cast<int>((bottom - y) / 16)));
    if (view.narrow) // what stands beside the easel has no place of its own
        sheet.button(QRectF(16, bottom + 1, size.width() - 32, 22), QStringLiteral("column.open"), say("Details"),
                     say("F1"));
    return sheet.take();
}

Drawing layoutStanding(const View& view, QSizeF size) {
    Sheet sheet(size);
    sheet.rect(QRectF(QPointF(0, 0), size), Ink::Ink);
    double right = size.width() - 12;
    const auto button = [&](const QString& id, const QString& label) {
        const double width = textWidth(label, Type::BodyBold) + 24;
        right -= width;
        sheet.button(QRectF(right, 2, width, 24), id, label);
        right -= 8;
    };
    button(QStringLiteral("save.elsewhere"), say("Save elsewhere …"));
    if (view.savingFails) button(QStringLiteral("save.retry"), say("Try again"));
    sheet.text(20, 4, view.notSaved, Type::BodyBold, Ink::Ground, Align::Left, right - 28);
    return sheet.take();
}

Drawing layoutMessage(const View& view, QSizeF size) {
    Sheet sheet(size);
    sheet.rect(QRectF(QPointF(0, 0), size), Ink::Paper);
    sheet.line({0, 0.6}, {size.width(), 0.6}, Ink::Over, 1.2);
    sheet.wrapped(16, 6, size.width() - 160, view.message, Type::Body, Ink::Ink, 2);
    sheet.button(QRectF(size.width() - 116, 7, 100, 28), QStringLiteral("message.close"), say("Dismiss"), {});
    return sheet.take();
}

} // namespace impasto::app
