// SPDX-License-Identifier: GPL-3.0-or-later
// An order by hand: what to set, what to play, and where the log goes.
#include <impasto/base/text.h>

#include "stations/hands.h"
#include "stations/pages.h"
#include "stations/runs/runs.h"

namespace impasto::app {

/// All that wait, the one that the next log answers outlined; gives the list's right end.
double orderList(Sheet& sheet, const View& view, const std::vector<run::Order>& open, const run::Order& current) {
    const double left = 24, width = std::min(220.0, 0.28 * sheet.width()), top = 72, pitch = 30;
    const auto page = pageIn(view, QStringLiteral("orders"), open.size(), sheet.height() - top - 50, pitch);
    double y = top;
    for (std::size_t i = page.first; i < page.last; ++i) {
        const QRectF r(left, y, width, pitch - 4);
        if (open[i].id == current.id) sheet.rect(r, Ink::Paper, Ink::Ink, 1.5);
        sheet.text(left + 8, y + 4, qs(wording::orderName(view.w, view.session, open[i])),
                   open[i].id == current.id ? Type::BodyBold : Type::Body, Ink::Ink, Align::Left, width - 14);
        Hot h;
        h.id = QStringLiteral("order.pick.") + qs(open[i].id.hex());
        h.name = say("Play %1 next").arg(qs(wording::orderName(view.w, view.session, open[i])));
        h.role = Role::Row;
        h.rect = r;
        sheet.hot(h);
        y += pitch;
    }
    drawPager(sheet, left + width, y, page, say("%1 to %2 of %3"));
    sheet.button(QRectF(left, sheet.height() - 40, width, 28), QStringLiteral("order.runs"), say("Show the runs"),
                 say("O"));
    return left + width;
}

constexpr double readOffHeight = 78;

/// Where nothing records: the figures of the game's counter, typed; gives the y below it.
double readOffLine(Sheet& sheet, const View& view, const run::Order& order, double left, double y, double right) {
    const auto& typed = view.state<RunsState>().readOff;
    const double w = sheet.text(left, y, say("Or read it off"), Type::BodyBold);
    sheet.text(left + w + 10, y, say("what the game's counter shows over the route; weighs less than a log"),
               Type::Body, Ink::Muted, Align::Left, right - left - w - 10);
    struct Field {
        const char* id;
        QString name;
        const std::optional<double>& value;
    };
    const std::array<Field, 5> fields{{{"average", say("average fps"), typed.average},
                                       {"least", say("lowest"), typed.least},
                                       {"most", say("highest"), typed.most},
                                       {"low", say("1% low"), typed.low},
                                       {"memory", say("GPU GiB"), typed.memoryGib}}};
    const double button = 92, width = (right - left - button - 12) / static_cast<double>(fields.size());
    double x = left;
    for (const auto& field : fields) {
        const QString value = field.value ? qs(shortestText(*field.value)) : QString();
        const double room = std::min(width - 12, 92.0);
        sheet.text(x, y + 22, field.name, Type::Small, Ink::Muted, Align::Left, width - 8);
        sheet.text(x, y + 38, value.isEmpty() ? QStringLiteral("\u2013") : value, Type::Value,
                   value.isEmpty() ? Ink::Muted : Ink::Ink, Align::Left, room);
        sheet.line({x, y + 59}, {x + room, y + 59}, Ink::Ink, 1.2);
        Hot h;
        h.id = QStringLiteral("off.") + QLatin1String(field.id);
        h.name = say("Read off: %1").arg(field.name);
        h.role = Role::Value;
        h.rect = QRectF(x - 2, y + 36, room + 4, 26);
        h.edit = value;
        sheet.hot(h);
        x += width;
    }
    sheet.button(QRectF(right - button, y + 32, button, 30), QStringLiteral("off.use.") + qs(order.id.hex()),
                 say("Use it"), {}, false, typed.average.has_value());
    return y + readOffHeight - 10;
}

/// What the game's menu has to say, changed values first: one that cannot be set is pressed.
void orderValues(Sheet& sheet, const View& view, const run::Order& order, double left, double right, double y) {
    sheet.text(left, y, say("All values of this run, in the order of the menu"), Type::Heading, Ink::Ink, Align::Left,
               right - left - 190);
    y += 26;
    if (order.purpose == run::Purpose::Cost) {
        sheet.text(left, y - 3, say("press a changed one that cannot be set"), Type::Small, Ink::Muted, Align::Left,
                   right - left);
        y += 18;
    }
    const auto* game = view.session.game();
    if (game == nullptr) return;
    const double width = (right - left) / 2;
    // Changed ones first, then as the game's menu has them.
    std::vector<std::pair<const game::Setting*, QString>> values;
    for (const bool wanted : {true, false})
        for (const auto& setting : game->settings) {
            const auto now = order.variant.values.find(setting.id),
                       before = view.edits().settings.baseline.find(setting.id);
            if (now == order.variant.values.end()) continue;
            const bool changed = before == view.edits().settings.baseline.end() || before->second != now->second;
            if (changed == wanted)
                values.emplace_back(&setting, changed && before != view.edits().settings.baseline.end()
                                                  ? qs(before->second) + QStringLiteral(" → ") + qs(now->second)
                                                  : qs(now->second));
        }
    const auto page = pageOf(view, QStringLiteral("values"), values.size(),
                             2 * static_cast<std::size_t>(std::max(1.0, (sheet.height() - y) / 20)));
    drawPager(sheet, right, y - 26, page, say("%1 to %2 of %3"));
    for (std::size_t i = page.first; i < page.last; ++i) {
        const std::size_t place = i - page.first;
        const double x = left + static_cast<double>(place % 2) * width, line = y + 20 * static_cast<double>(place / 2);
        const bool changed = values[i].second.contains(QStringLiteral("→"));
        const QString label = qs(values[i].first->label);
        sheet.row(x, line, width - 24, label, values[i].second, changed ? Type::BodyBold : Type::Body);
        if (!changed || order.purpose != run::Purpose::Cost) continue;
        const QString level = qs(order.variant.values.at(values[i].first->id));
        Hot h;
        h.id = QStringLiteral("cannot.") + qs(order.id.hex()) + QLatin1Char('.') + qs(values[i].first->id);
        h.name = say("%1: %2 cannot be set").arg(label, level);
        h.hint = say("Another run is asked for, and no choice has this level; its levels in Layers take it back");
        h.rect = QRectF(x - 4, line - 1, width - 16, 20);
        sheet.hot(h);
    }
}

Drawing layoutOrder(const View& view, QSizeF size) {
    Sheet sheet(size);
    const auto open = path::openOrders(view.session);
    const auto order = *orderInHand(view);
    sheet.heading(24, 12, say("Play this run"),
                  open.size() == 1 ? say("one order waits; the log you drop answers it")
                                   : say("%1 orders wait; the log you drop answers the outlined one").arg(open.size()));
    const double left = orderList(sheet, view, open, order) + 18, right = size.width() - 16;
    const auto write = [&](Sheet& on) {
        on.text(left + 18, 84, qs(wording::purpose(view.w, view.session, order)), Type::Game, Ink::Ink, Align::Left,
                right - left - 36);
        double at = 116;
        int number = 1;
        for (const auto& step : wording::orderSteps(view.w, view.session, order)) {
            on.text(left + 18, at, QString::number(number++), Type::Figure, Ink::Muted);
            at = on.wrapped(left + 42, at, right - left - 60, qs(step), Type::Body, Ink::Ink, 2) + 6;
        }
        return at;
    };
    Sheet measured(size);
    const double buttons = write(measured) + 4;
    sheet.rect(QRectF(left, 72, right - left, buttons + 42 - 72 + readOffHeight), Ink::Paper, Ink::Ink, 1.5);
    write(sheet);
    const double quarter = (right - left - 63) / 4;
    const auto button = [&](int place, const QString& id, const QString& label, const QString& note = {}) {
        sheet.button(QRectF(left + 18 + place * (quarter + 9), buttons, quarter, 30), id, label, note);
    };
    button(0, QStringLiteral("into.game"), say("Set it"));
    button(1, QStringLiteral("order.log"), say("Choose the log"), quarter > 150 ? say("Ctrl+O") : QString());
    button(2, QStringLiteral("order.watch"), say("Watch a folder"));
    button(3, QStringLiteral("order.skip.") + qs(order.id.hex()),
           order.purpose == run::Purpose::Cost ? say("Cannot set this") : say("Skip"));
    const double below = readOffLine(sheet, view, order, left + 18, buttons + 52, right - 18);
    const double y = below + 16;
    if (!order.variant.values.empty() && y + 60 <= size.height()) orderValues(sheet, view, order, left, right, y);
    return sheet.take();
}

} // namespace impasto::app
